import type { Setup } from '../job/job.ts';
import { carriedAlong } from '../job/permanent.ts';
import type { PlannedDay } from './dayPlan.ts';

/** What speaks against a plan: minutes of the day, °C, per cent of the correction factor. */
export type PlanWarning =
  | { readonly code: 'before-opening'; readonly opensMin: number }
  | { readonly code: 'after-closing'; readonly endsMin: number; readonly closesMin: number }
  | { readonly code: 'several-days'; readonly days: number }
  | { readonly code: 'day-without-anchor'; readonly days: readonly number[] }
  | {
      readonly code: 'round-beyond-closing';
      readonly setup: string;
      readonly minutes: number;
      readonly openMin: number;
    }
  | { readonly code: 'cannot-come-off'; readonly carries: string; readonly setups: readonly string[] }
  | { readonly code: 'forecast-swings'; readonly swingC: number; readonly allowedC: number }
  | { readonly code: 'factor-swings'; readonly swingPercent: number; readonly allowedPercent: number };

/**
 * Closing time, and the weather somebody read and typed, against a plan.
 * @param startMin the first pull, minutes after midnight; `open` likewise
 * @param forecastC least and most air temperature of the day, °C; null when nobody typed it
 * @example planWarnings({ minutes: 200 }, 540, { fromMin: 480, untilMin: 720 }, null, { airDriftC: 5.6, factorDriftPercent: 1 })[0].code // 'after-closing'
 */
export function planWarnings(
  day: Pick<PlannedDay, 'minutes'> & Partial<Pick<PlannedDay, 'days' | 'withoutAnchor'>>,
  startMin: number,
  open: { fromMin: number; untilMin: number },
  forecastC: readonly [number, number] | null,
  gates: { readonly airDriftC: number; readonly factorDriftPercent: number },
  factorOf: (airC: number) => number = () => 1,
): PlanWarning[] {
  const warnings: PlanWarning[] = [];
  if (startMin < open.fromMin) warnings.push({ code: 'before-opening', opensMin: open.fromMin });
  const endsMin = startMin + day.minutes;
  const { days = 1, withoutAnchor = [] } = day;
  if (days > 1) warnings.push({ code: 'several-days', days });
  else if (endsMin > open.untilMin) warnings.push({ code: 'after-closing', endsMin, closesMin: open.untilMin });
  if (withoutAnchor.length > 0) warnings.push({ code: 'day-without-anchor', days: withoutAnchor.map((d) => d + 1) });
  if (!forecastC) return warnings;
  const swingC = forecastC[1] - forecastC[0];
  const swingPercent = 100 * Math.abs(factorOf(forecastC[1]) / factorOf(forecastC[0]) - 1);
  if (swingC > gates.airDriftC) warnings.push({ code: 'forecast-swings', swingC, allowedC: gates.airDriftC });
  else if (swingPercent > gates.factorDriftPercent)
    warnings.push({ code: 'factor-swings', swingPercent, allowedPercent: gates.factorDriftPercent });
  return warnings;
}

/**
 * What speaks against the rounds themselves: a setup that comes after one that cannot come off again without being made from it, and a
 * round that no day is long enough for.
 * @param openMin minutes that the shop is open
 * @example roundWarnings({ steps: [], blocks: [] }, { setups: [], baseline: 'A' }, 540) // []
 */
export function roundWarnings(
  { steps, blocks }: Pick<PlannedDay, 'steps' | 'blocks'>,
  { setups, baseline }: { readonly setups: readonly Setup[]; readonly baseline: string },
  openMin: number,
): PlanWarning[] {
  const stuck = carriedAlong(
    setups,
    baseline,
    steps.map((s) => s.setup),
  );
  // A round is what is between two pulls of other rounds: its fitting, its rest and its pulls, without the night.
  const longest = new Map<string, number>();
  let minutes = 0;
  for (const { kind, setup, fromMin, toMin } of blocks) {
    if (kind !== 'night') minutes += toMin - fromMin;
    if (kind !== 'pulls') continue;
    if (openMin > 0 && minutes > openMin) longest.set(setup, Math.max(minutes, longest.get(setup) ?? 0));
    minutes = 0;
  }
  return [
    ...[...new Set(stuck.map((own) => own.carries))].map((carries): PlanWarning => {
      const on = stuck.filter((own) => own.carries === carries).map((own) => own.setup);
      return { code: 'cannot-come-off', carries, setups: on };
    }),
    ...[...longest].map(([setup, own]): PlanWarning => ({
      code: 'round-beyond-closing',
      setup,
      minutes: own,
      openMin,
    })),
  ];
}
