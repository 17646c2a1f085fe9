import {
  FORECAST_METRES,
  measureNamed,
  STANDARD_GRAVITY_M_S2,
  type Agreement,
  type CandidateVerdict,
  type DistanceForecast,
  type NoForecast,
  type RoadForecast,
} from '@prandel/core';
import { interval, plain, signed } from './figures.ts';

/** What is said before anybody drives. Short, and no legal advice. */
export const ROAD_CAUTION =
  'Only where lawful and safe: on a closed course or private ground, in one gear at full throttle, with nobody in the way. Never on a public road.';

/** A result on the road in seconds, per cent and g. */
export interface RoadFigures {
  readonly seconds: string;
  readonly percent: string;
  /** Mean acceleration before and after, and its change. */
  readonly g: string;
}

/** The three figures of a road verdict; null without an estimate. */
export function roadFigures(v: Pick<CandidateVerdict, 'gain' | 'levels' | 'measure'>): RoadFigures | null {
  const measure = measureNamed(v.measure);
  const { gain } = v;
  const { baseline } = v.levels;
  if (!gain || gain.percent === null || baseline === null || measure?.fromKmH === undefined) return null;
  const s = interval(gain.value, gain.lowValue, gain.highValue, 2);
  const p = interval(gain.percent, gain.lowPercent!, gain.highPercent!);
  const g = (seconds: number) => (measure.toKmH! - measure.fromKmH!) / 3.6 / seconds / STANDARD_GRAVITY_M_S2;
  const [before, after] = [g(baseline), g(baseline * (1 + gain.percent / 100))];
  return {
    seconds: `${s.estimate} s (${s.low} to ${s.high})`,
    percent: `${p.estimate} % (${p.low} to ${p.high})`,
    g: `${plain(before, 3)} to ${plain(after, 3)} g (${signed(after - before, 3)})`,
  };
}

/** The rollers' forecast in the same figures. */
export function forecastFigures(f: RoadForecast): RoadFigures {
  const ends =
    f.lowPercent === null || f.highPercent === null ? null : interval(f.percent, f.lowPercent, f.highPercent);
  return {
    seconds: f.fitted
      ? `${signed(f.candidateS - f.baselineS, 2)} s`
      : `${plain(f.baselineS, 2)} to ${plain(f.candidateS, 2)} s`,
    percent: ends ? `${ends.estimate} % (${ends.low} to ${ends.high})` : `${signed(f.percent)} %, no ±`,
    g: `${plain(f.baselineG, 3)} to ${plain(f.candidateG, 3)} g (${signed(f.candidateG - f.baselineG, 3)})`,
  };
}

/** A distance from a rolling start, as the rollers forecast it. */
export interface DistanceFigures {
  readonly name: string;
  readonly seconds: string;
  readonly change: string;
  readonly atTheEnd: string;
}

/** Where drag was fitted, only changes are a forecast: figures of a single setup stay away. */
export function distanceFigures(d: DistanceForecast, fitted: boolean): DistanceFigures {
  const ends = d.lowS === null || d.highS === null ? null : interval(d.candidateS - d.baselineS, d.lowS, d.highS, 2);
  const kmH = (speed: number) => plain(speed * 3.6, 1);
  return {
    name: distanceName(d.metres),
    seconds: fitted ? '–' : `${plain(d.baselineS, 2)} to ${plain(d.candidateS, 2)} s`,
    change: ends
      ? `${ends.estimate} s (${ends.low} to ${ends.high})`
      : `${signed(d.candidateS - d.baselineS, 2)} s, no ±`,
    atTheEnd: fitted
      ? `${signed((d.candidateEnd - d.baselineEnd) * 3.6, 1)} km/h`
      : `${kmH(d.baselineEnd)} to ${kmH(d.candidateEnd)} km/h`,
  };
}

const distanceName = (metres: number) => (Number.isInteger(metres) ? `${plain(metres, 0)} m` : '¼ mile');

/** Distances that the curves do not reach; empty where they reach all. */
export function distancesBeyond({ distances }: Pick<RoadForecast, 'distances'>): string {
  const beyond = FORECAST_METRES.filter((metres) => distances.every((d) => d.metres !== metres)).map(distanceName);
  return beyond.length > 0 ? `${beyond.join(', ')}: the curves end before that, it needs another gear.` : '';
}

const AGREEMENT: Readonly<Record<Agreement, string>> = {
  agree: 'Road and rollers agree: their difference is smaller than what would matter.',
  differ:
    'Road and rollers differ by more than their intervals allow: look for what the rollers do not see, traction, cooling air, a shift.',
  'cannot-tell': 'Whether road and rollers agree cannot be told: the intervals are wider than what would matter.',
};

export function agreementWords(agreement: Agreement): string {
  return AGREEMENT[agreement];
}

/** Whether a driver would feel it, in words. @param share of the present acceleration that is felt, per cent */
export function feltWords({ felt, baselineG, candidateG }: RoadForecast, share: number): string {
  const change = signed(candidateG - baselineG, 3);
  return felt
    ? `A driver would feel it: ${change} g is over ${plain(share, 0)} % of what there is and over 0.02 g.`
    : `A driver would not feel it: ${change} g is under ${plain(share, 0)} % of what there is, or under 0.02 g.`;
}

const NO_FORECAST: Readonly<Record<NoForecast, string>> = {
  'no-car': 'Type mass, gearing and tyre of the car: the rollers then forecast the same run.',
  'no-curves': 'The rollers have no counted pull of one of the two setups.',
  'outside-curve':
    'These speeds need an engine speed that the curves do not cover: check the ratio, or choose other speeds.',
  'drag-not-fitted':
    'Drag cannot be fitted: drive the baseline between these speeds first, or type a drag area. If there are passes, mass or ratio do not fit them.',
};

export function noForecastWords(why: NoForecast): string {
  return NO_FORECAST[why];
}

/** What a forecast rests on. */
export function forecastBasis(f: RoadForecast): string {
  const drag = f.fitted
    ? `Drag fitted to the baseline’s passes (${plain(f.dragAreaM2, 2)} m²), so only the change is a forecast.`
    : `Drag area ${plain(f.dragAreaM2, 2)} m² as typed.`;
  return `${drag} Air ${plain(f.airDensity, 3)} kg/m³, level road, no wind, no slip.`;
}
