import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { shootoutDay } from '../test/shootoutDay.ts';
import { judgeJob } from '../verdict/judge.ts';
import { bayPoint, repeatabilityLimit } from './bayPoint.ts';
import { chartStretches, type ChartAnswer } from './bayCharts.ts';
import { controlChart } from './controlChart.ts';

describe('a chart of readings that should not change', () => {
  test('NIST/SEMATECH e-Handbook 6.3.2.2: mean 50.81, mean range 1.87778, limits 55.8041 and 45.8159', () => {
    const { limits, signals } = controlChart([49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1]);
    expect(limits!.mean).toBeCloseTo(50.81, 6);
    expect(limits!.meanRange).toBeCloseTo(1.87778, 5);
    expect(limits!.high).toBeCloseTo(55.8041, 4);
    expect(limits!.low).toBeCloseTo(45.8159, 4);
    expect(limits!.highestRange).toBeCloseTo(3.267 * 1.87778, 4);
    expect(signals).toEqual([]);
  });

  test('three points of a reference car give no limits and no signal, only how many more are needed', () => {
    expect(controlChart([1, 9, 2])).toMatchObject({ limits: null, signals: [], needed: 5 });
  });

  const steady = [0, 0.2, -0.1, 0.1, -0.2, 0.1, 0, -0.1, 0.2, 0];

  test('a step shows at once, a drift by its ninth point on one side at the latest', () => {
    const step = controlChart([...steady, 2]);
    expect(step.signals).toContainEqual({ index: 10, code: 'outside' });
    expect(step.signals).toContainEqual({ index: 10, code: 'range' });
    const drift = controlChart([...steady, ...Array.from({ length: 9 }, (_, i) => -0.1 - 0.03 * i)]);
    expect(drift.signals.map((s) => s.code)).toEqual(['nine-on-one-side']);
    // The last steady point lies below the mean already.
    expect(drift.signals[0]!.index).toBe(17);
  });

  test('what comes later does not move the limits; shifting and scaling moves them with the readings (property)', () => {
    const readings = fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 10, maxLength: 40 });
    fc.assert(
      fc.property(
        readings,
        fc.double({ min: -9, max: 9, noNaN: true }),
        fc.double({ min: 0.5, max: 3, noNaN: true }),
        (list, by, unit) => {
          const own = controlChart(list).limits!;
          expect(controlChart([...list, 99]).limits).toEqual(own);
          const moved = controlChart(list.map((v) => unit * v + by)).limits!;
          expect(moved.mean).toBeCloseTo(unit * own.mean + by, 8);
          expect(moved.high - moved.mean).toBeCloseTo(unit * (own.high - own.mean), 8);
        },
      ),
    );
  });
});

describe('what a job says of its bay', () => {
  const job = shootoutDay({ B: { level: 0.03 } }, {}, 0.002);
  const point = bayPoint(job, judgeJob(job, 'verdict'));

  test('repeatability is pooled within rounds, so that neither a part nor a day moves it', () => {
    const other = shootoutDay({ B: { level: 0.2 } }, {}, 0.002);
    const same = bayPoint(other, judgeJob(other, 'verdict'));
    expect(same.squares).toBeCloseTo(point.squares, 8);
    expect(point.degrees).toBe(6);
    const { sd, limit } = repeatabilityLimit([point, point])!;
    expect(sd).toBeCloseTo(Math.sqrt(point.squares / 6), 12);
    expect(limit / sd).toBeCloseTo(2.8, 12);
    expect(repeatabilityLimit([])).toBeNull();
  });

  test('the return check and the level are those of the baseline', () => {
    expect(Math.abs(point.returned!)).toBeLessThan(0.5);
    const louder = bayPoint(
      {
        ...job,
        pulls: job.pulls.map((p) => ({
          ...p,
          channels: p.channels.map((c) =>
            c.name === 'wheel_power_w' ? { ...c, values: c.values.map((v) => 1.02 * v) } : c,
          ),
        })),
      },
      judgeJob(
        {
          ...job,
          pulls: job.pulls.map((p) => ({
            ...p,
            channels: p.channels.map((c) =>
              c.name === 'wheel_power_w' ? { ...c, values: c.values.map((v) => 1.02 * v) } : c,
            ),
          })),
        },
        'verdict',
      ),
    );
    expect(louder.level! - point.level!).toBeCloseTo(100 * Math.log(1.02), 6);
  });

  test('a pull that bears a mark says nothing', () => {
    const marked = { ...job, pulls: job.pulls.map((p, i) => (i === 0 ? { ...p, marks: ['gate overridden'] } : p)) };
    expect(bayPoint(marked, judgeJob(marked, 'verdict')).degrees).toBe(5);
  });
});

describe('stretches of a chart', () => {
  const day = (n: number) => new Date(Date.UTC(2026, 0, n)).toISOString();
  const readings = [...[0, 0.2, -0.1, 0.1, -0.2, 0.1, 0, -0.1, 0.2, 0], 3, 3.1, 2.9].map((value, i) => ({
    ...{ at: day(i + 1), value, job: null, name: `round ${i + 1}`, epoch: '2026-01-01' },
  }));
  const answer = (said: ChartAnswer['answer'], n: number): ChartAnswer => ({
    ...{ answer: said, words: '', who: 'Ines R.', at: day(n), until: day(n) },
  });

  test('a signal is open until somebody answered for its point; later ones open it again', () => {
    const open = (answers: ChartAnswer[]) =>
      chartStretches(readings, answers).flatMap((s) => s.open.map((o) => o.index));
    expect(new Set(open([]))).toEqual(new Set([10, 11, 12]));
    expect(new Set(open([answer('nothing', 11)]))).toEqual(new Set([11, 12]));
    expect(open([answer('nothing', 13)])).toEqual([]);
  });

  test('an answer that says what was changed begins anew, and a new epoch too; they never share a mean', () => {
    const [before, after] = chartStretches(readings, [answer('sensor', 10)]);
    expect([before!.points.length, after!.points.length, after!.chart.limits, after!.open]).toEqual([10, 3, null, []]);
    const epochs = chartStretches(
      readings.map((r, i) => ({ ...r, epoch: i < 10 ? 'a' : 'b' })),
      [],
    );
    expect(epochs.map((s) => [s.epoch, s.points.length, s.open.length])).toEqual([
      ['a', 10, 0],
      ['b', 3, 0],
    ]);
  });
});
