import { COMPLAINTS, suspectLabel } from '@prandel/core';
import {
  baselinesSvg,
  COMPLAINT_NAMES,
  heatWords,
  plain,
  shelfUnit,
  shortDay,
  shown,
  signed,
  type ShownUnits,
} from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';
import { ask, type Schemas } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { VerdictTag } from '../../parts/marks.tsx';
import { ShelfTabs } from '../shelf/ShelfTabs.tsx';

type Model = Schemas['ModelAnswer'];

/** A model: what its cars read, how they run, what was tried, what was wrong and what cured it. */
export function ModelPage() {
  const { id = '' } = useParams();
  const units = useUnits();
  const model = useQuery({
    queryKey: ['models', id],
    queryFn: () => ask('get', '/api/models/{id}', { params: { path: { id } } }),
  });
  if (model.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{model.error.message}</Notice>
      </div>
    );
  if (!model.data) return <div className="progress" role="progressbar" aria-label="Loading the model" />;
  const { label, jobs, cars } = model.data;
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <ShelfTabs />
      <div>
        <h1>{label}</h1>
        <p className="text-ink-2 mt-0.5">
          {jobs} {jobs === 1 ? 'job' : 'jobs'} on {cars} {cars === 1 ? 'car' : 'cars'}
        </p>
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Baselines model={model.data} units={units} />
        <Runs model={model.data} units={units} />
      </div>
      <Tried model={model.data} />
      <Complaints model={model.data} />
    </div>
  );
}

function Baselines({ model: { baselines, range, typedW, bay }, units }: { model: Model; units: ShownUnits }) {
  const power = (w: number) => shown(w, units.power, 1);
  const values = [...typedW, ...baselines.map((b) => b.peakW)];
  return (
    <section className="sheet card grid gap-2" aria-label="Baselines">
      <h2>Baselines</h2>
      {range ? (
        <p className="text-[15px]">
          The next one is expected to peak at{' '}
          <b>
            {power(range.lowW)} to {power(range.highW)} {units.power}
          </b>
          <span className="text-ink-2">
            {' '}
            (95 %, from {range.cars} cars{bay && `, ${bay} as it is calibrated now`})
          </span>
        </p>
      ) : (
        <p className="text-ink-2">
          {values.length === 0
            ? 'No baseline of this model was read yet.'
            : `Three cars make a range; ${bay ? `${bay} has not seen as many since its last calibration` : 'there are not enough'}.`}
        </p>
      )}
      {values.length > 0 && (
        <div
          className="[&_svg]:h-auto [&_svg]:w-full"
          dangerouslySetInnerHTML={{ __html: baselinesSvg(values, range, power) }}
        />
      )}
      <ul className="grid gap-x-6 gap-y-0.5 text-[12.5px] sm:grid-cols-2">
        {baselines.slice(0, 12).map((b) => (
          <li key={b.job} className="flex gap-2">
            <Link className="min-w-0 grow truncate underline-offset-2 hover:underline" to={`/jobs/${b.job}`}>
              {b.car}
            </Link>
            <span className="num text-[13px]">{power(b.peakW)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function settleWords({ pulls, jobs }: NonNullable<Model['settle']>): string {
  const suggested = Math.ceil(pulls);
  const from = `in ${jobs} jobs its cars`;
  return suggested === 0
    ? `none suggested: ${from} read from the first pull on as they went on to read`
    : `${suggested} suggested: ${from} read as they went on to read after a median of ${plain(pulls, 1)}`;
}

function Runs({ model: { id, card, heat, settle }, units }: { model: Model; units: ShownUnits }) {
  return (
    <section className="sheet card grid gap-2" aria-label="How it runs on rollers">
      <div className="flex items-baseline gap-3">
        <h2 className="grow">How it runs on rollers</h2>
        <Link className="underline" to="/records/model-card" state={{ open: id }}>
          Its card
        </Link>
      </div>
      <dl className="grid grid-cols-[140px_1fr] gap-y-1">
        <dt className="text-ink-2">Gear</dt>
        <dd>{card.gear ?? 'not written'}</dd>
        <dt className="text-ink-2">Safe</dt>
        <dd>{card.safeRpm ? `${card.safeRpm[0]} to ${card.safeRpm[1]} rpm` : 'not written'}</dd>
        <dt className="text-ink-2">Settle pulls</dt>
        <dd>
          {settle ? settleWords(settle) : 'three jobs tell how many it needs'}
          {card.settlePulls !== null && <span className="text-ink-2">; the card says {card.settlePulls}</span>}
        </dd>
      </dl>
      {card.notes && <p>{card.notes}</p>}
      <p className="text-ink-2">
        {heat ? heatWords(heat, units, 'This model') : 'What a degree costs it is not known yet.'}
      </p>
    </section>
  );
}

function Tried({ model: { parts } }: { model: Model }) {
  return (
    <section className="sheet card" aria-label="Parts tried">
      <h2>Parts tried</h2>
      {parts.length === 0 ? (
        <p className="text-ink-2">None yet.</p>
      ) : (
        <ul className="mt-1 grid gap-x-8 gap-y-1 lg:grid-cols-2">
          {parts.map((p) => (
            <li key={`${p.job} ${p.part} ${p.measure}`} className="flex items-baseline gap-2">
              <span className="w-[104px] flex-none">
                <VerdictTag verdict={p.verdict} measure={p.measure} />
              </span>
              <span className="min-w-0 grow">
                {p.partId ? (
                  <Link className="underline-offset-2 hover:underline" to={`/shelf/${p.partId}`}>
                    {p.part}
                  </Link>
                ) : (
                  p.part
                )}
                {!p.alone && <span className="text-ink-3"> with other changes</span>}
              </span>
              <span className="num text-[13.5px] whitespace-nowrap">
                {p.range
                  ? `${signed(p.range.estimate)}, ${signed(p.range.low)} to ${signed(p.range.high)} ${shelfUnit(p.measure)}`
                  : '–'}
              </span>
              <Link className="text-ink-2 underline" to={`/jobs/${p.job}`}>
                {p.number}
              </Link>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** What was wrong with cars of the model and what cured it, complaint by complaint. */
function Complaints({ model: { searches } }: { model: Model }) {
  return (
    <section className="sheet card grid gap-2" aria-label="Complaints and cures">
      <h2>Complaints and cures</h2>
      {searches.length === 0 && <p className="text-ink-2">No search was opened on this model yet.</p>}
      {COMPLAINTS.map((complaint) => {
        const own = searches.filter((s) => s.complaint === complaint);
        if (own.length === 0) return null;
        return (
          <div key={complaint}>
            <h3>
              {COMPLAINT_NAMES[complaint]} <span className="text-ink-2 font-[450]">{own.length} searches</span>
            </h3>
            <ul className="mt-0.5 grid gap-0.5">
              {own.map((s) => (
                <li key={`${s.job} ${s.at}`}>
                  <Link className="underline" to={`/jobs/${s.job}`}>
                    {s.number}
                  </Link>{' '}
                  <span className="text-ink-3">{shortDay(s.at, null)}</span> {s.words && `${s.words}: `}
                  {s.culprit ? (
                    <b>
                      {suspectLabel(s.culprit.suspect)}
                      {s.culprit.cured ? ', cured' : ', not cured'}
                    </b>
                  ) : (
                    `${s.looks} looked at, nothing found`
                  )}
                </li>
              ))}
            </ul>
          </div>
        );
      })}
    </section>
  );
}
