import {
  costGapWords,
  differenceInterval,
  ledgerSvg,
  money as moneyWords,
  plain,
  withUnit,
  type ShownUnits,
} from '@prandel/presentation';
import { changesText, type Difference, type Job, type Ledger, type StepKind } from '@prandel/core';
import { Plus } from 'lucide-react';
import { useMemo, useState } from 'react';
import type { StoredJob } from '../../api/client.ts';
import { For } from '../../parts/May.tsx';
import { Badge } from '../../parts/marks.tsx';
import { AddSetup } from './AddSetup.tsx';
import { TakeAway } from '../../parts/TakeAway.tsx';

const KINDS: Record<StepKind, string> = { part: 'Part', retune: 'Retune', cure: 'Cure' };

/** A build in steps: what each added, and what they bring together. */
export function LedgerTab({
  stored: { rowId },
  job,
  ledger,
  units,
}: {
  stored: StoredJob;
  job: Job;
  ledger: Ledger | null;
  units: ShownUnits;
}) {
  const [adding, setAdding] = useState(false);
  const svg = useMemo(
    () => (ledger ? ledgerSvg(ledger, job.setups, units, { width: 560, height: 280, fontSize: 11 }) : ''),
    [ledger, job.setups, units],
  );
  const add = (
    <For role="technician">
      {adding ? (
        <AddSetup rowId={rowId} job={job} onDone={() => setAdding(false)} />
      ) : (
        <button type="button" className="btn justify-self-start" onClick={() => setAdding(true)}>
          <Plus size={14} aria-hidden /> Add a step
        </button>
      )}
    </For>
  );
  if (!ledger)
    return (
      <div className="grid gap-2.5">
        <div className="sheet p-6 text-[14px]">
          No build in steps: every setup is made from {job.question.baselineSetup}. A step is a setup that is made from
          another one; its gain is held against that one, and the sum against {job.question.baselineSetup}.
        </div>
        {add}
      </div>
    );
  const figure = (d: Difference | null) => {
    if (!d) return <span className="text-ink-3">not run yet</span>;
    const read = differenceInterval(d, units);
    return (
      <>
        <b className="num text-[16px]">{withUnit(read.estimate, read.unit)}</b>
        <span className="text-ink-2 block text-[11.5px] leading-tight">
          {read.low} to {read.high}
        </span>
      </>
    );
  };
  const rows = ledger.steps.map((s) => ({
    ...{ setup: s.setup.id, 'made from': s.parent, kind: s.kind, changes: changesText(s.changes) },
    ...{ gain: s.gain?.estimate ?? '', 'gain low': s.gain?.low ?? '', 'gain high': s.gain?.high ?? '' },
    ...{ total: s.total?.estimate ?? '', 'total low': s.total?.low ?? '', 'total high': s.total?.high ?? '' },
    ...{
      unit: s.total?.unit ?? '',
      cost: s.cost?.total ?? '',
      hours: s.cost?.hours ?? '',
      'cost to here': s.costToHere ?? '',
    },
  }));
  return (
    <div className="grid gap-2.5">
      <section className="sheet card grid gap-3 xl:grid-cols-[minmax(0,1fr)_580px]" aria-label="Steps of the build">
        <div className="min-w-0">
          <div className="flex flex-wrap items-center gap-2">
            <h3 className="grow">What each step brought</h3>
            <TakeAway name={`${job.id} steps`} rows={rows} svg={svg} />
          </div>
          <table className="table mt-1">
            <thead>
              <tr className="text-ink-2 text-left text-[11.5px]">
                <th className="font-[450]">Step</th>
                <th className="r font-[450]">It added</th>
                <th className="r font-[450]">Running total</th>
                <th className="r font-[450]">Cost, to here</th>
                <th className="r font-[450]">Hours, to here</th>
              </tr>
            </thead>
            <tbody>
              {ledger.steps.map((s) => (
                <tr key={s.setup.id} data-step={s.setup.id}>
                  <td>
                    <span className="flex items-start gap-2">
                      <Node kind={s.kind} />
                      <Badge id={s.setup.id} setups={job.setups} />
                      <span>
                        <span className="block text-[13.5px] leading-tight font-[620]">{s.setup.label}</span>
                        <span className="text-ink-2 block text-[11.5px] leading-snug">
                          {KINDS[s.kind]} on top of {s.parent}
                          {changesText(s.changes) ? `: ${changesText(s.changes)}` : ''}
                          {s.setup.closedCourseOnly ? '. Closed course only' : ''}
                          {s.setup.addedAt ? '. Added on the day' : ''}
                          {s.setup.permanent ? '. Cannot come off again' : ''}
                          {s.anotherDay ? '. Run on another day: both days’ anchors hold it' : ''}
                        </span>
                        {s.bundle && (
                          <span className="text-ink-2 block text-[11.5px] leading-snug">
                            {s.bundle.of} changes at once: their gain cannot be divided
                            {s.bundle.measuredElsewhere.length > 0
                              ? `, except for what was run alone: ${s.bundle.measuredElsewhere.join(', ')}`
                              : ''}
                            .
                          </span>
                        )}
                        {s.kind === 'cure' && (
                          <span className="text-ink-2 block text-[11.5px] leading-snug">
                            It put the car right; it is no claim of a part.
                          </span>
                        )}
                      </span>
                    </span>
                  </td>
                  <td className="r whitespace-nowrap">{figure(s.gain)}</td>
                  <td className="r whitespace-nowrap">{figure(s.total)}</td>
                  <td className="r whitespace-nowrap">
                    {s.cost?.total != null ? (
                      moneyWords(s.cost.total, s.cost.currency)
                    ) : s.cost ? (
                      <span className="text-ink-2 block max-w-[110px] text-[11px] whitespace-normal">
                        {costGapWords(s.cost)}
                      </span>
                    ) : (
                      '–'
                    )}
                    <span className="text-ink-2 block text-[11.5px]">
                      {moneyWords(s.costToHere, s.cost?.currency ?? null)}
                    </span>
                  </td>
                  <td className="r whitespace-nowrap">
                    {s.cost?.hours != null ? plain(s.cost.hours, 2) : '–'}
                    <span className="text-ink-2 block text-[11.5px]">{plain(s.hoursToHere, 2)}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="text-ink-3 mt-1.5 text-[11.5px]">
            Every total is fitted to all pulls of the job at once, not summed: a row may not add up to the last digit.
          </p>
        </div>
        <div dangerouslySetInnerHTML={{ __html: svg }} />
      </section>
      {add}
    </div>
  );
}

/** A part is a dot, a retune a square, a cure hollow. */
function Node({ kind }: { kind: StepKind }) {
  return (
    <svg width="14" height="18" viewBox="0 0 14 18" className="shrink-0" aria-hidden>
      <line x1="7" x2="7" y1="0" y2="18" stroke="var(--rule-strong)" />
      {kind === 'retune' ? (
        <rect x="2.5" y="4.5" width="9" height="9" fill="var(--ink-2)" />
      ) : (
        <circle
          cx="7"
          cy="9"
          r="4.6"
          fill={kind === 'cure' ? 'var(--sheet)' : 'var(--ink-2)'}
          stroke="var(--ink-2)"
          strokeWidth="1.6"
        />
      )}
    </svg>
  );
}
