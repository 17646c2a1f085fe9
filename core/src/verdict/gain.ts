import { mean } from '../statistics/summary.ts';
import type { Answer } from './engine/answer.ts';
import type { MeasuredDay } from './measuredDay.ts';
import type { Gain } from './outcome.ts';
import { truePercent } from './percent.ts';
import type { AnalysisSettings } from './settings.ts';

/** An answer times the measure's factor: log-percent of the measure, or its own unit. */
export interface Scaled {
  readonly estimate: number;
  readonly low: number;
  readonly high: number;
  readonly low90: number;
  readonly high90: number;
}

export function scaledAnswer({ estimate, low, high, low90, high90 }: Scaled, factor: number): Scaled {
  return {
    estimate: factor * estimate,
    low: factor * low,
    high: factor * high,
    low90: factor * low90,
    high90: factor * high90,
  };
}

/** A candidate's answer in true per cent and in the measure's own unit, of the geometric mean of the baseline's pulls. */
export function gainOf(day: MeasuredDay, answer: Answer, { endpoint, confidence }: AnalysisSettings): Gain {
  const e = scaledAnswer(answer, endpoint.factor);
  const base = day.used.filter((c) => c.side === 0).map((c) => endpoint.read(c, day.window));
  const log = endpoint.scale === 'log';
  const level = log ? Math.exp(mean(base.map(Math.log))) : NaN;
  const percent = (v: number) => (log ? truePercent(v) : null);
  const value = (v: number) => (log ? (level * truePercent(v)) / 100 : v);
  return {
    percent: percent(e.estimate),
    lowPercent: percent(e.low),
    highPercent: percent(e.high),
    low90Percent: percent(e.low90),
    high90Percent: percent(e.high90),
    value: value(e.estimate),
    lowValue: value(e.low),
    highValue: value(e.high),
    unit: endpoint.unit,
    ...{ confidence, p: answer.p, estimate: e.estimate },
  };
}
