import { correctionFactor, type Air, type Channel } from '@prandel/core';
import type { Random } from '../random.ts';
import { torqueOf } from './engine.ts';
import type { DaySpec, Effect, Mishap } from './spec.ts';
import { round } from './weather.ts';

export interface PullState {
  readonly air: Air;
  /** Intake air above the bay's air at the start, °C. */
  readonly startAboveAirC: number;
  readonly coolantC: number;
  readonly oilC: number;
  /** Everything about this pull that is not the part: drift, round, scatter; per cent. */
  readonly offsetPercent: number;
  readonly effect: Effect;
  /** What the cooler leaves of the charge's heat, and how much its core is above the bay's air, °C; null without one. */
  readonly cooler: { readonly effectiveness: number; readonly coreC: number } | null;
  /** Vacuum ahead of the throttle at 6000 rpm, kPa; null where it is not recorded. */
  readonly vacuumKpa: number | null;
  readonly mishap: Mishap['kind'] | null;
}

/** Start temperature at which the engine map holds, °C above the bay's air. */
const REFERENCE_ABOVE_AIR_C = 12;

/** What the compressor brings the manifold to, kPa, and how far that falls off towards the limiter. */
const BOOSTED_KPA = 168;
const FADES = 0.12;

/** Seconds at a steady speed before full throttle, where the charge is watched from its rest. */
const LEAD_S = 1.5;
const LEAD_THROTTLE = 0.12;
/** Isentropic efficiency of the compressor, and κ of air; text-book values from memory. */
const COMPRESSOR = 0.7;
const KAPPA = 1.4;

/** Temperature behind the compressor, °C, at a manifold pressure over a station pressure, both in kPa. */
function behindCompressor(intakeC: number, manifold: number, station: number): number {
  const ratio = Math.max(1, manifold / station);
  return (intakeC + 273.15) * (1 + (ratio ** ((KAPPA - 1) / KAPPA) - 1) / COMPRESSOR) - 273.15;
}

/**
 * One full-load sweep on the rollers: the engine's torque turns inertia and loss, and the roller speed is what is
 * recorded. Thin air costs what the correction standard gives back, heat what the car's coefficient says.
 */
