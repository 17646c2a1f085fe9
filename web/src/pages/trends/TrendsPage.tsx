import { VERDICTS, type Verdict } from '@prandel/core';
import { gateName, plain, signed, VERDICT_STYLES } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { ask, type Schemas } from '../../api/client.ts';
import { takeCsv } from '../../parts/asFile.ts';
import { Notice } from '../../parts/Field.tsx';

type Trends = Schemas['TrendsAnswer'];

/** What a lead looks at: every number opens the list behind it, every table goes out as CSV. */
export function TrendsPage() {
  const trends = useQuery({ queryKey: ['trends'], queryFn: () => ask('get', '/api/trends') });
  if (trends.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{trends.error.message}</Notice>
      </div>
    );
  if (!trends.data) return <div className="progress" role="progressbar" aria-label="Loading the trends" />;
  const { months, setAside, reasons, minutes, holds, overrides, promises } = trends.data;
  if (months.length === 0)
    return (
      <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
        <h1>Trends</h1>
        <p className="sheet p-8 text-center text-[15px]">
          Nothing to show yet: from the first finished job on, months gather here.
        </p>
      </div>
    );
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex items-baseline gap-3">
        <h1>Trends</h1>
        <span className="text-ink-2">How the shop’s days go. Every number opens the list behind it.</span>
      </div>
      <Card
        title="Jobs by verdict"
        name="jobs-by-verdict"
        rows={months.map((m) => ({ month: m.month, jobs: m.jobs, ...countsOf(m) }))}
      >
        <VerdictTable months={months} />
      </Card>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Card title="Pulls set aside" name="set-aside" rows={setAside.map((m) => ({ ...m, share: m.aside / m.pulls }))}>
          <Bars
            rows={setAside.map((m) => ({
              month: m.month,
              value: (100 * m.aside) / m.pulls,
              words: `${m.aside} of ${m.pulls} pulls`,
            }))}
            unit="%"
          />
          <ul className="mt-2 grid gap-1" aria-label="Reasons">
            {reasons.map((r) => (
              <li key={r.reason}>
                <details>
                  <summary>
                    <b>{r.pulls}</b> {r.reason}
                  </summary>
                  <Behind rows={r.behind.map((b) => ({ ...b, words: `pull ${b.pull}` }))} />
                </details>
              </li>
            ))}
            {reasons.length === 0 && <li className="text-ink-2">No pull was set aside.</li>}
          </ul>
        </Card>
        <Card title="Minutes per counted pull" name="minutes-per-pull" rows={minutes}>
          <p className="text-ink-2">
            From the first to the last pull of a day, fitting included; the median of a month.
          </p>
          <Bars rows={minutes.map((m) => ({ month: m.month, value: m.minutes, words: `${m.jobs} days` }))} unit="min" />
        </Card>
        <Card
          title="Time held by a gate"
          name="held-by-gate"
          rows={holds.flatMap(({ gate, months: own }) => own.map((m) => ({ gate: gateName(gate), ...m })))}
        >
          <HoldTimes holds={holds} />
        </Card>
        <Card
          title="Gates overridden"
          name="overrides"
          rows={overrides.map(({ person, overrides: n }) => ({ person, overrides: n }))}
        >
          <ul className="grid gap-1" aria-label="Overrides">
            {overrides.map((o) => (
              <li key={o.person}>
                <details>
                  <summary>
                    <b>{o.overrides}</b> by {o.person}
                  </summary>
                  <Behind rows={o.behind.map((b) => ({ ...b, words: `${b.at.slice(0, 10)}: ${b.what}` }))} />
                </details>
              </li>
            ))}
            {overrides.length === 0 && <li className="text-ink-2">Nobody overrode a gate.</li>}
          </ul>
        </Card>
        <Card title="Promised against found" name="promised-against-found" rows={promises}>
          {promises.length === 0 ? (
            <p className="text-ink-2">
              Write what a maker promises into a part’s record; it is then held against its shelf.
            </p>
          ) : (
            <table className="table">
              <thead>
                <tr>
                  <th>Part</th>
                  <th className="r">Promised, %</th>
                  <th className="r">Found, %</th>
                  <th className="r">Cars</th>
                </tr>
              </thead>
              <tbody>
                {promises.map((p) => (
                  <tr key={p.id}>
                    <td>
                      <Link className="underline-offset-2 hover:underline" to={`/shelf/${p.id}`}>
                        {p.name}
                      </Link>
                    </td>
                    <td className="r">{signed(p.promised)}</td>
                    <td className="r whitespace-nowrap">
                      <b>{signed(p.found)}</b>
                      {p.low !== null && p.high !== null && (
                        <span className="text-ink-2">
                          {' '}
                          {signed(p.low)} to {signed(p.high)}
                        </span>
                      )}
                    </td>
                    <td className="r">{p.cars}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Card>
      </div>
    </div>
  );
}

function Card({
  title,
  name,
  rows,
  children,
}: {
  title: string;
  name: string;
  rows: readonly Readonly<Record<string, unknown>>[];
  children: ReactNode;
}) {
  return (
    <section className="sheet card grid gap-1.5" aria-label={title}>
      <div className="flex items-center gap-3">
        <h2 className="grow">{title}</h2>
        {rows.length > 0 && (
          <button className="btn sm" onClick={() => void takeCsv(rows, name)}>
            <Download size={13} aria-hidden />
            CSV
          </button>
        )}
      </div>
      {children}
    </section>
  );
}

const countsOf = ({ verdicts }: Trends['months'][number]) =>
  Object.fromEntries(VERDICTS.map((v) => [v, verdicts.find((own) => own.verdict === v)?.jobs ?? 0])) as Record<
    Verdict,
    number
  >;

/** The last day of a month: "2026-05" to "2026-05-31". */
function monthEnd(month: string): string {
  const [year, own] = month.split('-').map(Number) as [number, number];
  return `${month}-${String(new Date(Date.UTC(year, own, 0)).getUTCDate()).padStart(2, '0')}`;
}

function VerdictTable({ months }: { months: Trends['months'] }) {
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Jobs by verdict">
      <table className="table">
        <thead>
          <tr>
            <th>Month</th>
            <th className="r">Jobs</th>
            {VERDICTS.map((v) => (
              <th key={v} className="r">
                {VERDICT_STYLES[v].short}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {[...months].reverse().map((m) => {
            const counts = countsOf(m);
            const days = `from=${m.month}-01&until=${monthEnd(m.month)}`;
            return (
              <tr key={m.month}>
                <td className="font-[620]">{m.month}</td>
                <td className="r">
                  <Link className="underline" to={`/jobs?${days}`}>
                    {m.jobs}
                  </Link>
                </td>
                {VERDICTS.map((v) => (
                  <td key={v} className="r">
                    {counts[v] > 0 ? (
                      <Link
                        className="underline"
                        style={{ color: VERDICT_STYLES[v].colour }}
                        to={`/jobs?${days}&verdict=${v}`}
                      >
                        {counts[v]}
                      </Link>
                    ) : (
                      <span className="text-ink-3">–</span>
                    )}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

/** Bars of months; each opens the jobs of its month. */
function Bars({ rows, unit }: { rows: readonly { month: string; value: number; words: string }[]; unit: string }) {
  const most = Math.max(...rows.map((r) => r.value), 1e-9);
  return (
    <ul className="grid gap-0.5" aria-label={`By month, ${unit}`}>
      {rows.slice(-14).map((r) => (
        <li key={r.month} className="flex items-center gap-2 text-[12.5px]">
          <Link className="w-[58px] underline" to={`/jobs?from=${r.month}-01&until=${monthEnd(r.month)}`}>
            {r.month}
          </Link>
          <svg width="200" height="12" aria-hidden>
            <rect width={(200 * r.value) / most} height="12" fill="var(--ink-2)" rx="1.5" />
          </svg>
          <span className="num text-[13px]">
            {plain(r.value, 1)} {unit}
          </span>
          <span className="text-ink-3">{r.words}</span>
        </li>
      ))}
    </ul>
  );
}

/** How long each gate kept pulls waiting, with those that waited longest. */
function HoldTimes({ holds }: { holds: Trends['holds'] }) {
  const most = Math.max(...holds.map((h) => h.seconds), 1e-9);
  if (holds.length === 0)
    return <p className="text-ink-2">No pull was kept waiting yet. Pulls that came in files have no such time.</p>;
  return (
    <>
      <p className="text-ink-2">From the pull before, or the round’s start, to the pull. Two gates may hold at once.</p>
      <ul className="grid gap-1" aria-label="Gates">
        {holds.map(({ gate, seconds, pulls, behind }) => (
          <li key={gate}>
            <details>
              <summary>
                <span className="inline-block w-[190px]">{gateName(gate)}</span>
                <svg className="inline" width="120" height="12" aria-hidden>
                  <rect width={(120 * seconds) / most} height="12" fill="var(--ink-2)" rx="1.5" />
                </svg>{' '}
                <b className="num">{waited(seconds)}</b> <span className="text-ink-2">in {pulls} pulls</span>
              </summary>
              <Behind rows={behind.map((b) => ({ ...b, words: `pull ${b.pull} waited ${waited(b.seconds)}` }))} />
            </details>
          </li>
        ))}
      </ul>
    </>
  );
}

function waited(seconds: number): string {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 120 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

function Behind({ rows }: { rows: readonly { job: string; number: string; words: string }[] }) {
  return (
    <ul className="ml-4 grid gap-0.5 text-[12.5px]">
      {rows.map((row, i) => (
        <li key={i}>
          <Link className="underline" to={`/jobs/${row.job}`}>
            {row.number}
          </Link>{' '}
          {row.words}
        </li>
      ))}
    </ul>
  );
}
