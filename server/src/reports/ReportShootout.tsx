import {
  bandCellsSvg,
  costGapWords,
  costSourceWords,
  crossedSvg,
  differenceIn,
  differenceInterval,
  firstWords,
  frontierSvg,
  gainInterval,
  interactionWords,
  intervalStripSvg,
  ledgerSvg,
  money,
  nextQuestion,
  onTopWords,
  plain,
  rankWords,
  resultSentence,
  shown,
  stripHeadSvg,
  stripScale,
  tellCustomer,
  unrankedWords,
  VERDICT_STYLES,
  withUnit,
} from '@prandel/presentation';
import {
  changesText,
  CONDITION_LABELS,
  crossedIn,
  GRID_STEP_RPM,
  ledgerOf,
  measureName,
  standings,
  type Difference,
  type Standing,
} from '@prandel/core';
import type { ReportInput } from './reportInput.ts';
import { Badge, Shape } from './reportMarks.tsx';

const STRIP = 150;
/** More results than this are no headlines any more: each has its sentence below the ranking. */
export const MOST_LARGE = 3;

/** Several setups: the ranking, what they cost, and what may be said; only where more than one was run against the baseline. */
export function ReportShootout({ input }: { input: ReportInput }) {
  const { job, judgement, units, recorded } = input;
  const measure = measureName(job.question.measures[0]!);
  const list = standings(job, judgement, { measure, by: 'sure', recorded });
  const all = [...list.ranked, ...list.unranked];
  const read = differenceIn(all.find((s) => s.verdict.gain)?.verdict.gain?.unit ?? 'W', units);
  const scale = stripScale(
    all.flatMap(({ verdict: { gain } }) => (gain ? [read.to(gain.lowValue), read.to(gain.highValue)] : [])),
    STRIP,
  );
  const bands = all.flatMap((s) => s.verdict.bands);
  const span = [Math.min(...bands.map((b) => b.fromRpm)), Math.max(...bands.map((b) => b.toRpm))] as const;
  const currency = job.money?.currency ?? '';
  const frontier = frontierSvg({
    setups: job.setups,
    standings: list,
    units,
    currency,
    width: 912,
    height: 300,
    fontSize: 12,
  });
  const row = (s: Standing) => {
    const { verdict: v, cost } = s;
    const setup = job.setups.find((own) => own.id === s.setup);
    const gain = v.gain && gainInterval(v.gain, units);
    const strip = v.gain && {
      estimate: read.to(v.gain.value),
      low: read.to(v.gain.lowValue),
      high: read.to(v.gain.highValue),
    };
    return (
      <tr key={s.setup}>
        <td>{s.rank && s.unranked === null ? <b>{rankWords(s.rank)}</b> : '–'}</td>
        <td className="wide">
          <Badge setup={s.setup} setups={job.setups} />
          <b>{setup?.label}</b>
          <div className="mut">
            {[
              setup?.addedAt ? 'added on the day' : '',
              setup?.cure ? 'a cure, no part' : '',
              setup?.permanent ? 'cannot come off again' : '',
              s.unranked ? unrankedWords(s) : '',
            ]
              .filter(Boolean)
              .join('; ')}
          </div>
        </td>
        <td>
          <Shape look={VERDICT_STYLES[v.verdict]} word />
        </td>
        <td>
          <div className="strip" dangerouslySetInnerHTML={{ __html: intervalStripSvg(scale, strip, v.verdict, 22) }} />
        </td>
        <td className="r">{gain ? withUnit(`${gain.estimate} ±${gain.half}`, gain.unit) : '–'}</td>
        <td>
          {v.bands.length > 0 && (
            <div className="strip" dangerouslySetInnerHTML={{ __html: bandCellsSvg(v.bands, span, 96, 12) }} />
          )}
        </td>
        <td className="r">
          {cost?.total != null ? money(cost.total, cost.currency) : cost ? costGapWords(cost) : '–'}
        </td>
        <td className="r">
          {cost?.hours != null ? `${plain(cost.hours, 2)} ${costSourceWords(cost.hoursFrom)}` : '–'}
        </td>
        <td className="r">{s.perSureUnit === null ? '–' : money(s.perSureUnit, cost?.currency ?? null)}</td>
      </tr>
    );
  };
  return (
    <>
      <section>
        <h2>
          {firstWords(job, list)}
          <span>places are intervals that all hold at once</span>
        </h2>
        <table className="ranked">
          <thead>
            <tr>
              <th>Place</th>
              <th>Part</th>
              <th>Verdict</th>
              <th>
                <div className="strip" dangerouslySetInnerHTML={{ __html: stripHeadSvg(scale, 11) }} />
              </th>
              <th className="r">Gain, 95 %</th>
              <th>{bands.length > 0 ? `${span[0]}–${span[1]} rpm` : ''}</th>
              <th className="r">All in</th>
              <th className="r">Hours</th>
              <th className="r">Per sure {read.unit === units.power ? 'kW' : read.unit}</th>
            </tr>
          </thead>
          <tbody>
            {list.ranked.map(row)}
            {list.unranked.map(row)}
          </tbody>
        </table>
      </section>
      <section>
        <h2>What this says</h2>
        {judgement.verdicts
          .filter(() => job.question.candidateSetups.length > MOST_LARGE)
          .map((v) => (
            <p key={`${v.candidate} ${v.measure}`}>
              <Badge setup={v.candidate} setups={job.setups} /> {resultSentence(job, v, units, judgement.window)}
            </p>
          ))}
        {tellCustomer(job, list, units).map((words) => (
          <p key={words}>{words}</p>
        ))}
        <p className="mut">
          <b>Worth asking next.</b> {nextQuestion(job, list)}
        </p>
      </section>
      {frontier && (
        <section>
          <h2>
            Gain against all-in cost
            <span>
              parts, adapters, consumables, tune, hours
              {job.money?.hourlyRate ? ` at ${money(job.money.hourlyRate, currency)}` : ''}
            </span>
          </h2>
          <div dangerouslySetInnerHTML={{ __html: frontier }} />
        </section>
      )}
      <Crosses input={input} measure={measure} />
      <Steps input={input} measure={measure} />
      <ConditionsOfAll input={input} measure={measure} />
    </>
  );
}