export function simulatePull(spec: DaySpec, state: PullState, random: Random): Channel[] {
  const ratio = spec.vehicle.engineToRollerRatio ?? 5;
  const inertia = spec.bay.rollerInertiaKgM2 ?? 20;
  const [c0, c1, c2] = spec.bay.lossTorqueNm ?? [0, 0, 0];
  const dt = 1 / spec.sampleHz;
  const airShare = 1 / correctionFactor('sae-j1349', state.air).factor;
  const heatShare = 1 - (spec.heatPercentPerC / 100) * (state.startAboveAirC - REFERENCE_ABOVE_AIR_C);
  const waves = [700, 1500].map((length) => ({ length, size: random.normal(0.0012), phase: random.uniform() * 6.28 }));
  const level = airShare * heatShare * (1 + state.offsetPercent / 100);
  const end = state.mishap === 'cut-short' ? spec.engine.limitRpm - 1500 : spec.engine.limitRpm;
  const columns: Record<string, number[]> = {
    time_s: [],
    engine_rpm: [],
    roller_rad_s: [],
    throttle_fraction: [],
    intake_c: [],
    coolant_c: [],
    oil_c: [],
    ...(spec.boosted ? { manifold_kpa: [] } : {}),
    ...(state.cooler ? { charge_in_c: [], charge_c: [], ambient_c: [], ignition_deg: [], lambda: [] } : {}),
    ...(state.cooler ? { exhaust_c: [] } : {}),
    ...(state.vacuumKpa === null ? {} : { inlet_vacuum_kpa: [] }),
  };
  let omega = (spec.engine.startRpm * Math.PI) / 30 / ratio;
  let rpm = spec.engine.startRpm;
  let opened = 0;
  let closing = 0;
  let chargeIn = state.air.airC + 8;
  let exhaust = 380;
  const leadS = state.cooler ? LEAD_S : 0;
  for (let t = 0; t < 60; t += dt) {
    rpm = (omega * ratio * 30) / Math.PI;
    if (rpm >= end) closing += dt;
    if (closing > 0.5) break;
    const leading = t < leadS;
    const open = closing > 0 ? Math.max(0, 1 - closing / 0.15) : Math.min(1, 0.2 + opened / 0.25);
    const throttle = leading ? LEAD_THROTTLE : open;
    if (!leading) opened += dt;
    const wave = waves.reduce((acc, w) => acc + w.size * Math.sin((rpm / w.length) * 6.28 + w.phase), 0);
    const slip = state.mishap === 'slip' ? 0.035 * Math.exp(-(((rpm - 5200) / 350) ** 2)) : 0;
    const spike = state.mishap === 'shift-spike' && rpm > end - 200 && closing === 0 ? 0.22 : 0;
    // A controller that meets a changed engine overshoots its boost and swings around it.
    const swing = state.mishap === 'hunting' ? 0.09 * Math.exp(-opened / 2) * Math.sin(7 * opened) : 0;
    const build = 1 - Math.exp(-opened / (spec.boosted ? 0.22 : 0.12));
    const torque =
      torqueOf(spec.engine, rpm) *
      level *
      (1 + wave + spike + 0.7 * swing - 0.5 * slip + state.effect(rpm) / 100) *
      throttle *
      build;
    const rollerTorque = torque * ratio - (c0 + c1 * omega + c2 * omega * omega);
    columns.time_s!.push(round(t, 4));
    columns.roller_rad_s!.push(round(omega * (1 + random.normal(0.00004)), 5));
    columns.engine_rpm!.push(round(rpm * (1 + slip) + random.normal(1.5), 1));
    columns.throttle_fraction!.push(round(throttle, 3));
    const warmed = state.air.airC + state.startAboveAirC + 0.9 * (t < leadS ? 0 : t - leadS) ** 0.7;
    columns.intake_c!.push(round(warmed + random.normal(0.05), 2));
    columns.coolant_c!.push(round(state.coolantC + 0.18 * t + random.normal(0.05), 2));
    columns.oil_c!.push(round(state.oilC + 0.35 * t + random.normal(0.05), 2));
    // Flow goes with engine speed, what a pipe costs with its square.
    if (state.vacuumKpa !== null)
      columns.inlet_vacuum_kpa!.push(round(state.vacuumKpa * (rpm / 6000) ** 2 * throttle + random.normal(0.08), 2));
    if (spec.boosted) {
      const still = state.air.pressureHpa / 10;
      const share = (rpm - spec.engine.startRpm) / (spec.engine.limitRpm - spec.engine.startRpm);
      const boost = (BOOSTED_KPA - still) * build * throttle * (1 - FADES * Math.max(0, share) ** 2);
      columns.manifold_kpa!.push(round((still + boost) * (1 + swing), 1));
      if (state.cooler) {
        const { effectiveness, coreC } = state.cooler;
        const ambient = state.air.airC + 2;
        const hot = behindCompressor(ambient, still + boost, still);
        // Pipes and sensor follow within some tenths of a second.
        chargeIn += ((hot - chargeIn) * dt) / 0.8;
        const charge = chargeIn - effectiveness * (chargeIn - ambient) + coreC;
        columns.charge_in_c!.push(round(chargeIn + random.normal(0.1), 1));
        columns.charge_c!.push(round(charge + random.normal(0.1), 1));
        exhaust += (((leading ? 380 : 560 + 0.06 * rpm) - exhaust) * dt) / 2.2;
        columns.exhaust_c!.push(round(exhaust, 0));
        columns.ambient_c!.push(round(ambient + random.normal(0.05), 1));
        columns.ignition_deg!.push(round(16 - 6 * throttle - 0.07 * (charge - 30) + random.normal(0.1), 1));
        columns.lambda!.push(round(throttle > 0.8 ? 0.88 + random.normal(0.004) : 1 + random.normal(0.01), 3));
      }
    }
    if (!leading) omega += (rollerTorque / inertia) * dt;
  }
  return Object.entries(columns).map(([name, values]) => ({ name, values: Float64Array.from(values) }));
}
