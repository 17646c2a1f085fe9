import { correctionFactor, type Channel } from '@prandel/core';
import type { Random } from '../random.ts';
import { torqueOf } from './engine.ts';
import type { PullState } from './pullPhysics.ts';
import type { DaySpec } from './spec.ts';
import { round } from './weather.ts';

const BEFORE_S = 1.2;
const AFTER_S = 5;
/** Share of its torque that the engine has before boost comes, and how fast that part is there, seconds. */
const UNBOOSTED = 0.42;
const UNBOOSTED_S = 0.06;
const CRUISE = 0.12;

/**
 * A throttle step at a speed that the brake holds: what the engine has without boost is there at once, the rest follows in first
 * order. Thin air costs what the correction standard gives back.
 * @param seconds of the setup, to 63 % of the boosted part
 */
export function simulateRollOn(spec: DaySpec, state: PullState, seconds: number, random: Random): Channel[] {
  const held = spec.rollOns!.rpm;
  const full =
    (torqueOf(spec.engine, held) / correctionFactor('sae-j1349', state.air).factor) * (1 + state.offsetPercent / 100);
  const own = seconds * Math.exp(random.normal(0.012) + 0.0025 * (state.startAboveAirC - 10));
  const still = state.air.pressureHpa / 10;
  const columns: Record<string, number[]> = {
    ...{ time_s: [], engine_rpm: [], throttle_fraction: [], wheel_torque_nm: [], intake_c: [], manifold_kpa: [] },
  };
  for (let i = 0; i < (BEFORE_S + AFTER_S) * spec.sampleHz; i += 1) {
    const t = i / spec.sampleHz;
    const open = t - BEFORE_S;
    const there = open < 0 ? 0 : 1 - Math.exp(-open / UNBOOSTED_S);
    const boosted = open < 0 ? 0 : 1 - Math.exp(-open / own);
    const share = CRUISE + (1 - CRUISE) * (UNBOOSTED * there + (1 - UNBOOSTED) * boosted);
    columns.time_s!.push(round(t, 4));
    columns.engine_rpm!.push(round(held + random.normal(2), 1));
    columns.throttle_fraction!.push(round(open < 0 ? CRUISE : Math.min(1, CRUISE + open / 0.06), 3));
    columns.wheel_torque_nm!.push(round(full * share + random.normal(0.4), 2));
    columns.intake_c!.push(
      round(state.air.airC + state.startAboveAirC + 0.4 * Math.max(0, open) + random.normal(0.05), 2),
    );
    columns.manifold_kpa!.push(round(still * (0.45 + 0.55 * there) + 68 * boosted + random.normal(0.2), 1));
  }
  return Object.entries(columns).map(([name, values]) => ({ name, values: Float64Array.from(values) }));
}
