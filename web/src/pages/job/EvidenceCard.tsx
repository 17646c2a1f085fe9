import { clock, shortDay } from '@prandel/presentation';
import { Link2, Link2Off } from 'lucide-react';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, type Schemas } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Input, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';

const LABELS: Record<string, string> = {
  pull: 'pull',
  'set-aside': 'set aside',
  override: 'override',
  fitting: 'fitting',
  round: 'round',
  reading: 'reading',
  alarm: 'stop',
  note: 'note',
};

/** What was a tap in the bay wants words at the desk. */
const WANTS_WORDS = ['override', 'set-aside', 'alarm', 'note'];
const wantsWords = ({ kind }: Schemas['EvidenceLogRow']) => WANTS_WORDS.includes(kind);

/** The evidence log as a time line, newest first: append-only, each row carrying the hash of the one before. */
export function EvidenceCard({ log, job, zone }: { log: Schemas['EvidenceLog']; job: string; zone: string | null }) {
  const [readings, setReadings] = useState(false);
  const [about, setAbout] = useState<number | null>(null);
  const add = useJobChange<{ about: number | null; words: string }>(job, (note) =>
    ask('post', '/api/jobs/{id}/notes', { params: { path: { id: job } }, body: note }),
  );
  const rows = log.rows.filter((row) => readings || row.kind !== 'reading').reverse();
  const day = (at: string | undefined) => (at ? shortDay(at, zone) : '');
  return (
    <section className="sheet card" aria-label="Evidence">
      <div className="flex items-center gap-2">
        <h3 className="grow">What was done</h3>
        <label className="flex items-center gap-1.5 text-[12px]">
          <input type="checkbox" checked={readings} onChange={(e) => setReadings(e.target.checked)} />
          with readings
        </label>
      </div>
      <p className={`mt-0.5 flex items-center gap-1.5 text-[12px] ${log.broken ? 'text-act' : 'text-ink-2'}`}>
        {log.broken ? <Link2Off size={13} aria-hidden /> : <Link2 size={13} aria-hidden />}
        {log.broken ? log.broken.why : `Evidence log, ${log.rows.length} rows; the chain of hashes holds.`}
      </p>
      <ol className="line mt-1 max-h-[320px] overflow-auto text-[12px]" tabIndex={0} aria-label="What was done">
        {rows.map((row, i) => (
          <li key={row.n} data-kind={row.kind} title={`Row ${row.n}, ${row.hash.slice(0, 16)}…`}>
            {day(row.at) !== day(rows[i - 1]?.at) && <b className="block">{day(row.at)}</b>}
            <span className="text-ink-3 num">{clock(row.at, zone)}</span>{' '}
            <span className="text-ink-3">
              {row.person}
              {LABELS[row.kind] ? `, ${LABELS[row.kind]}` : ''}:
            </span>{' '}
            {row.what}{' '}
            {wantsWords(row) && about !== row.n && (
              <For role="technician">
                <button className="underline" aria-label={`Write about row ${row.n}`} onClick={() => setAbout(row.n)}>
                  write
                </button>
              </For>
            )}
            {about === row.n && (
              <Words
                label={`Words about row ${row.n}`}
                onWords={(words) => add.mutate({ about: row.n, words }, { onSuccess: () => setAbout(null) })}
              />
            )}
          </li>
        ))}
      </ol>
      <For role="technician">
        <Words label="Add a note" onWords={(words) => add.mutate({ about: null, words })} />
      </For>
      {add.error && <Notice kind="bad">{add.error.message}</Notice>}
    </section>
  );
}

function Words({ label, onWords }: { label: string; onWords: (words: string) => void }) {
  const { register, handleSubmit, reset, watch } = useForm({ defaultValues: { words: '' } });
  const send = handleSubmit(({ words }) => {
    if (!words.trim()) return;
    onWords(words.trim());
    reset();
  });
  return (
    <form className="mt-1.5 flex gap-1.5" onSubmit={(e) => void send(e)}>
      <Input aria-label={label} placeholder={label} maxLength={400} {...register('words')} />
      <button className="btn sm" disabled={!watch('words').trim()}>
        Add
      </button>
    </form>
  );
}
