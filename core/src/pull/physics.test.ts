import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newPull, UNKNOWN_BAY, UNKNOWN_VEHICLE } from '../job/defaults.ts';
import type { Bay, Pull } from '../job/job.ts';
import { pullCurve } from './curve.ts';
import { preparePulls } from './preparedPulls.ts';
import { atGrid as atIndex, fromRpm, GRID_STEP_RPM, toRpm, type GridCurve } from './gridCurve.ts';

/** A rig of any size: rollers, their loss, a brake, the ratio between engine and roller, and how often it is sampled. */
interface Rig {
  readonly inertia: number;
  readonly loss: readonly [number, number, number];
  readonly brakeShare: number;
  readonly ratio: number;
  readonly hertz: number;
}

const rigs: fc.Arbitrary<Rig> = fc.record({
  inertia: fc.double({ min: 30, max: 60, noNaN: true }),
  loss: fc.tuple(
    fc.double({ min: 0, max: 8, noNaN: true }),
    fc.double({ min: 0, max: 0.05, noNaN: true }),
    fc.double({ min: 0, max: 0.001, noNaN: true }),
  ),
  brakeShare: fc.double({ min: 0, max: 0.4, noNaN: true }),
  ratio: fc.double({ min: 4, max: 6, noNaN: true }),
  hertz: fc.constantFrom(25, 50, 100),
});

/** Invented engine: N·m at the engine, a broad hump. */
const torqueAt = (rpm: number) => 172 - 38 * ((rpm - 4200) / 2000) ** 2;
const powerAt = (rpm: number) => (torqueAt(rpm) * rpm * Math.PI) / 30;

const bayOf = ({ inertia, loss }: Rig): Bay => ({ ...UNKNOWN_BAY, rollerInertiaKgM2: inertia, lossTorqueNm: loss });

/**
 * A sweep that follows the engine's torque exactly: J·dω/dt = T·ratio − T_brake − T_loss(ω), integrated ten times finer than
 * it is sampled (midpoint rule), so that the recording's own error is far below what is asserted.
 */
function sweep(rig: Rig, gain = 0): Pull {
  const { inertia, loss, brakeShare, ratio, hertz } = rig;
  const columns = {
    time_s: [] as number[],
    engine_rpm: [] as number[],
    roller_rad_s: [] as number[],
    brake_nm: [] as number[],
  };
  const rpmOf = (omega: number) => (omega * ratio * 30) / Math.PI;
  const driving = (omega: number) => torqueAt(rpmOf(omega)) * (1 + gain / 100) * ratio;
  const brakeAt = (omega: number) => brakeShare * driving(omega);
  const rate = (omega: number) =>
    (driving(omega) - brakeAt(omega) - (loss[0] + loss[1] * omega + loss[2] * omega * omega)) / inertia;
  let omega = (1800 * Math.PI) / 30 / ratio;
  const fine = 1 / hertz / 10;
  for (let t = 0; rpmOf(omega) < 6600 && t < 30; t += 1 / hertz) {
    columns.time_s.push(t);
    columns.engine_rpm.push(rpmOf(omega));
    columns.roller_rad_s.push(omega);
    columns.brake_nm.push(brakeAt(omega));
    for (let k = 0; k < 10; k += 1) omega += fine * rate(omega + 0.5 * fine * rate(omega));
  }
  return {
    ...newPull('p', 'A', 1),
    channels: Object.entries(columns).map(([name, values]) => ({ name, values: Float64Array.from(values) })),
  };
}

const atGrid = (curve: GridCurve, rpm: number) => atIndex(curve, rpm / GRID_STEP_RPM);
const curveOf = (pull: Pull, bay: Bay, width = 200) =>
  pullCurve(preparePulls([pull], bay, UNKNOWN_VEHICLE)[0]!, width).power;

/** Shorter sweeps are over before full throttle has settled: no shop pulls like that. */
const lastsLongEnough = (pull: Pull) => pull.channels[0]!.values.at(-1)! > 3;

describe('wheel power from a roller that is only a roller', () => {
  test('any rig gives back the engine that turned it, within a third of a per cent (property)', () => {
    fc.assert(
      fc.property(rigs, (rig) => {
        const pull = sweep(rig);
        fc.pre(lastsLongEnough(pull));
        const power = curveOf(pull, bayOf(rig));
        expect(fromRpm(power)).toBeLessThanOrEqual(2800);
        expect(toRpm(power)).toBeGreaterThan(6200);
        for (let rpm = 2800; rpm <= 6200; rpm += 100)
          expect(Math.abs(atGrid(power, rpm) / powerAt(rpm) - 1)).toBeLessThan(0.0034);
      }),
      { numRuns: 15 },
    );
  });

  test('a part that adds so many per cent is read as so many per cent, whatever the rig (property)', () => {
    fc.assert(
      fc.property(rigs, fc.double({ min: -6, max: 6, noNaN: true }), (rig, gain) => {
        const before = sweep(rig);
        fc.pre(lastsLongEnough(before));
        const [a, b] = [curveOf(before, bayOf(rig)), curveOf(sweep(rig, gain), bayOf(rig))];
        for (let rpm = 3000; rpm <= 6000; rpm += 250)
          expect(100 * (atGrid(b, rpm) / atGrid(a, rpm) - 1)).toBeCloseTo(gain, 0);
      }),
      { numRuns: 8 },
    );
  });

  test('the rollers’ inertia scales power, and nothing else does: time shifted or samples doubled change nothing (property)', () => {
    fc.assert(
      fc.property(rigs, fc.double({ min: -1e4, max: 1e4, noNaN: true }), (rig, shift) => {
        const bare = { ...rig, loss: [0, 0, 0] as const, brakeShare: 0 };
        const pull = sweep(bare);
        fc.pre(lastsLongEnough(pull));
        const power = curveOf(pull, bayOf(bare));
        const moved = {
          ...pull,
          channels: pull.channels.map((c) =>
            c.name === 'time_s' ? { ...c, values: c.values.map((t) => t + shift) } : c,
          ),
        };
        const twice = curveOf(pull, { ...bayOf(bare), rollerInertiaKgM2: 2 * bare.inertia });
        const later = curveOf(moved, bayOf(bare));
        for (let rpm = 3000; rpm <= 6000; rpm += 500) {
          expect(atGrid(later, rpm) / atGrid(power, rpm)).toBeCloseTo(1, 5);
          expect(atGrid(twice, rpm) / atGrid(power, rpm)).toBeCloseTo(2, 9);
        }
      }),
      { numRuns: 8 },
    );
  });

  test('a wider averaging moves no mean of a smooth curve, and never what it is compared with', () => {
    const rig = { inertia: 40, loss: [3, 0.02, 0.0004] as const, brakeShare: 0, ratio: 5.2, hertz: 100 };
    const pull = sweep(rig);
    const at = (width: number) => curveOf(pull, bayOf(rig), width);
    for (const width of [0, 100, 400]) {
      const [one, other] = [at(width), at(200)];
      for (let rpm = 3200; rpm <= 5800; rpm += 200) expect(atGrid(one, rpm) / atGrid(other, rpm)).toBeCloseTo(1, 2);
    }
  });
});
