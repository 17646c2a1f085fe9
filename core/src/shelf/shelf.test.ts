import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mersenne } from 'pure-rand/generator/mersenne';
import { changeOf } from '../job/changes.ts';
import { shootoutDay } from '../test/shootoutDay.ts';
import { judgeJob } from '../verdict/judge.ts';
import { nextStudy } from './nextStudy.ts';
import { randomEffects, type Study } from './randomEffects.ts';
import { partSteps, stepsBeyondBaseline } from './partSteps.ts';
import { shelfAnswer, type ShelfStudy } from './shelf.ts';

/** Seeded normal deviates by Box and Muller (1958). */
function deviates(seed: number) {
  const rng = mersenne(seed);
  const uniform = () => ((rng.next() >>> 0) + 0.5) / 4294967296;
  return { uniform, normal: () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform()) };
}

describe('what the next car may see', () => {
  /** Made-up shelves of three to twelve cars; jobs see to 0.25 to 0.7 %. @returns how many intervals hold the next car's own effect */
  const covered = (
    shelves: number,
    seed: number,
    spreadOf: (normal: () => number) => number,
    ask = nextStudy as (cars: Study[]) => { low: number; high: number } | null,
  ) => {
    const { uniform, normal } = deviates(seed);
    let inside = 0;
    for (let shelf = 0; shelf < shelves; shelf += 1) {
      const [mean, spread] = [3 * normal(), spreadOf(normal)];
      const cars = Array.from({ length: 3 + Math.floor(10 * uniform()) }, () => {
        const error = 0.25 + 0.45 * uniform();
        return { estimate: mean + spread * normal() + error * normal(), variance: error * error };
      });
      const next = mean + spread * normal();
      const { low, high } = ask(cars)!;
      if (next >= low && next <= high) inside += 1;
    }
    return inside / shelves;
  };

  test('2,000 shelves of a part whose effect differs by 0.8 % between cars: 93 to 97 % hold the next car', () => {
    const share = covered(2000, 20261127, () => 0.8);
    expect(share).toBeGreaterThan(0.93);
    expect(share).toBeLessThan(0.97);
  });

  test('1,000 shelves of parts that differ as much as the prior says: 93 to 97 % again', () => {
    const share = covered(1000, 7, (normal) => Math.abs(2 * normal()));
    expect(share).toBeGreaterThan(0.93);
    expect(share).toBeLessThan(0.97);
  });

  test('where cars differ by less than a job sees, the published interval with one spread put in covers too few', () => {
    const published = (cars: Study[]) => {
      const { nextLow, nextHigh } = randomEffects(cars);
      return { low: nextLow!, high: nextHigh! };
    };
    expect(covered(700, 11, () => 0.4, published)).toBeLessThan(0.93);
    expect(covered(700, 11, () => 0.4)).toBeGreaterThan(0.95);
  });

  test('two cars say nothing of a third; more cars narrow it; it moves with them (property)', () => {
    expect(nextStudy([1, 2].map((estimate) => ({ estimate, variance: 0.1 })))).toBeNull();
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 3, maxLength: 8 }),
        fc.double({ min: -9, max: 9, noNaN: true }),
        (list, by) => {
          const cars = list.map((estimate) => ({ estimate, variance: 0.2 }));
          const own = nextStudy(cars)!;
          const more = nextStudy([...cars, ...cars, ...cars])!;
          const moved = nextStudy(cars.map((c) => ({ ...c, estimate: c.estimate + by })))!;
          expect(more.high - more.low).toBeLessThan(own.high - own.low + 1e-9);
          expect(moved.low).toBeCloseTo(own.low + by, 6);
          expect(moved.high).toBeCloseTo(own.high + by, 6);
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('a shelf', () => {
  const study = (car: string, estimate: number | null, more: Partial<ShelfStudy> = {}): ShelfStudy => ({
    ...{ car, estimate, model: 'Vireo', verdict: 'verified-gain', standardError: 0.4, factors: {} },
    ...more,
  });

  test('one job is itself; two have no interval of their average and say nothing of the next car', () => {
    const one = shelfAnswer([study('a', 2)], 'windowMeanPower').all!;
    expect([one.cars, one.average, one.next]).toEqual([1, null, null]);
    expect(one.estimate).toBeCloseTo(2.0201, 4);
    expect(shelfAnswer([study('a', 2), study('b', 1)], 'windowMeanPower').all).toMatchObject({
      average: null,
      next: null,
    });
  });

  test('nulls and losses count, what was not comparable and what has no estimate do not', () => {
    const list = [
      study('a', 2),
      study('b', 0.1, { verdict: 'no-meaningful-change' }),
      study('c', -1, { verdict: 'verified-loss' }),
      study('d', 9, { verdict: 'not-comparable' }),
      study('e', null, { verdict: 'not-resolved' }),
    ];
    const { all, weights } = shelfAnswer(list, 'windowMeanPower');
    expect(all!.cars).toBe(3);
    expect(weights.map((w) => w > 0)).toEqual([true, true, true, false, false]);
    expect(weights.reduce((a, b) => a + b)).toBeCloseTo(1, 12);
  });

  test('a car that came three times speaks for one car', () => {
    const thrice = shelfAnswer(
      [study('a', 2), study('a', 2), study('a', 2), study('b', 0), study('c', 1)],
      'windowMeanPower',
    );
    expect(thrice.all!.cars).toBe(3);
    const [first, second, third] = thrice.weights;
    expect(first).toBeCloseTo(second!, 12);
    expect(third! * 3).toBeLessThan(0.6);
  });

  test('a factor is shown once each side has three cars, and a model from its first car on', () => {
    const side = (value: string, k: number, own: number) =>
      Array.from({ length: k }, (_, i) =>
        study(`${value}${i}`, own + i / 10, { model: value, factors: { aspiration: value } }),
      );
    const few = shelfAnswer([...side('natural', 3, 1), ...side('turbo', 2, 3)], 'windowMeanPower');
    expect([few.factors, few.models.map((m) => m.cars)]).toEqual([[], [3, 2]]);
    const both = shelfAnswer([...side('natural', 3, 1), ...side('turbo', 3, 3)], 'windowMeanPower');
    expect(both.factors).toHaveLength(1);
    expect(both.factors[0]!.sides.map((s) => [s.value, s.cars])).toEqual([
      ['natural', 3],
      ['turbo', 3],
    ]);
  });

  test('a measure of its own unit is not made per cent of', () => {
    const list = ['a', 'b', 'c'].map((car, i) => study(car, -8 - i, { standardError: 0.5 }));
    expect(shelfAnswer(list, 'peak(charge_c)').all!.estimate).toBeCloseTo(-9, 6);
  });
});

describe('what a job says of its parts', () => {
  const fitted = (name: string) => changeOf('part-fitted', name);
  const job = shootoutDay({
    B: { level: 0.03, setup: { changes: [fitted('intake')] } },
    C: { level: 0.05, setup: { parentId: 'B', changes: [fitted('exhaust')] } },
    D: { level: 0.01, setup: { changes: [fitted('pulley'), changeOf('tune', 'rev 2')] } },
    E: { level: 0.0, setup: { changes: [changeOf('fluid', 'thin oil')] } },
  });
  const steps = partSteps(job, judgeJob(job));

  test('a part alone against its parent, one of several changes apart, and no part at all is none', () => {
    expect(stepsBeyondBaseline(job)).toBe(true);
    expect(steps.map((s) => [s.setup, s.against, s.parts.join('+'), s.alone])).toEqual([
      ['B', 'A', 'intake', true],
      ['C', 'B', 'exhaust', true],
      ['D', 'A', 'pulley', false],
    ]);
  });

  test('the step of a step is what it adds to the setup that it was made from, in log-percent', () => {
    expect(steps[0]!.estimate! / 100).toBeCloseTo(Math.log(1.03), 2);
    expect(steps[1]!.estimate! / 100).toBeCloseTo(Math.log(1.05 / 1.03), 2);
    for (const { standardError } of steps) expect(standardError).toBeGreaterThan(0.05);
  });
});
