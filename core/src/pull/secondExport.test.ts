import { expect, test } from '@jest/globals';
import { mersenne } from 'pure-rand/generator/mersenne';
import { uniformFloat64 } from 'pure-rand/distribution/uniformFloat64';
import { secondExports, type ComparedCurve } from './secondExport.ts';

// Made-up engine with a dip that every pull shares, a part that adds 3 % at the top, and ripple of 0.3 % that is each pull's own.
const chance = mersenne(7);
const noise = () => (uniformFloat64(chance) + uniformFloat64(chance) + uniformFloat64(chance) - 1.5) * 0.006;
const engine = (g: number) => 20 + 1.6 * g - 0.8 * Math.exp(-(((g - 22) / 5) ** 2));
const pull = (part: boolean, minutes: number | null): ComparedCurve => ({
  first: 5,
  values: Float64Array.from({ length: 42 }, (_, i) => 1000 * engine(i + 5) * (1 + (part ? 0.0007 * i : 0) + noise())),
  startedMs: minutes === null ? null : minutes * 60_000,
});
const smoothed = (c: ComparedCurve, factor: number): ComparedCurve => ({
  ...{ first: c.first + 1, startedMs: null },
  values: Float64Array.from(
    { length: c.values.length - 2 },
    (_, i) => factor * (0.2 * c.values[i]! + 0.6 * c.values[i + 1]! + 0.2 * c.values[i + 2]!),
  ),
});

test('a pull exported again, smoother and under another standard, is told; twelve honest repeats of two setups are not', () => {
  const repeats = Array.from({ length: 12 }, (_, k) => pull(k > 5, null));
  expect(secondExports(repeats)).toEqual([]);
  const found = secondExports([...repeats, smoothed(repeats[3]!, 1.021)]);
  expect(found.map(({ a, b }) => [a, b])).toEqual([[3, 12]]);
  expect(found[0]!.correlation).toBeGreaterThan(0.9999);
});

test('two times are two pulls, however alike', () => {
  const one = pull(false, 3);
  expect(secondExports([one, { ...one, startedMs: 9 * 60_000 }])).toEqual([]);
  expect(secondExports([one, { ...one, startedMs: one.startedMs! + 5000 }])).toHaveLength(1);
});