function figure(d: Difference | null, units: ReportInput['units']): string {
  if (!d) return '–';
  const read = differenceInterval(d, units);
  return `${withUnit(read.estimate, read.unit)} (${read.low} to ${read.high})`;
}

function Crosses({ input: { job, judgement, units }, measure }: { input: ReportInput; measure: string }) {
  return crossedIn(job, judgement, measure).map((c) => (
    <section key={c.both}>
      <h2>
        {c.alone.join(' and ')}, alone and together
        <span>{c.both} has both</span>
      </h2>
      <p>
        <b>{interactionWords(c, units)}</b> {onTopWords(c, 0, units)} {onTopWords(c, 1, units)}
      </p>
      <div
        dangerouslySetInnerHTML={{
          __html: crossedSvg(c, job.setups, units, { width: 700, height: 260, fontSize: 12 }),
        }}
      />
    </section>
  ));
}

function Steps({ input: { job, judgement, units, recorded }, measure }: { input: ReportInput; measure: string }) {
  const ledger = ledgerOf(job, judgement, measure, recorded);
  if (!ledger) return null;
  return (
    <section>
      <h2>
        The steps of the build<span>each against the one before; totals are fitted, not summed</span>
      </h2>
      <table>
        <thead>
          <tr>
            <th>Step</th>
            <th>What was changed</th>
            <th className="r">It added</th>
            <th className="r">Running total</th>
            <th className="r">Cost, to here</th>
            <th className="r">Hours, to here</th>
          </tr>
        </thead>
        <tbody>
          {ledger.steps.map((s) => (
            <tr key={s.setup.id}>
              <td>
                <Badge setup={s.setup.id} setups={job.setups} />
                {s.kind === 'part' ? '' : s.kind}
              </td>
              <td>
                <b>{s.setup.label}</b> <span className="mut">{changesText(s.changes)}</span>
                {s.bundle && <div className="mut">{s.bundle.of} changes at once: their gain cannot be divided.</div>}
                {s.setup.addedAt && <div className="mut">Added on the day.</div>}
                {s.setup.permanent && <div className="mut">It cannot come off again.</div>}
              </td>
              <td className="r">{figure(s.gain, units)}</td>
              <td className="r">{figure(s.total, units)}</td>
              <td className="r">
                {money(s.cost?.total ?? null, s.cost?.currency ?? null)},{' '}
                {money(s.costToHere, s.cost?.currency ?? null)}
              </td>
              <td className="r">
                {plain(s.cost?.hours, 2)}, {plain(s.hoursToHere, 2)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div
        dangerouslySetInnerHTML={{
          __html: ledgerSvg(ledger, job.setups, units, { width: 700, height: 250, fontSize: 12 }),
        }}
      />
    </section>
  );
}

/** Start temperatures, air and factor of every setup beside the baseline. */
function ConditionsOfAll({ input: { job, judgement, units }, measure }: { input: ReportInput; measure: string }) {
  const verdicts = judgement.verdicts.filter((v) => v.measure === measure);
  const keys = [...new Set(verdicts.flatMap((v) => v.conditions.rows.map((r) => r.key)))].filter((k) => k !== 'drift');
  const value = (key: string, n: number | null | undefined) =>
    n === null || n === undefined
      ? '–'
      : key === 'factor'
        ? n.toFixed(4)
        : key === 'rest'
          ? `${n.toFixed(1)} min`
          : shown(n, units.temperature);
  const label: Readonly<Record<string, string>> = CONDITION_LABELS;
  return (
    <section>
      <h2>
        Conditions of every setup<span>means of the counted pulls</span>
      </h2>
      <table>
        <thead>
          <tr>
            <th />
            <th className="r">{job.question.baselineSetup}</th>
            {verdicts.map((v) => (
              <th key={v.candidate} className="r">
                {v.candidate}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {keys.map((key) => (
            <tr key={key}>
              <td>{label[key] ?? key}</td>
              <td className="r">{value(key, verdicts[0]?.conditions.rows.find((r) => r.key === key)?.baseline)}</td>
              {verdicts.map((v) => (
                <td key={v.candidate} className="r">
                  {value(key, v.conditions.rows.find((r) => r.key === key)?.candidate)}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <td>Counted pulls</td>
            <td className="r">{verdicts[0]?.pulls.baseline.used}</td>
            {verdicts.map((v) => (
              <td key={v.candidate} className="r">
                {v.pulls.candidate.used}
              </td>
            ))}
          </tr>
          <tr>
            <td>Comparable</td>
            <td />
            {verdicts.map((v) => (
              <td key={v.candidate} className="r">
                {v.conditions.comparable ? 'yes' : 'no'}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </section>
  );
}

/** Values at the engine speeds that somebody chose to print. */
export function ReportChosen({ input: { job, judgement, units } }: { input: ReportInput }) {
  const at = job.day?.readAtRpm ?? [];
  const { baselineSetup, candidateSetups } = job.question;
  const setups = [baselineSetup, ...candidateSetups].flatMap((id) => judgement.setups.filter((s) => s.setupId === id));
  if (at.length === 0 || setups.length === 0) return null;
  return (
    <section>
      <h2>
        Values at chosen engine speeds<span>{units.power}, mean curve at 95 %</span>
      </h2>
      <table>
        <thead>
          <tr>
            <th />
            {at.map((rpm) => (
              <th key={rpm} className="r">
                {rpm} rpm
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {setups.map((s) => (
            <tr key={s.setupId}>
              <td>
                <Badge setup={s.setupId} setups={job.setups} />
              </td>
              {at.map((rpm) => {
                const i = Math.round(rpm / GRID_STEP_RPM) - s.power.first;
                return (
                  <td key={rpm} className="r">
                    {shown(s.power.values[i], units.power)} ±{shown(s.halfWidthW[i], units.power)}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
