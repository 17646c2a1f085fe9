import { memo } from 'react';
import {
  gainInterval,
  nextStep,
  readFrom,
  plain,
  resultSentence,
  returnCheckWords,
  seesFromWords,
  shortGain,
  shown,
  signed,
  sureWords,
  temperatureStep,
  unitOf,
  verifiedRange,
  VERDICT_STYLES,
  interval,
  type ShownUnits,
  conditionWords,
  verdictReasonWords,
  differenceIn,
  measureWords,
  verdictLook,
} from '@prandel/presentation';
import {
  factsNamed,
  fromSi,
  type CandidateVerdict,
  type ConditionRow,
  type Job,
  type Judgement,
  CONDITION_LABELS,
  STATE_LABELS,
} from '@prandel/core';
import { Badge, VerdictTag } from '../../parts/marks.tsx';

interface Props {
  readonly job: Job;
  readonly v: CandidateVerdict;
  readonly units: ShownUnits;
  readonly judgement: Judgement;
}

/** The verdict, its interval, its reason, and what would settle it. */
export const VerdictCard = memo(function VerdictCard({ job, v, units, judgement }: Props) {
  const look = verdictLook(v.verdict, v.measure);
  const g = v.gain && gainInterval(v.gain, units);
  const struck = v.verdict === 'not-comparable';
  const verified = v.verdict === 'verified-gain' || v.verdict === 'verified-loss';
  return (
    <section className="sheet p-3.5" style={{ borderLeft: `6px solid ${look.colour}` }} aria-label="Verdict">
      {job.question.measures.length > 1 && (
        <div className="text-ink-2 mb-1 text-[12.5px]">{measureWords(v.measure).name}</div>
      )}
      <div className="text-[18px]" data-testid="verdict">
        <VerdictTag verdict={v.verdict} measure={v.measure} word="long" size={17} />
      </div>
      <div className="mt-1.5 mb-1 flex items-end gap-3">
        <span
          className={`num text-[62px] leading-[.9] ${struck ? 'text-ink-3 line-through decoration-[3px]' : ''}`}
          data-testid="gain"
        >
          {g ? g.estimate : '–'}
        </span>
        <span className="pb-0.5 text-[20px] font-[560]">{g?.unit}</span>
        <span className="text-ink-2 pb-0.5 text-[12.5px] leading-snug">{sureWords(v, units)}</span>
      </div>
      <p className="text-ink-2 text-[12.5px] leading-[1.42]">
        <span className="text-ink">{resultSentence(job, v, units, judgement.window)}</span> {verifiedRange(v)}{' '}
        {!verified && verdictReasonWords(v, v.conditions.findings, units)} <b className="text-ink">{nextStep(v)}</b>
      </p>
      <p className="text-ink-2 mt-1 text-[12px]">
        {v.pulls.baseline.used} and {v.pulls.candidate.used}{' '}
        {readFrom(v.measure) === 'passes' ? 'passes' : 'counted pulls'}. {returnCheckWords(job, v, units)}{' '}
        {seesFromWords(v, units)}
      </p>
      {v.uncorrected && v.uncorrected.gain && (
        <p className="text-ink-2 mt-1 text-[12px]">
          Uncorrected power, for a boost-controlled car: {shortGain(v.uncorrected.gain, units)},{' '}
          {VERDICT_STYLES[v.uncorrected.verdict].word.toLowerCase()}.
        </p>
      )}
    </section>
  );
});

