import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newPull, UNKNOWN_BAY, UNKNOWN_VEHICLE } from '../job/defaults.ts';
import type { Bay, Pull } from '../job/job.ts';
import { pullCurve } from './curve.ts';
import { fingerprintOf } from './fingerprint.ts';
import { frameBytes, frameFrom, framesDocument, framesIn } from './frameBytes.ts';
import { preparePulls, PreparedPulls } from './preparedPulls.ts';
import { atGrid, fromRpm, peakOf, rawCurve, toRpm, windowMean } from './gridCurve.ts';
import { momentsCurve, momentsOf, type PullMoments } from './moments.ts';
import { longestRisingRun } from './risingRun.ts';

const curveOf = (pull: Pull, bay: Bay = UNKNOWN_BAY, width = 200) =>
  pullCurve(preparePulls([pull], bay, UNKNOWN_VEHICLE)[0]!, width);
const codes = (pull: Pull, bay?: Bay) => curveOf(pull, bay).findings.map((f) => f.code);

/** Invented engine: torque in N·m, a broad hump. */
const torqueAt = (rpm: number) => 170 - 40 * ((rpm - 4300) / 2000) ** 2;
const powerAt = (rpm: number) => (torqueAt(rpm) * rpm * Math.PI) / 30;
function curveOnly(rpm: number[], power: (n: number) => number = powerAt): Pull {
  return {
    ...newPull('p', 'A', 1),
    channels: [
      { name: 'engine_rpm', values: Float64Array.from(rpm) },
      { name: 'wheel_power_w', values: Float64Array.from(rpm, power) },
    ],
  };
}
const sweep = (from: number, to: number, step: number) =>
  Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step);

/** A roller pull with known power: kinetic energy of the roller follows the engine's power exactly. */
function rollerPull(inertia: number, brake = 0, ratioAt: (rpm: number) => number = () => 5.2, dt = 0.01): Pull {
  const columns: Record<string, number[]> = { time_s: [], engine_rpm: [], roller_rad_s: [], brake_nm: [] };
  let w = (2000 * Math.PI) / 30 / 5.2;
  for (let t = 0; w * 5.2 < (7000 * Math.PI) / 30; t += dt) {
    const rpm = (w * 5.2 * 30) / Math.PI;
    columns.time_s!.push(t);
    columns.roller_rad_s!.push(w);
    columns.engine_rpm!.push((w * ratioAt(rpm) * 30) / Math.PI);
    columns.brake_nm!.push(brake);
    const half = w + ((powerAt(rpm) - brake * w) / (inertia * w)) * (dt / 2);
    w += ((powerAt((half * 5.2 * 30) / Math.PI) - brake * half) / (inertia * half)) * dt;
  }
  return {
    ...newPull('p', 'A', 1),
    channels: Object.entries(columns).map(([name, values]) => ({ name, values: Float64Array.from(values) })),
  };
}

