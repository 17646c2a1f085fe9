import { describe, expect, test } from '@jest/globals';
import { correctionFactor } from '../correction/standards.ts';
import { truePercent } from '../verdict/percent.ts';
import { USUAL_DAY } from '../bay/jobDay.ts';
import { newJob, newSetup } from '../job/defaults.ts';
import { dayBlocks } from './dayBlocks.ts';
import {
  comparePlans,
  planDay,
  planRequestOf,
  planSees,
  startingPlan,
  usualShape,
  type PlanRequest,
} from './dayPlan.ts';
import { leaveOut, plannedErrors, pullsFor } from './planReach.ts';
import { planWarnings, roundWarnings } from './planWarnings.ts';

const request: PlanRequest = {
  baseline: 'A',
  candidates: ['B'],
  returnChecks: ['A2'],
  settle: 2,
  counted: 3,
  minutesPerPull: 5,
  fittingMinutes: 50,
  coolDownMinutes: 15,
  prior: null,
};

describe('what a plan costs and what it finds', () => {
  // docs/method.md, Planning: typical half-widths 1.528 (A3 B3) and 0.949 (A3 B3 A2) at 65 min from a round's
  // last counted pull to the next one's first.
  test('the planning table: a return check finds smaller gains than a plain before and after', () => {
    const [withReturn, twice, hold, plain] = comparePlans(request);
    expect(twice!.steps.map((s) => `${s.setup} ${s.counted}`).join()).toBe('A 3,B 3,A2 3,B2 3,A3 3');
    expect(plain!.seesFromPercent).toBeCloseTo(truePercent(1.1 * 1.528), 2);
    expect(withReturn!.seesFromPercent).toBeCloseTo(truePercent(1.1 * 0.949), 2);
    expect(withReturn!.findsPercent).toBeCloseTo(truePercent(1.43 * 1.1 * 0.949), 2);
    expect(twice!.findsPercent).toBeLessThan(withReturn!.findsPercent);
    expect(hold!.findsPercent).toBeLessThan(plain!.findsPercent);
    expect(withReturn!.minutes).toBe(25 + 50 + 25 + 50 + 20);
    expect(plain!.minutes).toBe(100);
  });

  test('the longer fittings take, the less a plan finds', () => {
    const found = [20, 60, 180].map((fittingMinutes) => planDay('return', { ...request, fittingMinutes }).findsPercent);
    expect(found[0]!).toBeLessThan(found[1]!);
    expect(found[1]!).toBeLessThan(found[2]!);
  });

  test('a short fitting is followed by the rest of the cool-down; blocks follow each other without a gap', () => {
    const { blocks } = planDay('return', { ...request, fittingMinutes: 10, coolDownMinutes: 60 });
    expect(blocks.map((b) => b.kind)).toEqual([
      'pulls',
      'fitting',
      'cool-down',
      'pulls',
      'fitting',
      'cool-down',
      'pulls',
    ]);
    blocks.slice(1).forEach((b, i) => expect(b.fromMin).toBe(blocks[i]!.toMin));
    expect(blocks[3]!.pullMin).toHaveLength(5);
  });

  test('several candidates: each gets its round, and the one that the plan sees least well decides what it finds', () => {
    const two = { ...request, candidates: ['B', 'C'], returnChecks: ['A2'] };
    const plans = Object.fromEntries(comparePlans(two).map((p) => [p.shape, p]));
    const order = (shape: string) => plans[shape]!.steps.map((s) => s.setup).join(' ');
    expect(order('return')).toBe('A B C A2');
    expect(order('middle')).toBe('A B A2 C A3');
    expect(order('hold')).toBe('A A B B C C');
    expect(order('plain')).toBe('A B C');
    // A second candidate lengthens the time between the baseline and its return, so less is found than with one.
    expect(plans.return!.findsPercent).toBeGreaterThan(comparePlans(request)[0]!.findsPercent);
    expect(plans.middle!.findsPercent).toBeLessThan(plans.return!.findsPercent);
    expect(plans.middle!.minutes).toBeGreaterThan(plans.return!.minutes);
    expect(comparePlans(request).map((p) => p.shape)).not.toContain('middle');
  });

  test('a job’s own plan sees what its shape was said to see; without a plan nothing is said', () => {
    const base = newJob('1', 'x');
    expect(planSees(base)).toEqual([]);
    const shape = planDay('return', planRequestOf(base));
    const setups = [...base.setups, { ...newSetup('A2', 'return check', 'A'), returnsTo: 'A' }];
    const planned = { ...base, setups, question: { ...base.question, plan: shape.steps } };
    const [power] = planSees(planned);
    expect(power).toMatchObject({
      measure: 'windowMeanPower',
      from: expect.closeTo(shape.seesFromPercent, 9) as unknown,
    });
    // A temperature scatters by k = 2 °C where power scatters by 1 %, and is seen in degrees.
    const warm = { id: 'start', channel: 'oil_c', meaningful: 3 } as const;
    const both = planSees({
      ...planned,
      question: { ...planned.question, measures: [...base.question.measures, warm] },
    });
    expect(both.map((m) => m.measure)).toEqual(['windowMeanPower', 'start(oil_c)']);
    expect(both[1]!.from).toBeCloseTo(200 * Math.log(1 + power!.from / 100), 9);
  });

  test('how many counted pulls the gain that matters takes; some gains are out of reach', () => {
    expect(pullsFor('return', 1.5, request)).toBe(4);
    expect(pullsFor('return', 0.2, request)).toBeNull();
  });

  test('a part that comes off within the hour gets a return check, another the hold plan; the house method orders', () => {
    const base = newJob('1', 'x');
    expect(usualShape(base, 50)).toBe('return');
    expect(usualShape(base, 90)).toBe('hold');
    expect(usualShape({ ...base, day: { ...USUAL_DAY, cannotBeUndone: 'drilled' } }, 20)).toBe('hold');
    const two = { ...base, question: { ...base.question, candidateSetups: ['B', 'C'] } };
    const house = (order: string) => ({ ...two, method: { ...two.method, schools: { order } } });
    expect(startingPlan(house('middle'))).toMatchObject({ shape: 'middle', order: 'fixed' });
    expect(startingPlan(house('random'))).toMatchObject({ shape: 'return', order: 'randomised' });
    expect(startingPlan(two)).toEqual(USUAL_DAY.plan);
    // What somebody saved stands.
    const saved = {
      ...house('random'),
      day: { ...USUAL_DAY, plan: { ...USUAL_DAY.plan, startAt: '2026-11-23T08:00:00Z' } },
    };
    expect(startingPlan(saved)).toEqual(saved.day.plan);
  });

  test('a day that is too short and weather that is not steady are told beforehand', () => {
    const open = { fromMin: 8 * 60, untilMin: 12 * 60 };
    const gates = { airDriftC: 5.6, factorDriftPercent: 1 };
    expect(planWarnings({ minutes: 170 }, 9 * 60, open, [20, 24], gates)).toEqual([]);
    const warned = planWarnings({ minutes: 200 }, 9 * 60, open, [14, 24], gates);
    expect(warned).toEqual([
      { code: 'after-closing', endsMin: 12 * 60 + 20, closesMin: 12 * 60 },
      { code: 'forecast-swings', swingC: 10, allowedC: 5.6 },
    ]);
    // 5 °C at 1000 hPa and half humidity move the factor of SAE J1349 by more than 1 %: both the air and its moisture.
    const factorOf = (airC: number) =>
      correctionFactor('sae-j1349', { airC, pressureHpa: 1000, relativeHumidity: 0.5 }).factor;
    const [moved] = planWarnings({ minutes: 170 }, 9 * 60, open, [25, 30], gates, factorOf);
    expect(moved).toMatchObject({ code: 'factor-swings', allowedPercent: 1 });
    expect(moved?.code === 'factor-swings' && moved.swingPercent).toBeCloseTo(1.7, 0);
    expect(planWarnings({ minutes: 170 }, 9 * 60, open, [20, 21.5], gates, factorOf)).toEqual([]);
  });

  test('a round that no day is long enough for, and one that comes after what cannot come off, are named', () => {
    const setups = [newSetup('A', 'a'), { ...newSetup('B', 'b', 'A'), permanent: true }, newSetup('C', 'c', 'A')];
    const steps = ['A', 'B', 'C'].map((setup) => ({ setup, settle: 2, counted: 3 }));
    const times = { minutesPerPull: 5, fittingMinutes: 40, coolDownMinutes: 15 };
    const warned = (fittingMinutes: number, order = steps) => {
      const hours = { openMin: 540, firstMin: 540 };
      const blocks = dayBlocks(order, { ...times, fittingMinutes, hours });
      return roundWarnings({ steps: order, blocks }, { setups, baseline: 'A' }, hours.openMin);
    };
    expect(warned(40)).toEqual([{ code: 'cannot-come-off', carries: 'B', setups: ['C'] }]);
    expect(warned(40, [steps[0]!, steps[2]!, steps[1]!])).toEqual([]);
    // 40 hours of fitting: no opening hours hold it.
    expect(warned(2400, [steps[0]!, steps[1]!])).toEqual([
      { code: 'round-beyond-closing', setup: 'B', minutes: 2425, openMin: 540 },
    ]);
    expect(warned(520, [steps[0]!, steps[1]!])).toHaveLength(1);
    expect(warned(500, [steps[0]!, steps[1]!])).toEqual([]);
  });
});

