import { CircleSlash, Link2, Link2Off } from 'lucide-react';

export interface EvidenceLog {
  readonly rows: readonly {
    readonly n: number;
    readonly at: string;
    readonly person: string;
    readonly kind: string;
    readonly what: string;
    readonly hash: string;
  }[];
  readonly broken: { readonly n: number; readonly why: string } | null;
}

const LABELS: Record<string, string> = {
  edit: 'edit',
  pull: 'pull',
  'set-aside': 'set aside',
  override: 'override',
  fitting: 'fitting',
  round: 'round',
  reading: 'reading',
  alarm: 'stop',
};

/** The evidence log as a time line: append-only, each row carrying the hash of the one before. */
export function EvidenceCard({ log }: { log: EvidenceLog }) {
  const time = (at: string) =>
    new Date(at).toLocaleString('en-GB', { day: '2-digit', month: 'short', hour: '2-digit', minute: '2-digit' });
  return (
    <section className="sheet card">
      <h3>What was done</h3>
      <p className={`mt-0.5 flex items-center gap-1.5 text-[12px] ${log.broken ? 'text-act' : 'text-ink-2'}`}>
        {log.broken ? <Link2Off size={13} aria-hidden /> : <Link2 size={13} aria-hidden />}
        {log.broken ? log.broken.why : `Evidence log, ${log.rows.length} rows; the chain of hashes holds.`}
      </p>
      <ol className="mt-1 grid max-h-[300px] gap-1 overflow-auto text-[12px]" tabIndex={0} aria-label="What was done">
        {log.rows.map((row) => (
          <li key={row.n} data-kind={row.kind} title={`Row ${row.n}, ${row.hash.slice(0, 16)}…`}>
            <span className="text-ink-3">
              {time(row.at)}, {row.person}
              {LABELS[row.kind] && row.kind !== 'edit' ? ` (${LABELS[row.kind]})` : ''}:
            </span>{' '}
            {row.kind === 'override' || row.kind === 'alarm' ? (
              <CircleSlash size={11} className="inline" aria-hidden />
            ) : null}{' '}
            {row.what}
          </li>
        ))}
      </ol>
    </section>
  );
}