describe('from channels to a curve', () => {
  test.each([[0], [150]])(
    'roller inertia with %d N·m of brake gives the power that drove it, within 0.1 %%',
    (brake) => {
      const { power } = curveOf(rollerPull(60, brake), {
        ...UNKNOWN_BAY,
        rollerInertiaKgM2: 60,
        lossTorqueNm: [0, 0, 0],
      });
      for (let rpm = 2600; rpm <= 6800; rpm += 100) expect(atGrid(power, rpm / 25) / powerAt(rpm)).toBeCloseTo(1, 3);
    },
  );

  test('the roller’s own loss is added back, and its absence is a finding', () => {
    const pull = rollerPull(60);
    const bay = { ...UNKNOWN_BAY, rollerInertiaKgM2: 60 };
    const without = atGrid(curveOf(pull, bay).power, 160);
    const withLoss = atGrid(curveOf(pull, { ...bay, lossTorqueNm: [4, 0.05, 0] }).power, 160);
    const w = (4000 * Math.PI) / 30 / 5.2;
    expect(withLoss - without).toBeCloseTo(w * (4 + 0.05 * w), 0);
    expect(codes(pull, bay)).toContain('no-loss-data');
  });

  test('a power curve on file comes back on the grid at every width', () => {
    fc.assert(
      fc.property(fc.constantFrom(0, 100, 200, 400), fc.integer({ min: 8, max: 60 }), (width, step) => {
        const { power } = curveOf(curveOnly(sweep(2010, 7000, step)), UNKNOWN_BAY, width);
        expect(fromRpm(power)).toBe(2025);
        expect(toRpm(power)).toBeGreaterThanOrEqual(6925);
        for (let k = 90; k < 270; k += 6) expect(Math.abs(atGrid(power, k) / powerAt(25 * k) - 1)).toBeLessThan(0.004);
      }),
      { numRuns: 12 },
    );
  });

  test('corrected and scaled numbers are divided out, unknown ones left alone', () => {
    const pull = curveOnly(sweep(2000, 7000, 20));
    const at = (state: Pull['numberState']) => atGrid(curveOf({ ...pull, numberState: state }).power, 200);
    expect(at({ kind: 'corrected', standard: 'sae-j607', factor: 1.04 }) * 1.04).toBeCloseTo(
      at({ kind: 'uncorrected' }),
      6,
    );
    expect(at({ kind: 'scaled', factor: 1.1 }) * 1.1).toBeCloseTo(at({ kind: 'uncorrected' }), 6);
    expect(at({ kind: 'unknown' })).toBe(at({ kind: 'uncorrected' }));
  });

  test('after the first sustained fall nothing is averaged in', () => {
    const up = sweep(2000, 7000, 25);
    const down = sweep(2500, 6950, 25).reverse();
    const run = longestRisingRun([...up, ...down]);
    expect(run).toEqual({ from: 0, to: up.length });
    const pull = curveOnly([...up, ...down], powerAt);
    expect(atGrid(curveOf(pull).power, 200)).toBeCloseTo(powerAt(5000), -2);
  });

  test('the longest rising run survives pickup noise (property)', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -18, max: 18 }), { minLength: 200, maxLength: 200 }), (noise) => {
        const rpm = noise.map((n, i) => 2000 + 25 * i + n);
        const run = longestRisingRun(rpm);
        expect(rpm[run.to - 1]! - rpm[run.from]!).toBeGreaterThan(4850);
      }),
    );
  });
});

describe('findings', () => {
  test('a gear-change spike at the end cannot become the peak', () => {
    const pull = curveOnly(sweep(2000, 7000, 20), (n) => powerAt(n) * (n > 6900 ? 1.15 : 1));
    const { power, findings } = curveOf(pull);
    expect(findings.map((f) => f.code)).toContain('shift');
    expect(peakOf(power)!.value).toBeLessThan(1.002 * Math.max(...sweep(2000, 7000, 25).map(powerAt)));
  });

  test('a spike inside the run is bridged', () => {
    const pull = curveOnly(sweep(2000, 7000, 20), (n) => powerAt(n) * (Math.abs(n - 4500) < 60 ? 1.2 : 1));
    expect(curveOf(pull).findings.map((f) => f.code)).toContain('spike');
    expect(atGrid(curveOf(pull).power, 180) / powerAt(4500)).toBeCloseTo(1, 2);
  });

  test('a smooth pull has nothing to report', () => {
    expect(codes(curveOnly(sweep(2000, 7000, 20)))).toEqual([]);
  });

  test('slip raises the engine over the roller, a downshift steps the ratio', () => {
    const bay = { ...UNKNOWN_BAY, rollerInertiaKgM2: 60, lossTorqueNm: [0, 0, 0] as const };
    expect(
      codes(
        rollerPull(60, 0, (n) => 5.2 * (1 + 0.03 * Math.exp(-(((n - 4600) / 500) ** 2)))),
        bay,
      ),
    ).toContain('slip');
    expect(
      codes(
        rollerPull(60, 0, (n) => (n < 2600 ? 4 : 5.2)),
        bay,
      ),
    ).toContain('shift');
    expect(codes(rollerPull(60), bay)).toEqual([]);
  });

  test('rpm dropouts are counted and left out', () => {
    const rpm = sweep(2000, 7000, 10).map((n, i) => (i % 97 === 50 ? 0 : n));
    expect(codes(curveOnly(rpm, (n) => (n ? powerAt(n) : 0)))).toEqual(['rpm-dropout']);
  });

  test('nothing to compute power from is said, with what is missing', () => {
    const pull = { ...newPull('p', 'A', 1), channels: [{ name: 'roller_rad_s', values: new Float64Array(5) }] };
    expect(curveOf(pull).findings[0]).toMatchObject({ code: 'no-power', severity: 'blocking' });
  });
});

