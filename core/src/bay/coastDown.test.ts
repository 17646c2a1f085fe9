import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { coastDown } from './coastDown.ts';

/** Rollers that run out under a known loss, integrated finely (Runge–Kutta 4) and read at 50 Hz. */
function runOut([c0, c1, c2]: readonly [number, number, number], inertia: number, top: number, seconds: number) {
  const slope = (w: number) => -(c0 + c1 * w + c2 * w * w) / inertia;
  const times: number[] = [];
  const speeds: number[] = [];
  let w = top;
  const dt = 0.02;
  for (let t = 0; t < seconds && w > 2; t += dt) {
    times.push(t);
    speeds.push(w);
    const k1 = slope(w);
    const k2 = slope(w + (dt / 2) * k1);
    const k3 = slope(w + (dt / 2) * k2);
    const k4 = slope(w + dt * k3);
    w += (dt / 6) * (k1 + 2 * k2 + 2 * k3 + k4);
  }
  return [Float64Array.from(times), Float64Array.from(speeds)] as const;
}

describe('the loss of empty rollers from a coast-down', () => {
  test('is found within 1 % over the whole range, whatever it is (property)', () => {
    const loss = fc.tuple(
      fc.double({ min: 5, max: 40, noNaN: true }),
      fc.double({ min: 0, max: 0.3, noNaN: true }),
      fc.double({ min: 0, max: 0.003, noNaN: true }),
    );
    fc.assert(
      fc.property(loss, fc.double({ min: 20, max: 80, noNaN: true }), ([c0, c1, c2], inertia) => {
        const fit = coastDown(...runOut([c0, c1, c2], inertia, 120, 2000), inertia);
        const at = (w: number, [a, b, c]: readonly [number, number, number]) => a + b * w + c * w * w;
        for (const w of [10, 40, 80, 115]) expect(at(w, fit.lossTorqueNm) / at(w, [c0, c1, c2])).toBeCloseTo(1, 2);
        expect(fit.fromRadS).toBe(120);
      }),
      { numRuns: 25 },
    );
  });

  test('a constant deceleration is a constant torque: J·dω/dt', () => {
    const fit = coastDown(Float64Array.of(0, 1, 2, 3, 4, 5, 6), Float64Array.of(70, 60, 50, 40, 30, 20, 10), 2);
    expect(fit.lossTorqueNm[0]).toBeCloseTo(20, 9);
    expect(fit.residualNm).toBeLessThan(1e-9);
  });

  test('what is no coast-down says why', () => {
    const [time, speed] = runOut([20, 0.1, 0], 50, 100, 2000);
    expect(() => coastDown(time, speed, 0)).toThrow('inertia');
    expect(() => coastDown(time.subarray(0, 100), speed.subarray(0, 100), 50)).toThrow('at least 5 s');
    expect(() => coastDown(time.subarray(0, 600), speed.subarray(0, 600), 50)).toThrow('less than half');
    expect(() => coastDown(new Float64Array(), new Float64Array(), 50)).toThrow(RangeError);
  });
});
