import { readFrom } from './sentences.ts';
import {
  factsNamed,
  isCurved,
  measureNamed,
  type CandidateVerdict,
  type Narrower,
  type Step,
  type WidthShares,
} from '@prandel/core';
import { differenceIn, interval, plain, signed, withUnit, type ReadDifference, type ShownUnits } from './figures.ts';

const STEP_WORDS: Readonly<Record<Step['kind'], string>> = {
  measured: 'Means of the curves, as measured',
  weather: 'Weather correction',
  'start-temperature': 'Start temperature',
  drift: 'The day’s drift, by the return check',
  'bad-pulls': 'Pulls unlike the others weighed down',
};

/** Without one, drift and what a degree costs are read off the pulls within their rounds. */
const NO_RETURN = 'Drift and heat, as far as the rounds tell';
const ON_THE_ROAD = 'The day’s drift, as far as the passes tell';

/** A pass has no weather correction and no start temperature: those steps change nothing and are left out. */
const ROAD_STEPS: Readonly<Record<Step['kind'], string>> = {
  ...STEP_WORDS,
  drift: ON_THE_ROAD,
  'bad-pulls': 'Passes unlike the others weighed down',
};

/** What is read is the measure's own: an additive one has no curve of power. */
function measuredWords(measure: string): string {
  if (!isCurved(factsNamed(measure))) return 'Means of the readings, as measured';
  return measureNamed(measure)?.id.startsWith('peak') ? 'Means of the peaks, as measured' : STEP_WORDS.measured;
}

function stepWords({ kind }: Step, v: Pick<CandidateVerdict, 'measure' | 'returnCheck'>): string {
  if (kind === 'measured') return measuredWords(v.measure);
  if (readFrom(v.measure) === 'passes') return ROAD_STEPS[kind];
  return kind === 'drift' && v.returnCheck === null ? NO_RETURN : STEP_WORDS[kind];
}

/** One line of how the number came about: what a step changed, and the difference after it. */
export interface StairLine {
  readonly kind: Step['kind'];
  readonly words: string;
  /** What the step changed, as printed; null for the first line. */
  readonly change: string | null;
  readonly after: string;
  /** The same as plain numbers in the printed unit, for a drawing. */
  readonly from: number;
  readonly to: number;
}

/** A figure of the verdict's own scale: per cent, or a difference in the measure's unit as the person reads it. */
function scaleOf(v: Pick<CandidateVerdict, 'gain'>, units: ShownUnits): ReadDifference {
  return v.gain?.percent === null ? differenceIn(v.gain.unit, units) : { unit: '%', to: (value) => value, digits: 1 };
}

/** How the number came about, line by line; a step that changed nothing is left out. Empty without a result. */
export function stairLines(
  v: Pick<CandidateVerdict, 'gain' | 'steps' | 'returnCheck' | 'measure'>,
  units: ShownUnits,
): { readonly unit: string; readonly lines: readonly StairLine[] } {
  const { unit, to, digits } = scaleOf(v, units);
  const places = digits + 1;
  // Rounded first: what is printed adds up.
  const after = v.steps.map((s) => Math.round(10 ** places * to(s.after)) / 10 ** places);
  const lines = v.steps.map((s, i): StairLine => {
    const from = i === 0 ? 0 : after[i - 1]!;
    return {
      ...{
        kind: s.kind,
        words: stepWords(s, v),
        from,
        to: after[i]!,
      },
      change: i === 0 ? null : signed(after[i]! - from, places),
      after: signed(after[i], places),
    };
  });
  return { unit, lines: lines.filter((line, i) => i === 0 || line.from !== line.to) };
}

/** Pulls of the two sides that may be unlike the others, as a sentence; empty when there is none. */
export function suspectedWords({ suspected }: Pick<CandidateVerdict, 'suspected'>): string {
  const named = suspected.map(({ name, likely }) => `${name} (${plain(Math.min(99, 100 * likely), 0)} %)`);
  if (named.length === 0) return '';
  return `The day reads as if ${named.join(' and ')} ${named.length === 1 ? 'was' : 'were'} not like the others; nothing is dropped.`;
}

const SHARE_WORDS: Readonly<Record<keyof WidthShares, string>> = {
  scatter: 'scatter from pull to pull',
  mounts: 'how the car sits on the rollers from round to round',
  drift: 'the day’s drift',
  heat: 'what a degree of start temperature costs',
};

const ROAD_SHARES: Readonly<Record<keyof WidthShares, string>> = {
  ...SHARE_WORDS,
  scatter: 'scatter from pass to pass',
  mounts: 'what a stop and a change of the car bring by themselves',
};

/** What the interval is made of, the largest share first, in whole per cent of its variance; shares under 1 % are left out. */
export function widthLines(
  v: Pick<CandidateVerdict, 'width' | 'measure'>,
): { readonly words: string; readonly percent: number }[] {
  if (!v.width) return [];
  const words = readFrom(v.measure) === 'passes' ? ROAD_SHARES : SHARE_WORDS;
  return (Object.entries(v.width.shares) as [keyof WidthShares, number][])
    .map(([key, share]) => ({ words: words[key], percent: Math.round(100 * share) }))
    .filter(({ percent }) => percent >= 1)
    .sort((a, b) => b.percent - a.percent);
}

/** What would make the interval narrower: "one more round of B: about ±0.68 %". */
export function narrowerLines(
  v: Pick<CandidateVerdict, 'gain' | 'narrower' | 'baseline' | 'candidate'>,
  units: ShownUnits,
): { readonly words: string; readonly half: string }[] {
  const { unit, to, digits } = scaleOf(v, units);
  return v.narrower.map((way) => ({
    words: wayWords(way, v),
    half: `about ±${withUnit(plain(to(way.halfWidth), digits + 1), unit)}`,
  }));
}

function wayWords(way: Narrower, { baseline, candidate }: Pick<CandidateVerdict, 'baseline' | 'candidate'>): string {
  if (way.kind === 'known-bay') return 'A bay whose ways are known: commissioning days and return checks';
  const names = way.rounds.map((r) => (r.side === 0 ? `back to ${baseline}` : candidate));
  const counted = way.rounds[0]!.counted;
  return `${names.length === 1 ? 'One more round' : 'More rounds'} of ${counted}: ${names.join(', ')}`;
}

/** "This day sees from ±0.7 %": the half-width that stands beside the result, on the same scale; empty without a result. */
export function seesFromWords(v: Pick<CandidateVerdict, 'gain' | 'measure'>, units: ShownUnits): string {
  if (!v.gain) return '';
  const { unit, to, digits } = scaleOf(v, units);
  const { percent, lowPercent, highPercent, value, lowValue, highValue } = v.gain;
  const { half } = interval(to(percent ?? value), to(lowPercent ?? lowValue), to(highPercent ?? highValue), digits);
  const who = readFrom(v.measure) === 'passes' ? 'These passes see' : 'This day sees';
  return `${who} from ±${withUnit(half, unit)}.`;
}
