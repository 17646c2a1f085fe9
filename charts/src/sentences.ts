import type { CandidateVerdict, SaidVerdict } from '@prandel/core';
import { gainInterval, interval, signed, type ShownUnits } from './figures.ts';

/** What the sentences need of a job: names of its setups and the gain that was agreed to matter. */
export interface Asked {
  readonly setups: readonly { readonly id: string; readonly label: string }[];
  readonly question: { readonly meaningfulGainPercent: number };
}

/** The one sentence a customer reads. */
export function resultSentence(
  job: Asked,
  v: SaidVerdict,
  units: ShownUnits,
  window: readonly [number, number] | null,
): string {
  const label = job.setups.find((s) => s.id === v.candidate)?.label ?? v.candidate;
  const where =
    v.measure === 'peakPower' ? ', at its peak,' : window ? ` between ${window[0]} and ${window[1]} rpm` : '';
  if (!v.gain) return `There are not enough usable pulls to say anything about “${label}”.`;
  const g = gainInterval(v.gain, units);
  const range = `${g.low} and ${g.high} ${g.unit}`;
  switch (v.verdict) {
    case 'verified-gain':
      return `At full throttle${where} the car makes between ${range.replaceAll('+', '')} more at the wheels than before.${v.smallerThanMatters ? ' That is less than what was agreed to matter.' : ''}`;
    case 'verified-loss':
      return `At full throttle${where} the car makes less at the wheels than before: the change lies between ${range}.`;
    case 'no-meaningful-change':
      // The rule looks at the 90 % interval; the wider one would not always lie inside what was agreed.
      return v.gain.unit === '°C'
        ? `At full throttle${where} nothing changed that would matter: the change lies between ${range}.`
        : `At full throttle${where} nothing changed that would matter: with 90 % certainty the change lies between ${signed(v.gain.low90Percent)} and ${signed(v.gain.high90Percent)} %, inside the ±${job.question.meaningfulGainPercent} % that was agreed.`;
    case 'not-resolved':
      return `These pulls cannot tell whether anything changed${where}: it may lie anywhere between ${range}.`;
    case 'not-comparable':
      return `The two sets of pulls were not made under the same conditions, so no result is claimed.`;
    default:
      return v.verdict satisfies never;
  }
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
export function nextStep(v: SaidVerdict): string {
  if (v.verdict === 'not-comparable') return 'Repeat both sides under the same conditions.';
  if (v.verdict !== 'not-resolved') return '';
  const more = v.morePullsNeeded;
  if (!more)
    return v.withoutFlagged
      ? 'Repeat the flagged pull while the setup is still on the car.'
      : 'Make at least two counted pulls of each setup.';
  if (more.pulls === null) return 'More pulls will not help here: steadier conditions would.';
  const rounds = more.rounds.map((r) => `${r.counted} of ${r.side === 0 ? v.baseline : v.candidate}`).join(', then ');
  return `About ${more.pulls} more counted pulls (${rounds}) would settle it about every second time.`;
}

/** Percent interval as printed, such as "+2.0 %, 95 % sure it lies between +1.1 and +2.9 %". */
export function percentWords(v: CandidateVerdict): string {
  if (!v.gain) return 'no estimate';
  const p = interval(v.gain.percent, v.gain.lowPercent, v.gain.highPercent);
  return `${p.estimate} %, ${Math.round(v.gain.confidence * 100)} % sure it lies between ${p.low} and ${p.high} %`;
}
