import { mean } from '../statistics/summary.ts';
import { inEngine } from './endpoint.ts';
import { caseAlone, mixtureMean } from './engine/answer.ts';
import type { MeasuredDay } from './measuredDay.ts';
import type { Step } from './outcome.ts';
import { truePercent } from './percent.ts';
import type { Candidate } from './selection.ts';
import type { AnalysisSettings } from './settings.ts';

/**
 * How a result came about, from the naive figure on: the means of the curves as drawn (return checks apart) before any correction, the
 * weather, the start temperature at its usual cost, the day's drift with what the return checks say of it, and bad pulls weighed down,
 * which is the result. Each step holds the difference as it stands after it, true per cent or the measure's unit.
 * @param place of the candidate in `day.sides`
 */
export function stepsOf(
  day: MeasuredDay,
  place: number,
  setups: { readonly baseline: string; readonly candidate: string },
  { endpoint }: AnalysisSettings,
): Step[] {
  const { used, window, prepared, values } = day;
  const side = day.sides[place]!;
  const drawn = (setup: string, of: number) => {
    const own = used.flatMap((c, i) => (c.side === of ? [i] : []));
    const first = own.filter((i) => used[i]!.pull.setupId === setup);
    return first.length > 0 ? first : own;
  };
  const [base, other] = [drawn(setups.baseline, 0), drawn(setups.candidate, side)];
  const difference = (of: (i: number) => number) => mean(other.map(of)) - mean(base.map(of));
  const plain = (c: Candidate) => inEngine(endpoint, endpoint.read({ ...c, power: c.uncorrected }, window));
  const heat = (i: number) => values[i]! + prepared.heatCoefficient * prepared.heat[i]!;
  const mixture = day.mixtures[place]!;
  const shown = (v: number) => (endpoint.scale === 'log' ? truePercent(endpoint.factor * v) : endpoint.factor * v);
  return [
    { kind: 'measured', after: shown(difference((i) => plain(used[i]!))) },
    { kind: 'weather', after: shown(difference((i) => values[i]!)) },
    { kind: 'start-temperature', after: shown(difference(heat)) },
    { kind: 'drift', after: shown(mixtureMean(caseAlone(mixture, 0))) },
    { kind: 'bad-pulls', after: shown(day.answers[place]!.estimate) },
  ];
}
