import {
  interval,
  matters,
  differenceIn,
  differenceWords,
  gainInterval,
  measureWords,
  plain,
  VERDICT_STYLES,
  verdictLook,
  withUnit,
  moment,
  shown,
  signed,
  spansDays,
  temperatureStep,
  unitOf,
  pullFindingWords,
} from '@prandel/presentation';
import {
  CORRECTION_NAMES,
  factsNamed,
  measureName,
  fromSi,
  pullsInOrder,
  type Band,
  type CandidateVerdict,
  type JudgedPull,
  type Pull,
  CONDITION_LABELS,
  STATE_LABELS,
} from '@prandel/core';
import type { ReportInput } from './reportInput.ts';
import { Badge, Shape } from './reportMarks.tsx';

/** Gain per band, a column a candidate. */
export function BandTable({ input: { job, judgement, units }, measure }: { input: ReportInput; measure: string }) {
  const verdicts = judgement.verdicts.filter((v) => v.measure === measure);
  const unit = unitOf(measure, units);
  const rows = [...new Map(verdicts.flatMap((v) => v.bands).map((b) => [b.fromRpm, b])).values()];
  const cell = (v: CandidateVerdict, b: Band) => {
    const own = v.bands.find((x) => x.fromRpm === b.fromRpm);
    if (!own) return <td className="r">–</td>;
    const at = (percent: number) => fromSi((own.baseline * percent) / 100, unit);
    const i = interval(at(own.percent), at(own.lowPercent), at(own.highPercent));
    return (
      <td className="r">
        {i.estimate} ±{i.half}{' '}
        <Shape look={VERDICT_STYLES[v.verdict === 'not-comparable' ? 'not-comparable' : own.verdict]} />
      </td>
    );
  };
  const peak = (v: CandidateVerdict) =>
    v.peaks.candidate &&
    `${shown(v.peaks.candidate.power.value, units.power)} at ${Math.round(v.peaks.candidate.power.rpm)}`;
  const base = verdicts[0]?.peaks.baseline;
  return (
    <table>
      <thead>
        <tr>
          <th>rpm</th>
          <th className="r">{job.question.baselineSetup}</th>
          {verdicts.map((v) => (
            <th key={v.candidate} className="r">
              {v.candidate} {'\u2212'} {v.baseline}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((b) => (
          <tr key={b.fromRpm}>
            <td>
              {b.fromRpm}–{b.toRpm}
            </td>
            <td className="r">{shown(b.baseline, unit, 1)}</td>
            {verdicts.map((v) => (
              <Keyed key={v.candidate}>{cell(v, b)}</Keyed>
            ))}
          </tr>
        ))}
        <tr>
          <td>peak of the mean</td>
          <td className="r">
            {base ? `${shown(base.power.value, units.power)} at ${Math.round(base.power.rpm)}` : '–'}
          </td>
          {verdicts.map((v) => (
            <td key={v.candidate} className="r">
              {peak(v) ?? '–'}
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );
}

function Keyed({ children }: { children: React.ReactNode }) {
  return <>{children}</>;
}

/** What matched and what drifted. */
export function ConditionsTable({ input: { job, judgement, units } }: { input: ReportInput }) {
  const v = judgement.verdicts[0];
  const value = (key: string, n: number | null) => {
    if (n === null) return '–';
    if (key === 'factor') return n.toFixed(4);
    if (key === 'rest') return `${n.toFixed(1)} min`;
    if (key === 'intakeStart') return `${signed(temperatureStep(n, units.temperature))} ${units.temperature}`;
    return `${shown(n, units.temperature)} ${units.temperature}`;
  };
  const states = [
    ...new Map(
      judgement.verdicts
        .flatMap((x) => x.conditions.state)
        .filter((s) => s.baseline !== null || s.candidate !== null)
        .map((s) => [s.key + s.candidate, s]),
    ).values(),
  ];
  return (
    <table>
      <tbody>
        {/* Of several setups they stand in a table of their own. */}
        {(job.question.candidateSetups.length > 1 ? [] : (v?.conditions.rows ?? []))
          .filter((r) => r.key !== 'drift')
          .map((r) => (
            <tr key={r.key}>
              <td>{CONDITION_LABELS[r.key]}</td>
              <td className="r">
                {value(r.key, r.baseline)} against {value(r.key, r.candidate)}
              </td>
            </tr>
          ))}
        {states.map((s) => (
          <tr key={s.key + String(s.candidate)}>
            <td>{STATE_LABELS[s.key]}</td>
            <td className="r">
              {s.status === 'same'
                ? s.baseline
                : `${s.baseline ?? 'not recorded'} against ${s.candidate ?? 'not recorded'}${s.status === 'declared' ? ' (declared)' : ''}`}
            </td>
          </tr>
        ))}
        <tr>
          <td>Return check</td>
          <td className="r">
            {v?.returnCheck ? `${differenceWords(v.returnCheck, units)} against the first round` : 'none counts'}
          </td>
        </tr>
        <tr>
          <td>Correction</td>
          <td className="r">{CORRECTION_NAMES[job.method.correction]}</td>
        </tr>
        <tr>
          <td>Averaging</td>
          <td className="r">{job.method.averagingWidthRpm === 0 ? 'none' : `${job.method.averagingWidthRpm} rpm`}</td>
        </tr>
        {job.question.measures.map((m) => (
          <tr key={measureName(m)}>
            <td>Asked of: {measureWords(measureName(m)).name}</td>
            <td className="r">{matters(measureName(m), m.meaningful, units)} would matter</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What was read of the pulls in the measure's own unit: means of both setups, and the difference with its interval. */
export function ReadingTable({
  input: { job, judgement, units },
  measures,
}: {
  input: ReportInput;
  measures: readonly string[];
}) {
  const verdicts = judgement.verdicts.filter((v) => measures.includes(v.measure));
  return (
    <table>
      <thead>
        <tr>
          <th />
          <th className="r">{job.question.baselineSetup}</th>
          <th className="r" />
          <th className="r">difference</th>
        </tr>
      </thead>
      <tbody>
        {verdicts.map((v) => {
          const { unit, to, digits } = differenceIn(factsNamed(v.measure).unit, units);
          const g = v.gain && gainInterval(v.gain, units);
          return (
            <tr key={`${v.candidate} ${v.measure}`}>
              <td>{measureWords(v.measure).name}</td>
              <td className="r">{v.levels.baseline === null ? '–' : plain(to(v.levels.baseline), digits)}</td>
              <td className="r">
                {v.candidate} {v.levels.candidate === null ? '–' : plain(to(v.levels.candidate), digits)}
              </td>
              <td className="r">
                {g ? withUnit(`${g.estimate} ±${g.half}`, unit) : '–'}{' '}
                <Shape look={verdictLook(v.verdict, v.measure)} />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What other ways of judging would have said, a table a measure. */
export function Schools({ input }: { input: ReportInput }) {
  const names = [...new Set(input.judgement.verdicts.filter((v) => v.schools.length > 0).map((v) => v.measure))];
  return (
    <>
      {names.map((measure) => (
        <SchoolTable key={measure} input={input} measure={measure} />
      ))}
    </>
  );
}

function SchoolTable({ input: { judgement, units }, measure }: { input: ReportInput; measure: string }) {
  const { unit, to, digits } = differenceIn(factsNamed(measure).unit, units);
  const verdicts = judgement.verdicts.filter((v) => v.measure === measure);
  return (
    <table>
      <thead>
        <tr>
          <th>{measureWords(measure).name}</th>
          {verdicts.map((v) => (
            <th key={v.candidate} className="r">
              {[v.candidate, unit].filter(Boolean).join(', ')}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {verdicts[0]?.schools.map((s, i) => (
          <tr key={s.id}>
            <td>{s.label}</td>
            {verdicts.map((v) => (
              <td key={v.candidate} className="r">
                {v.schools[i]?.value == null ? 'needs more pulls' : `${signed(to(v.schools[i].value), digits)} no ±`}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Every pull, including those set aside with the reason. */
export function PullTables({ input: { job, judgement, units } }: { input: ReportInput }) {
  const ordered = pullsInOrder(job.pulls);
  const judged = new Map(judgement.pulls.map((p) => [p.id, p]));
  const several = spansDays(
    job.pulls.map((p) => p.startedAt),
    job.timeZone,
  );
  const remarks = ordered.flatMap((p) => {
    const j = judged.get(p.id)!;
    const words = remark(j, p);
    return words ? [{ name: j.name, words }] : [];
  });
  return (
    <>
      <div className="pulls">
        {job.setups.map((s) => (
          <table key={s.id}>
            <thead>
              <tr>
                <th>
                  <Badge setup={s.id} setups={job.setups} />
                </th>
                <th className="r">Time</th>
                <th className="r">Intake</th>
                <th className="r">Factor</th>
                <th className="r">Mean</th>
                <th>Use</th>
              </tr>
            </thead>
            <tbody>
              {ordered
                .filter((p) => p.setupId === s.id)
                .map((p, i) => {
                  const j = judged.get(p.id)!;
                  const use =
                    p.status === 'set-aside'
                      ? 'aside'
                      : p.status === 'settle'
                        ? 'settle'
                        : j.used
                          ? 'counted'
                          : 'left out';
                  return (
                    <tr key={p.id} className={use === 'aside' || use === 'left out' ? 'aside' : use}>
                      <td>{i + 1}</td>
                      <td className="r">{p.startedAt ? moment(p.startedAt, job.timeZone, several) : '–'}</td>
                      <td className="r">{shown(p.intakeStartC, units.temperature)}</td>
                      <td className="r">{j.factor?.toFixed(3) ?? '–'}</td>
                      <td className="r">{shown(j.windowMeanW, units.power)}</td>
                      <td>{use}</td>
                    </tr>
                  );
                })}
            </tbody>
          </table>
        ))}
      </div>
      {remarks.length > 0 && (
        <p className="small mut">
          {remarks.map((r) => (
            <span key={r.name}>
              <b>{r.name}</b>: {r.words}{' '}
            </span>
          ))}
        </p>
      )}
      <p className="small mut">Settle pulls never count; they bring car and rollers to a steady state.</p>
    </>
  );
}

function remark(j: JudgedPull, { reason, marks = [] }: Pull): string {
  const own = j.status === 'set-aside' ? `set aside, ${reason ?? 'no reason given'}.` : '';
  const marked = marks.filter((mark) => mark !== reason).map((mark) => `${mark}.`.replace(/\.\.$/, '.'));
  const noticed = j.findings.filter((f) => f.severity !== 'info').map(pullFindingWords);
  return [own, ...marked, ...noticed].filter(Boolean).join(' ');
}
