import { clock, moment, plain, runNotes, schoolsFollowed, spansDays } from '@prandel/presentation';
import type { Fitting } from '@prandel/core';
import type { ReportInput } from './reportInput.ts';
import { Badge } from './reportMarks.tsx';

/** What was done to the car, under which house method, and what about it was out of the ordinary. */
export function HowItRan({ input: { job } }: { input: ReportInput }) {
  const fittings = job.day?.fittings ?? [];
  const followed = schoolsFollowed(job);
  const notes = runNotes(job);
  const several = spansDays(
    [...job.pulls, ...fittings].map((one) => one.startedAt),
    job.timeZone,
  );
  if (fittings.length + followed.length + notes.length === 0) return null;
  return (
    <section>
      <h2>
        How the day was run
        {job.method.name && <span>{job.method.name}</span>}
      </h2>
      {fittings.length > 0 && (
        <table className="fittings">
          <thead>
            <tr>
              <th>Fitted</th>
              <th className="r">Clock</th>
              <th>By</th>
              <th>What was changed</th>
              <th>What else was disturbed</th>
              <th>Parts and adapters</th>
            </tr>
          </thead>
          <tbody>
            {fittings.map((f) => (
              <tr key={f.startedAt}>
                <td>
                  {job.setups.some((s) => s.id === f.setup) ? <Badge setup={f.setup} setups={job.setups} /> : f.setup}
                </td>
                <td className="r">{clockWords(f, job.timeZone, several)}</td>
                <td>{f.who}</td>
                <td>
                  {f.changed || '–'}
                  {f.notes && <div className="mut">{f.notes}</div>}
                  {f.photos && f.photos.length > 0 && (
                    <div className="mut">
                      {f.photos.length === 1 ? 'Photo' : 'Photos'} in the job package:{' '}
                      {f.photos.map((p) => `${p.name} (SHA-256 ${p.sha256.slice(0, 12)}…)`).join(', ')}
                    </div>
                  )}
                </td>
                <td>{f.disturbed || 'nothing noted'}</td>
                <td>
                  {f.parts || '–'}
                  {f.cost !== null && `, ${plain(f.cost, 2)}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {notes.length > 0 && <p className="small notes">{notes.join(' ')}</p>}
      {followed.length > 0 && (
        <dl className="schools">
          {followed.map(({ matter, label, says }) => (
            <div key={matter}>
              <dt>{label}</dt>
              <dd>{says}</dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}

function clockWords({ startedAt, stoppedAt }: Fitting, zone: string | null, several: boolean): string {
  if (!stoppedAt) return `${moment(startedAt, zone, several)}, still running`;
  const minutes = Math.round((Date.parse(stoppedAt) - Date.parse(startedAt)) / 60_000);
  return `${moment(startedAt, zone, several)}–${clock(stoppedAt, zone)}, ${minutes} min`;
}