/** Every band with its simultaneous interval. */
export const BandCard = memo(function BandCard({ v, units }: Props) {
  if (v.bands.length === 0) return null;
  const unit = unitOf(v.measure, units);
  return (
    <section className="sheet card" aria-label="By rpm band">
      <h3>By rpm band</h3>
      <table className="table mt-1 [&_td]:!py-0.5">
        <thead>
          <tr>
            <th>rpm</th>
            <th className="r">
              {v.baseline}, {unit}
            </th>
            <th className="r">
              {v.candidate}, {unit}
            </th>
            <th className="r">
              {v.candidate} {'\u2212'} {v.baseline}
            </th>
            <th className="!pl-3">all bands together</th>
          </tr>
        </thead>
        <tbody>
          {v.bands.map((b) => {
            const at = (percent: number) => fromSi((b.baseline * percent) / 100, unit);
            const i = interval(at(b.percent), at(b.lowPercent), at(b.highPercent));
            return (
              <tr key={b.fromRpm} className={b.inWindow ? 'bg-well font-[600]' : ''}>
                <td className="whitespace-nowrap">
                  {b.fromRpm}–{b.toRpm}
                </td>
                <td className="r">{shown(b.baseline, unit, 1)}</td>
                <td className="r">{shown(b.candidate, unit, 1)}</td>
                <td className="r whitespace-nowrap">
                  {i.estimate} ±{i.half}
                </td>
                <td className="!pl-3">
                  <VerdictTag verdict={v.verdict === 'not-comparable' ? 'not-comparable' : b.verdict} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
});

/** The schools of the trade on the same pulls, on one scale with the interval. */
export const SchoolsCard = memo(function SchoolsCard({ v, units }: Props) {
  if (v.schools.length === 0) return null;
  const { unit, to, digits } = differenceIn(factsNamed(v.measure).unit, units);
  const look = verdictLook(v.verdict, v.measure);
  const g = v.gain;
  const all = [
    ...v.schools.flatMap((s) => (s.value === null ? [] : [s.value, ...s.pairs])),
    ...(g ? [g.lowValue, g.highValue] : []),
    0,
  ].map(to);
  const low = Math.min(...all);
  const high = Math.max(...all);
  const x = (value: number) => 6 + ((value - low) / (high - low || 1)) * 108;
  const row = 'grid grid-cols-[minmax(0,1fr)_112px_42px_40px] items-center gap-x-2 min-h-[23px] text-[12px]';
  return (
    <section className="sheet card" aria-label="How other ways of judging would call it">
      <h3>How other ways of judging would call it</h3>
      {g && (
        <div className={`${row} font-[650]`}>
          <span>Modelled mean</span>
          <svg viewBox="0 0 120 20" height="20" aria-hidden>
            <line x1={x(0)} x2={x(0)} y1="0" y2="20" stroke="var(--ink)" />
            <rect
              x={x(to(g.lowValue))}
              y="6"
              width={Math.max(1, x(to(g.highValue)) - x(to(g.lowValue)))}
              height="8"
              rx="1.5"
              fill={look.colour}
              fillOpacity=".32"
            />
            <line x1={x(to(g.value))} x2={x(to(g.value))} y1="3" y2="17" stroke={look.colour} strokeWidth="3" />
          </svg>
          <span className="text-right">{signed(to(g.value), digits)}</span>
          <span className="text-right">±{interval(to(g.value), to(g.lowValue), to(g.highValue), digits).half}</span>
        </div>
      )}
      {v.schools.map((s) => (
        <div key={s.id} className={row}>
          <span>{s.label}</span>
          <svg viewBox="0 0 120 20" height="20" aria-hidden>
            <line x1={x(0)} x2={x(0)} y1="0" y2="20" stroke="var(--ink)" />
            {s.pairs.map((p, i) => (
              <circle key={i} cx={x(to(p))} cy="10" r="2.2" fill="var(--ink-3)" />
            ))}
            {s.value !== null && (
              <line x1={x(to(s.value))} x2={x(to(s.value))} y1="4" y2="16" stroke="var(--ink-3)" strokeWidth="2" />
            )}
          </svg>
          <span className="text-right">{s.value === null ? '–' : signed(to(s.value), digits)}</span>
          <span className="text-ink-3 text-right">no ±</span>
        </div>
      ))}
      <p className="text-ink-2 mt-1 text-[12px]">{unit && `In ${unit}. `}None of these knows its own doubt.</p>
    </section>
  );
});

function rowValue(row: ConditionRow, value: number | null, units: ShownUnits): string {
  if (value === null) return '–';
  if (row.key === 'factor') return plain(value, 4);
  if (row.key === 'rest') return plain(value, 1);
  if (row.key === 'intakeStart') return signed(temperatureStep(value, units.temperature));
  return shown(value, units.temperature);
}

function rowLimit(row: ConditionRow, units: ShownUnits): string {
  const limit = row.blockingAt ?? row.warnAt;
  if (limit === null) return '';
  if (row.key === 'factor' || row.key === 'drift') return `within ${limit} %`;
  if (row.key === 'rest') return `within ${limit} min`;
  return `within ${plain(temperatureStep(limit, units.temperature), units.temperature === '°F' ? 0 : 1)}`;
}

/** What matched between the sides, what drifted, what decides. */
export const ConditionsCard = memo(function ConditionsCard({ job, v, units }: Props) {
  const states = v.conditions.state.filter((s) => s.baseline !== null || s.candidate !== null);
  const colour = {
    ok: '',
    unknown: 'text-ink-3',
    warning: 'text-wait font-[620]',
    blocking: 'text-act font-[650]',
    same: '',
    declared: 'font-[620]',
    differs: 'text-act font-[650]',
  } as const;
  const pressure = job.pulls.flatMap((p) => (p.pressureHpa === null ? [] : [p.pressureHpa * 100]));
  return (
    <section className="sheet card" aria-label="Conditions match">
      <div className="flex items-baseline gap-2">
        <h3 className="grow">{v.conditions.comparable ? 'Conditions match' : 'Conditions do not match'}</h3>
        {pressure.length > 0 && (
          <span className="text-ink-2 text-[12px]">
            {shown(Math.min(...pressure), units.pressure)}–{shown(Math.max(...pressure), units.pressure)}{' '}
            {units.pressure}
          </span>
        )}
      </div>
      <table className="table mt-1 [&_td]:!py-[3px]">
        <thead>
          <tr>
            <th>
              <span className="sr-only">Condition</span>
            </th>
            <th className="r">
              <Badge id={v.baseline} setups={job.setups} />
            </th>
            <th className="r">
              <Badge id={v.candidate} setups={job.setups} />
            </th>
            <th className="r">allowed</th>
          </tr>
        </thead>
        <tbody>
          {v.conditions.rows.map((row) => (
            <tr key={row.key}>
              <td>
                {CONDITION_LABELS[row.key]}
                {['intakeStart', 'air', 'coolant', 'oil'].includes(row.key) ? `, ${units.temperature}` : ''}
              </td>
              {row.key === 'drift' ? (
                <td className={`r ${colour[row.status]}`} colSpan={2}>
                  {signed(row.difference)} %
                </td>
              ) : (
                <>
                  <td className="r">{rowValue(row, row.baseline, units)}</td>
                  <td className={`r ${colour[row.status]}`}>{rowValue(row, row.candidate, units)}</td>
                </>
              )}
              <td className="r text-ink-3 whitespace-nowrap">{rowLimit(row, units)}</td>
            </tr>
          ))}
          {states.map((s) => (
            <tr key={s.key}>
              <td>{STATE_LABELS[s.key]}</td>
              <td className="r">{s.baseline ?? '–'}</td>
              <td className={`r ${colour[s.status]}`}>{s.status === 'same' ? 'same' : (s.candidate ?? '–')}</td>
              <td className="r text-ink-3 whitespace-nowrap">
                {s.status === 'declared' ? 'declared' : s.status === 'unknown' ? 'one side only' : 'no change'}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {v.conditions.findings.length > 0 && (
        <ul className="mt-1.5 grid gap-1 text-[12px] leading-snug">
          {v.conditions.findings.map((f) => (
            <li
              key={f.code + Object.values(f.parameters).join()}
              className={f.severity === 'blocking' ? 'text-act' : f.severity === 'warning' ? 'text-wait' : 'text-ink-2'}
            >
              {conditionWords(f, v, units)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
});