test('window mean is the trapezoid on the grid with interpolated ends', () => {
  const rpm = Float64Array.from(sweep(1000, 8000, 10));
  const straight = rawCurve(
    rpm,
    rpm.map((n) => 2 * n + 1),
  );
  fc.assert(
    fc.property(
      fc.double({ min: 1100, max: 4000, noNaN: true }),
      fc.double({ min: 10, max: 3500, noNaN: true }),
      (from, width) => {
        expect(windowMean(straight, from, from + width)).toBeCloseTo(2 * from + width + 1, 5);
      },
    ),
  );
  expect(windowMean(straight, 500, 2000)).toBeNaN();
});

test('the peak is the vertex of a quadratic through the highest point ± 4', () => {
  const rpm = Float64Array.from(sweep(4000, 7000, 10));
  const peak = peakOf(
    rawCurve(
      rpm,
      rpm.map((n) => 90_000 - 0.004 * (n - 5987) ** 2),
    ),
  )!;
  expect(peak.rpm).toBeCloseTo(5987, 0);
  expect(peak.value).toBeCloseTo(90_000, 0);
  expect(
    peakOf(
      momentsCurve(
        momentsOf(
          rpm,
          rpm.map((n) => n * 10),
        ),
        200,
      ),
    )!.reached,
  ).toBe(false);
});

describe('what every pull of a setup has is no fault', () => {
  /** A valve lift that switches at 4400 rpm: 8 % more torque from there on. */
  const lifted = (n: number) => powerAt(n) * (n > 4400 ? 1.08 : 1);
  const pulls = (setup: string, count: number, power: (n: number, i: number) => number) =>
    Array.from({ length: count }, (_, i) => ({
      ...curveOnly(sweep(2000, 7000, 10), (n) => power(n, i)),
      id: `${setup}${i + 1}`,
      setupId: setup,
    }));
  const found = (list: Pull[]) =>
    preparePulls(list, UNKNOWN_BAY, UNKNOWN_VEHICLE).map(({ findings }) => findings.map((f) => f.code));

  test('a step at one speed in every pull stays in the curve and is called a feature of the setup', () => {
    const own = pulls('B', 3, (n) => lifted(n));
    const [first] = preparePulls(own, UNKNOWN_BAY, UNKNOWN_VEHICLE);
    expect(found(own)).toEqual([['feature'], ['feature'], ['feature']]);
    // Nothing is bridged: the samples beside the step are all there.
    const { first: k, samples } = momentsCurve(first!.moments, 0);
    const beside = samples.subarray(4325 / 25 - k, 4475 / 25 - k + 1);
    expect(beside.reduce((a, b) => a + b)).toBe(17);
  });

  test('the same step in one pull of three is a fault of that pull', () => {
    const codesOf = found(pulls('B', 3, (n, i) => (i === 1 ? lifted(n) : powerAt(n))));
    expect(codesOf[0]).toEqual([]);
    expect(codesOf[1]).toContain('spike');
    expect(codesOf.flat()).not.toContain('feature');
  });

  test('a gear change at the end of every pull stays one: no peak is read from it', () => {
    const own = pulls('B', 3, (n) => powerAt(n) * (n > 6900 ? 1.15 : 1));
    for (const codesOf of found(own)) expect(codesOf).toEqual(['shift']);
  });

  test('a step of one setup says nothing about another', () => {
    const codesOf = found([...pulls('A', 3, powerAt), ...pulls('B', 3, (n) => lifted(n))]);
    expect(codesOf.slice(0, 3).flat()).toEqual([]);
    expect(codesOf.slice(3).flat()).toEqual(['feature', 'feature', 'feature']);
  });
});

