import {
  factsNamed,
  isCurved,
  measureNamed,
  repeatedSetup,
  type CandidateVerdict,
  type Contrast,
  type Gain,
  type Pull,
  type VerdictSummary,
  type Setup,
} from '@prandel/core';
import {
  differenceIn,
  differenceInterval,
  gainInterval,
  interval,
  matters,
  signed,
  withUnit,
  type ShownUnits,
} from './figures.ts';
import { measureWords } from './measureWords.ts';

/** What the sentences need of a job: names of its setups. */
export interface Asked {
  readonly setups: readonly { readonly id: string; readonly label: string }[];
}

/** The one sentence a customer reads. */
export function resultSentence(
  job: Asked,
  v: VerdictSummary,
  units: ShownUnits,
  window: readonly [number, number] | null,
): string {
  const label = job.setups.find((s) => s.id === v.candidate)?.label ?? v.candidate;
  const { quantity } = factsNamed(v.measure);
  const curved = isCurved({ quantity });
  const onRoad = quantity === 'roadTime';
  if (!v.gain && onRoad) return `There are not enough passes on the road to say anything about “${label}”.`;
  if (!v.gain)
    return curved
      ? `There are not enough usable pulls to say anything about “${label}”.`
      : `There are not enough pulls that read ${measureWords(v.measure).subject} to say anything about “${label}”.`;
  if (!curved) return readingSentence(v, v.gain, units);
  const at = measureNamed(v.measure);
  const where = at?.id.startsWith('peak')
    ? ', at its peak,'
    : at?.rpm !== undefined
      ? ` at ${at.rpm} rpm`
      : window
        ? ` between ${window[0]} and ${window[1]} rpm`
        : '';
  const torque = quantity === 'torque' ? ' of torque' : '';
  const g = gainInterval(v.gain, units);
  const range = `${g.low} and ${g.high} ${g.unit}`;
  switch (v.verdict) {
    case 'verified-gain':
      return `At full throttle${where} the car makes between ${range.replaceAll('+', '')}${torque} more at the wheels than before.${v.smallerThanMatters ? ' That is less than what was agreed to matter.' : ''}`;
    case 'verified-loss':
      return `At full throttle${where} the car makes less${torque} at the wheels than before: the change lies between ${range}.`;
    case 'no-meaningful-change':
      // The rule looks at the 90 % interval; the wider one would not always lie inside what was agreed.
      return `At full throttle${where} nothing changed that would matter: with 90 % certainty the change lies between ${signed(v.gain.low90Percent)} and ${signed(v.gain.high90Percent)} %, inside the ±${matters(v.measure, v.meaningful, units)} that was agreed.`;
    case 'not-resolved':
      return `These pulls cannot tell whether anything changed${where}: it may lie anywhere between ${range}.`;
    case 'not-comparable':
      return notComparable(v.measure);
    default:
      return v.verdict satisfies never;
  }
}

const notComparable = (measure: string) =>
  `The two sets of ${readFrom(measure)} were not made under the same conditions, so no result is claimed.`;

/** The sentence about what is read in its own unit: nothing in it is about power. */
function readingSentence(v: VerdictSummary, gain: Gain, units: ShownUnits): string {
  const { subject, lower, higher } = measureWords(v.measure);
  const Subject = subject.charAt(0).toUpperCase() + subject.slice(1);
  // What is judged in per cent is told in per cent.
  const { percent, lowPercent, highPercent } = gain;
  const g =
    percent !== null && lowPercent !== null && highPercent !== null
      ? { ...interval(percent, lowPercent, highPercent), unit: '%' }
      : gainInterval(gain, units);
  const end = (printed: string) => printed.replace(/^[+\u2212]/, '');
  const [less, more] = gain.value < 0 ? [g.high, g.low] : [g.low, g.high];
  const changed = `between ${end(less)} and ${withUnit(end(more), g.unit)} ${gain.value < 0 ? lower : higher} than before`;
  const range = `${g.low} and ${withUnit(g.high, g.unit)}`;
  switch (v.verdict) {
    case 'verified-gain':
    case 'verified-loss':
      return `${Subject} is ${changed}.${v.smallerThanMatters ? ' That is less than what was agreed to matter.' : ''}`;
    case 'no-meaningful-change':
      return `${Subject} is as before: the change lies between ${range}, inside the ±${matters(v.measure, v.meaningful, units)} that was agreed with 90 % certainty.`;
    case 'not-resolved':
      return `These ${readFrom(v.measure)} cannot tell whether ${subject} is ${lower} or ${higher}: the change may lie anywhere between ${range}.`;
    case 'not-comparable':
      return notComparable(v.measure);
    default:
      return v.verdict satisfies never;
  }
}

/** What a measure is read from. */
export function readFrom(measure: string): 'pulls' | 'passes' {
  return factsNamed(measure).quantity === 'roadTime' ? 'passes' : 'pulls';
}