describe('several parts in the hours there are', () => {
  const parts = ['B', 'C', 'D', 'E', 'F', 'G'];
  const six = { ...request, candidates: parts, returnChecks: [], fittingMinutes: 45 };
  const noise = { scatter: 0.45, mount: 0.12, drift: 0.25 };
  const order = (names: string) => [...names].map((id) => ({ setup: id, settle: 2, counted: 3 }));

  // docs/method.md, Orders: largest standard error against A, and hours, at σ 0.45, τ 0.12, s 0.25.
  test.each([
    ['ABCDEFG', 45, 0.97, 7.4],
    ['ABCDEFGA', 45, 0.65, 8.6],
    ['ABCDEFAG', 45, 0.59, 8.6],
    ['ABCDAEFGA', 45, 0.46, 9.8],
    ['ABCADEAFGA', 45, 0.4, 10.9],
    ['ABCDEFGABCDEFG', 45, 0.48, 15.6],
    ['ABCDEFGA', 30, 0.55, null],
    ['ABCDAEFGA', 30, 0.41, null],
    ['ABCADEAFGA', 60, 0.43, null],
  ])('%s with %d min of fitting: standard error %d', (names, fittingMinutes, error, hours) => {
    const own = { ...six, fittingMinutes, own: order(names) };
    expect(Math.abs(Math.max(...plannedErrors(own.own, own, noise)) - error)).toBeLessThan(0.02);
    const { minutes } = planDay('own', own);
    if (hours !== null) expect(Math.abs(minutes / 60 - hours)).toBeLessThan(0.06);
  });

  test('the three orders: one more baseline in the middle finds more for one more round', () => {
    const [withReturn, middle, second] = comparePlans(six);
    expect(middle!.steps.map((s) => s.setup).join(' ')).toBe('A B C D A2 E F G A3');
    expect(second!.steps.map((s) => s.setup).join(' ')).toBe('A B C A2 D E A3 F G A4');
    expect(middle!.findsPercent).toBeLessThan(0.85 * withReturn!.findsPercent);
    expect(second!.findsPercent).toBeLessThan(middle!.findsPercent);
    expect(middle!.pairsFromPercent!).toBeGreaterThan(middle!.seesFromPercent);
    expect(comparePlans(request).every((p) => p.pairsFromPercent === null && p.days === 1)).toBe(true);
  });

  test('rounds that do not fit into opening hours go on the next day, which begins with the baseline', () => {
    const hours = { openMin: 480, firstMin: 480 };
    const plan = planDay('middle', { ...six, hours });
    expect(plan.days).toBe(2);
    expect(plan.withoutAnchor).toEqual([]);
    const night = plan.blocks.findIndex((b) => b.kind === 'night');
    expect(plan.blocks[night]!.toMin).toBe(1440);
    const morning = plan.blocks.slice(night).find((b) => b.kind === 'pulls')!;
    expect(morning.setup).toMatch(/^A\d$/);
    expect(plan.blocks.every((b, i) => i === 0 || b.fromMin === plan.blocks[i - 1]!.toMin)).toBe(true);
    for (const b of plan.blocks) if (b.kind === 'pulls') expect(b.toMin % 1440).toBeLessThanOrEqual(480);
    // Rounds in an order of one's own stay as they are; a day without an anchor is told.
    const own = planDay('own', { ...six, hours, own: order('ABCDEFGBC') });
    expect(own.steps).toHaveLength(9);
    expect(own.withoutAnchor).toEqual([1]);
    // Forty hours: as many days as it takes, each with its anchor.
    const long = planDay('return', { ...six, fittingMinutes: 150, hours });
    expect(long.days).toBeGreaterThanOrEqual(5);
    expect(long.withoutAnchor).toEqual([]);
    // Where a day holds one fitting only, an anchor would take the place of the part.
    const slow = planDay('return', { ...six, fittingMinutes: 330, hours });
    expect(slow.steps).toHaveLength(8);
    expect(slow.withoutAnchor.length).toBeGreaterThan(0);
  });

  test('minutes from setup to setup: what somebody typed, else the hours of what comes off and goes on', () => {
    const job = {
      ...newJob('1', 'x'),
      setups: [
        newSetup('A', 'a'),
        { ...newSetup('B', 'b', 'A'), labourHours: 0.5 },
        { ...newSetup('C', 'c', 'A'), labourHours: 1 },
        { ...newSetup('D', 'd', 'B'), labourHours: 0.25 },
        newSetup('E', 'e', 'A'),
      ],
      question: { ...newJob('1', 'x').question, candidateSetups: ['B', 'C', 'D', 'E'] },
    };
    const typed = [{ from: 'C', to: 'A', minutes: 20 }];
    const plan = { ...USUAL_DAY.plan, fittingMinutes: 35, times: typed };
    const { times } = planRequestOf({ ...job, day: { ...USUAL_DAY, plan } });
    const of = (from: string, to: string) => times!.find((t) => t.from === from && t.to === to)!;
    expect([of('A', 'B').minutes, of('B', 'C').minutes, of('B', 'D').minutes, of('C', 'A').minutes]).toEqual([
      30, 90, 15, 20,
    ]);
    expect(of('E', 'B')).toMatchObject({ minutes: 35, source: 'plan' });
  });

  test('the parts to leave for another day where no plan does', () => {
    const middle = planDay('middle', six);
    expect(pullsFor('middle', middle.findsPercent, six)).toBeNull();
    expect(leaveOut(middle.findsPercent * 1.01, six)).toEqual([]);
    const times = [
      { from: 'A', to: 'F', minutes: 200 },
      ...parts.filter((p) => p !== 'F').map((to) => ({ from: 'A', to, minutes: 45 })),
    ];
    const left = leaveOut(middle.findsPercent * 0.9, { ...six, times })!;
    expect(left[0]).toBe('F');
    expect(left.length).toBeLessThan(6);
    expect(leaveOut(0.01, six)).toBeNull();
  });
});
