import { interval, measureWords, plain, shown, signed, type ShownUnits } from '@prandel/presentation';
import {
  fallOffTogether,
  featuresOf,
  fromSi,
  GRID_STEP_RPM,
  onlyReached,
  peakShift,
  torqueCurve,
  type Job,
  type Judgement,
} from '@prandel/core';
import { useMemo, useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';
import { Badge } from '../../parts/marks.tsx';
import { ReferencesCard } from './ReferencesCard.tsx';
import { TakeAway } from '../../parts/TakeAway.tsx';
import { useWindowGains } from './useShootout.ts';

/** Facts of the mean curves; no verdict word unless a band verifies it. */
export function CurvesTab({
  stored,
  job,
  judgement,
  units,
  measure,
}: {
  stored: StoredJob;
  job: Job;
  judgement: Judgement;
  units: ShownUnits;
  measure: string;
}) {
  const { baselineSetup, candidateSetups } = job.question;
  const curves = useMemo(
    () =>
      [baselineSetup, ...candidateSetups].flatMap((id) => {
        const own = judgement.setups.find((s) => s.setupId === id);
        return own && own.power.values.length > 4
          ? [{ setupId: id, power: own.power, features: featuresOf(own.power, torqueCurve(own.power)) }]
          : [];
      }),
    [judgement, baselineSetup, candidateSetups],
  );
  const base = curves.find((c) => c.setupId === baselineSetup);
  const together = fallOffTogether(curves.map((c) => c.features.power));
  const only = onlyReached(curves);
  const nm = (v: number) => `${shown(v, units.torque)} ${units.torque}`;
  const rows = curves.map(({ setupId, features: f }) => ({
    ...{ setup: setupId, 'peak W': f.power?.value ?? '', 'peak rpm': f.power?.rpm ?? '' },
    ...{ 'torque N·m': f.torque?.value ?? '', 'torque rpm': f.torque?.rpm ?? '' },
    ...{ 'span from': f.torqueSpan?.[0] ?? '', 'span to': f.torqueSpan?.[1] ?? '', 'ripple %': f.ripplePercent },
    dips: f.dips.map((d) => `${d.atRpm} rpm ${d.percent.toFixed(1)} %`).join('; '),
  }));
  if (curves.length === 0) return <div className="sheet p-6 text-[14px]">No curves yet.</div>;
  return (
    <div className="grid gap-2.5">
      <section className="sheet card" aria-label="Curve facts">
        <div className="flex flex-wrap items-center gap-2">
          <h3 className="grow">What the mean curves are like</h3>
          <TakeAway name={`${job.id} curve facts`} rows={rows} />
        </div>
        <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Table of curve facts">
          <table className="table mt-1">
            <thead>
              <tr className="text-ink-2 text-left text-[11.5px]">
                {[
                  'Setup',
                  'Peak power',
                  'Peak moved, by averaging width',
                  'Peak torque',
                  'Over 95 % of it',
                  'Dips of torque',
                  'Ripple',
                ].map((words) => (
                  <th key={words} className="font-[450]">
                    {words}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {curves.map(({ setupId, power, features: f }) => {
                const shifts = base && setupId !== baselineSetup ? peakShift(base.power, power) : [];
                const moves = shifts.map((s) => s.rpm).filter(Number.isFinite);
                const steady = moves.length > 0 && Math.max(...moves) - Math.min(...moves) <= 150;
                return (
                  <tr key={setupId}>
                    <td className="whitespace-nowrap">
                      <Badge id={setupId} setups={job.setups} /> {job.setups.find((s) => s.id === setupId)?.label}
                    </td>
                    <td className="whitespace-nowrap">
                      {f.power
                        ? `${shown(f.power.value, units.power)} ${units.power} at ${plain(f.power.rpm, 0)}${f.power.reached ? '' : ', not reached'}`
                        : '–'}
                    </td>
                    <td>
                      {shifts.length === 0
                        ? '–'
                        : steady
                          ? `${signed(moves.at(-1), 0)} rpm, with every width`
                          : `${shifts.map((s) => `${signed(s.rpm, 0)} at ${s.widthRpm}`).join(', ')}: it moves with the width`}
                    </td>
                    <td className="whitespace-nowrap">
                      {f.torque ? `${nm(f.torque.value)} at ${plain(f.torque.rpm, 0)}` : '–'}
                    </td>
                    <td className="whitespace-nowrap">
                      {f.torqueSpan ? `${f.torqueSpan[0]}–${f.torqueSpan[1]} rpm` : '–'}
                    </td>
                    <td>
                      {f.dips.length === 0
                        ? 'none of 2 %'
                        : f.dips.map((d) => `${d.atRpm} rpm, ${plain(d.percent, 1)} %`).join('; ')}
                      {base && setupId !== baselineSetup && filled(base.features.dips, f.dips)}
                    </td>
                    <td className="whitespace-nowrap">{plain(f.ripplePercent, 2)} %</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
        {together !== null && (
          <p className="mt-1.5 text-[13px]">
            All setups fall off at about {plain(together, 0)} rpm: the limit lies elsewhere than in these parts.
          </p>
        )}
        {only.map((o) => (
          <p key={`${o.setupId} ${o.fromRpm}`} className="mt-1.5 text-[13px]">
            Only {o.setupId} reaches {o.fromRpm}–{o.toRpm} rpm: {shown(o.mean, units.power)} {units.power} on average
            there.
          </p>
        ))}
        <p className="text-ink-3 mt-1.5 text-[11.5px]">
          Facts, no verdicts: what is verified stands in the bands. The curves are averaged over{' '}
          {job.method.averagingWidthRpm} rpm before anything is read off them.
        </p>
      </section>
      <Trades {...{ stored, job, judgement, units, measure }} />
      <Chosen {...{ stored, job, judgement, units }} />
      <ReferencesCard stored={stored} job={job} />
    </div>
  );
}

/** A dip of the baseline that the candidate does not have any more. */
function filled(before: readonly { atRpm: number }[], after: readonly { atRpm: number }[]): string {
  const gone = before.filter((d) => !after.some((o) => Math.abs(o.atRpm - d.atRpm) <= 200));
  return gone.length > 0 ? ` (fills the one at ${gone.map((d) => d.atRpm).join(', ')})` : '';
}

/** What each part pays below its crossover for what it gains above. */
function Trades({
  stored: { rowId, job: saved },
  job,
  judgement,
  units,
  measure,
}: {
  stored: StoredJob;
  job: Job;
  judgement: Judgement;
  units: ShownUnits;
  measure: string;
}) {
  const trades = useMemo(
    () =>
      judgement.verdicts.flatMap((v) => {
        const at = v.measure === measure ? v.ribbon?.crossovers[0] : undefined;
        if (at === undefined || v.bands.length === 0) return [];
        const turn = Math.round(at / GRID_STEP_RPM) * GRID_STEP_RPM;
        const ends = [v.bands[0]!.fromRpm, v.bands.at(-1)!.toRpm] as const;
        return [{ candidate: v.candidate, turn, below: [ends[0], turn] as const, above: [turn, ends[1]] as const }];
      }),
    [judgement, measure],
  );
  const windows = useMemo(() => trades.flatMap((t) => [t.below, t.above]), [trades]);
  const gains = useWindowGains(rowId, saved, judgement, windows);
  if (trades.length === 0 || !gains) return null;
  const words = (candidate: string, i: number) => {
    const gain = gains[i]?.gains.find((g) => g.candidate === candidate)?.gain;
    if (!gain) return 'not covered by every pull';
    const to = (v: number) => fromSi(v, units.power);
    const read = interval(to(gain.value), to(gain.lowValue), to(gain.highValue));
    return `${read.estimate} ${units.power} (${read.low} to ${read.high})`;
  };
  return (
    <section className="sheet card" aria-label="Pays below, gains above">
      <h3>What is paid below for what is gained above</h3>
      <ul className="mt-1 grid gap-1 text-[13px]">
        {trades.map((t, i) => (
          <li key={t.candidate} className="flex flex-wrap items-baseline gap-x-2">
            <Badge id={t.candidate} setups={job.setups} />
            <span>
              turns at {t.turn} rpm: {words(t.candidate, 2 * i)} on average from {t.below[0]} to {t.turn},{' '}
              {words(t.candidate, 2 * i + 1)} from {t.turn} to {t.above[1]}.
            </span>
          </li>
        ))}
      </ul>
      <p className="text-ink-3 mt-1 text-[11.5px]">
        {measureWords('windowMeanPower').name}, over two windows that nobody declared: also seen, not decided.
      </p>
    </section>
  );
}

/** Values at engine speeds that somebody chose; kept with the job and printed. */
function Chosen({
  stored: { rowId, version },
  job,
  judgement,
  units,
}: {
  stored: StoredJob;
  job: Job;
  judgement: Judgement;
  units: ShownUnits;
}) {
  const kept = job.day?.readAtRpm ?? [];
  const [typed, setTyped] = useState(() => kept.join(' '));
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const asked = typed
    .split(/[\s;,]+/)
    .filter(Boolean)
    .map(Number);
  const wrong = asked.some((n) => !(n >= 500 && n <= 20_000)) || asked.length > 12;
  const at = wrong ? [...kept] : asked;
  const { baselineSetup, candidateSetups } = job.question;
  const setups = [baselineSetup, ...candidateSetups].flatMap((id) => {
    const own = judgement.setups.find((s) => s.setupId === id);
    return own ? [own] : [];
  });
  const rows = setups.flatMap((s) =>
    at.map((rpm) => {
      const i = Math.round(rpm / GRID_STEP_RPM) - s.power.first;
      return { setup: s.setupId, rpm, W: s.power.values[i] ?? '', 'half width W': s.halfWidthW[i] ?? '' };
    }),
  );
  return (
    <section className="sheet card grid gap-2" aria-label="Values at chosen engine speeds">
      <div className="flex flex-wrap items-end gap-2">
        <h3 className="grow">Values at chosen engine speeds</h3>
        <TakeAway name={`${job.id} values`} rows={rows} />
        <For role="technician">
          <Field label="rpm, up to twelve">
            <Input value={typed} placeholder="3000 4500 6000" onChange={(e) => setTyped(e.target.value)} />
          </Field>
          <button
            type="button"
            className="btn"
            disabled={wrong || change.isPending || JSON.stringify(asked) === JSON.stringify(kept)}
            onClick={() => change.mutate({ version, day: { readAtRpm: asked } })}
          >
            Keep and print them
          </button>
        </For>
      </div>
      {wrong && <Notice kind="bad">Engine speeds between 500 and 20000 rpm, apart by spaces, at most twelve.</Notice>}
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
      {at.length > 0 && (
        <table className="table">
          <thead>
            <tr className="text-ink-2 text-left text-[11.5px]">
              <th className="font-[450]">{units.power} at 95 %</th>
              {at.map((rpm) => (
                <th key={rpm} className="r font-[450]">
                  {rpm} rpm
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {setups.map((s) => (
              <tr key={s.setupId}>
                <td>
                  <Badge id={s.setupId} setups={job.setups} /> {job.setups.find((own) => own.id === s.setupId)?.label}
                </td>
                {at.map((rpm) => {
                  const i = Math.round(rpm / GRID_STEP_RPM) - s.power.first;
                  return (
                    <td key={rpm} className="r whitespace-nowrap">
                      <b>{shown(s.power.values[i], units.power)}</b>{' '}
                      <span className="text-ink-2">±{shown(s.halfWidthW[i], units.power)}</span>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