/** The comparison of two candidates, or of two changes together with each alone, as it is printed. */
export function contrastWords(c: Contrast, units: ShownUnits): string {
  const i = differenceInterval(c, units);
  const what =
    c.of.kind === 'pair'
      ? `${c.of.candidate} against ${c.of.against}`
      : `${c.of.both} beyond ${c.of.alone.join(' and ')} together`;
  return `${what}: ${withUnit(`${i.estimate} ±${i.half}`, i.unit)}${c.tie ? ', a tie' : ''}.`;
}

/** A difference with its unit, as a person reads it. */
export function differenceWords({ value, unit }: { value: number; unit: string }, units: ShownUnits): string {
  const read = differenceIn(unit, units);
  return withUnit(signed(read.to(value), read.digits), read.unit);
}

type Returning = { readonly setups: readonly Setup[]; readonly pulls: readonly Pick<Pull, 'setupId' | 'status'>[] };

/** Whether somebody went back to the baseline, whatever became of those pulls. */
function wentBack(job: Returning, baseline: string): boolean {
  const back = (setup: string) => setup !== baseline && repeatedSetup(job.setups, setup) === baseline;
  return job.pulls.some((p) => p.status !== 'settle' && back(p.setupId));
}

/** What the return check read; one that was made and could not count is not called missing. */
export function returnCheckWords(
  job: Returning,
  { returnCheck, baseline, measure }: Pick<CandidateVerdict, 'returnCheck' | 'baseline' | 'measure'>,
  units: ShownUnits,
): string {
  // A fade is a slope within rounds: a round that comes back tells no drift of it. The road has no rounds of the bay.
  if (['fade', 'roadTime'].includes(factsNamed(measure).quantity)) return '';
  if (returnCheck) return `Return check ${differenceWords(returnCheck, units)} against the first round.`;
  return wentBack(job, baseline)
    ? 'A return check was made, but no pull of it could count.'
    : 'No return check was made.';
}

/** Where in the rev range something is verified, in words; empty when nothing is. */
export function verifiedRange(v: CandidateVerdict): string {
  const verified = v.bands.filter((b) => b.verified);
  if (v.verdict === 'not-comparable') return '';
  if (verified.length === 0)
    return v.bands.length > 0 ? 'No single part of the rev range can be vouched for on its own.' : '';
  const stretches: { from: number; to: number; gain: boolean }[] = [];
  for (const b of verified) {
    const last = stretches.at(-1);
    const gain = b.verdict === 'verified-gain';
    if (last && last.to === b.fromRpm && last.gain === gain) last.to = b.toRpm;
    else stretches.push({ from: b.fromRpm, to: b.toRpm, gain });
  }
  const words = stretches.map((s) => `${s.gain ? 'a gain' : 'a loss'} from ${s.from} to ${s.to} rpm`);
  const elsewhere = verified.length < v.bands.length ? ' Elsewhere we found no change we can vouch for.' : '';
  return `Verified band by band: ${words.join(' and ')}.${elsewhere}`;
}

/** What would settle an open question, in words; empty for a settled one. */
export function nextStep(v: VerdictSummary): string {
  if (v.verdict === 'not-comparable') return 'Repeat both sides under the same conditions.';
  if (v.verdict !== 'not-resolved') return '';
  if (v.reason === 'scatter') return 'Find what makes the pulls differ before you make more of them.';
  const again = v.suspected.filter((s) => s.repeat);
  if (again.length > 0) return `Repeat ${again.map((s) => s.name).join(' and ')} while the setup is still on the car.`;
  const more = v.morePullsNeeded;
  if (!more && v.gain && !isCurved(factsNamed(v.measure)))
    return readFrom(v.measure) === 'passes'
      ? 'More passes in both directions, on a still day, would settle it.'
      : 'More pulls, or readings that repeat better, would settle it.';
  if (!more && readFrom(v.measure) === 'passes') return 'Drive at least two passes of each setup in each direction.';
  if (!more) return 'Make at least two counted pulls of each setup.';
  if (more.pulls === null) return 'More pulls will not help here: steadier conditions would.';
  const rounds = more.rounds.map((r) => `${r.counted} of ${r.side === 0 ? v.baseline : v.candidate}`).join(', then ');
  return `About ${more.pulls} more counted pulls (${rounds}) would settle it about every second time.`;
}

/** What stands beside the figure: "+2.0 %, 95 % sure it lies between +1.1 and +2.9 %"; an additive measure has no per cent. */
export function sureWords({ gain }: Pick<CandidateVerdict, 'gain'>, units: ShownUnits): string {
  if (!gain) return 'no estimate';
  const sure = `${Math.round(gain.confidence * 100)} % sure it lies between`;
  const { percent, lowPercent, highPercent } = gain;
  if (percent === null || lowPercent === null || highPercent === null) {
    const g = gainInterval(gain, units);
    return `${sure} ${g.low} and ${withUnit(g.high, g.unit)}`;
  }
  const p = interval(percent, lowPercent, highPercent);
  return `${p.estimate} %, ${sure} ${p.low} and ${p.high} %`;
}

/** An estimate in short: per cent, or the measure's own unit. */
export function shortGain(gain: Gain, units: ShownUnits): string {
  if (gain.percent !== null) return `${signed(gain.percent)} %`;
  const g = gainInterval(gain, units);
  return withUnit(g.estimate, g.unit);
}