describe('usable windows that are kept', () => {
  const bay = { ...UNKNOWN_BAY, rollerInertiaKgM2: 60 };
  const car = { ...UNKNOWN_VEHICLE, engineToRollerRatio: 5.2 };
  const pull = (() => {
    const whole = rollerPull(60);
    return { ...whole, channels: whole.channels.filter((c) => c.name !== 'engine_rpm') };
  })();

  test('hold while nothing changes that they depend on, and go with the car’s ratio, the rollers and the numbers', () => {
    const kept = new PreparedPulls();
    const first = kept.of({ pulls: [pull], bay, vehicle: car })[0]!;
    const again = kept.of({
      pulls: [{ ...pull, status: 'settle' }],
      bay,
      vehicle: { ...car, label: 'x', massKg: 900 },
    })[0]!;
    expect(again.moments).toBe(first.moments);
    expect(again.pull.status).toBe('settle');
    const top = ({ first: k, raw }: PullMoments) => 25 * (k + raw.length - 1);
    const slower = kept.of({ pulls: [pull], bay, vehicle: { ...car, engineToRollerRatio: 4 } })[0]!;
    expect(top(slower.moments) / top(first.moments)).toBeCloseTo(4 / 5.2, 2);
    const heavier = kept.of({ pulls: [pull], bay: { ...bay, rollerInertiaKgM2: 66 }, vehicle: car })[0]!;
    expect(heavier.moments.raw[40]! / first.moments.raw[40]!).toBeCloseTo(1.1, 3);
  });

  test('frames stand for samples as long as rollers, car and numbers are the same, and come back from their bytes', () => {
    const maker = new PreparedPulls();
    const [made] = maker.of({ pulls: [pull], bay, vehicle: car });
    const bare = { ...pull, channels: [] };
    const kept = new PreparedPulls();
    expect(kept.missing({ pulls: [bare], bay, vehicle: car })).toEqual(['p']);
    kept.take([...maker.frames].map(([id, frame]) => [id, frameFrom(frameBytes(frame))!]));
    expect(kept.missing({ pulls: [bare], bay, vehicle: car })).toEqual([]);
    expect(kept.missing({ pulls: [bare], bay: { ...bay, readoutScale: 1.1 }, vehicle: car })).toEqual(['p']);
    expect(kept.of({ pulls: [bare], bay, vehicle: car })[0]).toEqual({ ...made, pull: bare });
    const bytes = frameBytes([...maker.frames.values()][0]!);
    expect(bytes.length).toBeLessThan(45_000);
    expect(frameFrom(bytes.subarray(0, bytes.length - 8))).toBeNull();
    const other = (head: string) => {
      const whole = bytes.slice();
      const length = new DataView(whole.buffer).getUint32(0, true);
      whole.set(new TextEncoder().encode(head.padEnd(length)), 4);
      return frameFrom(whole);
    };
    for (const head of ['', 'null', '{"version":1}', '{"version":1,"lengths":[1e9,-8,0,0]}', '[{}]'])
      expect(other(head)).toBeNull();
    const document = framesDocument([
      ['p', bytes],
      ['q', new Uint8Array(16)],
    ]);
    expect([...framesIn(document.buffer)]).toEqual([['p', frameFrom(bytes)]]);
    // A frame that lies anywhere in other bytes is read all the same.
    const within = new Uint8Array(bytes.length + 3);
    within.set(bytes, 3);
    expect(frameFrom(within.subarray(3))).toEqual(frameFrom(bytes));
  });

  test('one fingerprint a recording, however its other columns are; another from one sample on', () => {
    const changed = pull.channels.map((c) => ({ ...c, values: c.values.slice() }));
    expect(fingerprintOf(changed)).toBe(
      fingerprintOf([...pull.channels, { name: 'oil_c', values: new Float64Array(3) }]),
    );
    const roller = changed.find((c) => c.name === 'roller_rad_s')!.values;
    roller[17] = roller[17]! + 1e-12;
    expect(fingerprintOf(changed)).not.toBe(fingerprintOf(pull.channels));
  });
});
