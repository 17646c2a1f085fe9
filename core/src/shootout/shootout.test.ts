import { describe, expect, test } from '@jest/globals';
import { changesIn } from '../job/changes.ts';
import { newSetup } from '../job/defaults.ts';
import { jobProblem } from '../job/judgeable.ts';
import type { Job } from '../job/job.ts';
import { preparePulls } from '../pull/preparedPulls.ts';
import { part, shootoutDay } from '../test/shootoutDay.ts';
import { jointGains } from '../verdict/jointGains.ts';
import { judgeJob } from '../verdict/judge.ts';
import { USUAL_DAY } from '../bay/jobDay.ts';
import { costAgainst, costOfStep } from './costs.ts';
import { crossedIn, differenceBetween, setupWithBoth } from './crossed.ts';
import { frontierChances } from './frontier.ts';
import { ledgerOf } from './ledger.ts';
import { standings, withinBudget } from './standings.ts';

const MEASURE = 'windowMeanPower';
const money = { currency: 'EUR', hourlyRate: 80 };
const priced = (partCost: number, labourHours: number) => ({ partCost, labourHours, currency: 'EUR' });
const FIVE = shootoutDay(
  {
    B: { level: 0.03, setup: priced(300, 2) },
    C: { level: 0.029, setup: priced(80, 0.5) },
    D: { level: 0.012, setup: priced(150, 1) },
    E: { level: 0.0005, setup: priced(40, 0.5) },
    F: { level: -0.02, setup: priced(20, 0.25) },
  },
  { money },
);
const judged = judgeJob(FIVE);

describe('a shootout put in order', () => {
  const list = standings(FIVE, judged, { measure: MEASURE, by: 'sure' });

  test('verified gains above the line by what is sure, the rest below it; a tie is a tie', () => {
    expect(
      list.ranked
        .map((s) => s.setup)
        .slice(0, 2)
        .sort(),
    ).toEqual(['B', 'C']);
    expect(list.ranked[2]!.setup).toBe('D');
    expect(list.unranked.map((s) => [s.setup, s.unranked])).toEqual([
      ['E', 'not-verified'],
      ['F', 'not-verified'],
    ]);
    expect([...list.first].sort()).toEqual(['B', 'C']);
    expect(list.ties[0]).toEqual([0, 1]);
    expect(list.ranked.map((s) => s.rank)).toEqual([
      { from: 1, to: 2 },
      { from: 1, to: 2 },
      expect.objectContaining({ from: 3 }),
    ]);
    for (const { sure, verdict } of list.ranked) {
      expect(sure!.low).toBeLessThan(verdict.gain!.lowPercent!);
      expect(sure!.estimate).toBeCloseTo(verdict.gain!.percent!, 9);
    }
  });

  test('cost all in, per kW at the estimate and of what is sure; a cheap part that does the same makes a dear one needless', () => {
    const of = (setup: string) => list.ranked.find((s) => s.setup === setup)!;
    expect(of('B').cost).toMatchObject({ total: 300 + 2 * 80, hoursFrom: 'typed', gaps: [] });
    expect(of('C').perUnit).toBeCloseTo(120 / (of('C').verdict.gain!.value / 1000), 9);
    expect(of('C').perSureUnit!).toBeGreaterThan(of('C').perUnit!);
    expect(of('D').dominated).toEqual({ how: 'surely', by: 'C' });
    const worth = standings(FIVE, judged, { measure: MEASURE, by: 'value' });
    expect(worth.ranked.map((s) => s.setup)).toEqual(['C', ...worth.ranked.slice(1).map((s) => s.setup)]);
    expect(standings(FIVE, judged, { measure: MEASURE, by: 'hours' }).ranked.map((s) => s.setup)).toEqual([
      'C',
      'D',
      'B',
    ]);
    expect(withinBudget(list, 100)).toBeNull();
    expect(withinBudget(list, 200)!.setup).toBe('C');
    // No rate: nothing that takes hours has a price, and says so.
    const unpaid = standings({ ...FIVE, money: { currency: 'EUR', hourlyRate: null } }, judged, {
      measure: MEASURE,
      by: 'value',
    });
    expect(unpaid.ranked.map((s) => [s.cost!.gaps, s.perUnit])).toEqual([0, 1, 2].map(() => [['rate'], null]));
  });

  test('the gains drawn together agree with the verdicts, and one seed draws one list', () => {
    const prepared = preparePulls(FIVE.pulls, FIVE.bay, FIVE.vehicle);
    const { candidates, draws } = jointGains(FIVE, prepared, MEASURE)!;
    expect(candidates).toEqual(['B', 'C', 'D', 'E', 'F']);
    const column = (i: number) =>
      Array.from({ length: draws.length / 5 }, (_, row) => draws[5 * row + i]!).sort((a, b) => a - b);
    judged.verdicts.forEach((v, i) => {
      const own = column(i);
      const half = (v.gain!.highValue - v.gain!.lowValue) / 2;
      expect(Math.abs(own[own.length / 2]! - v.gain!.value)).toBeLessThan(0.1 * half);
      expect(Math.abs(own[Math.round(0.025 * own.length)]! - v.gain!.lowValue)).toBeLessThan(0.25 * half);
      expect(Math.abs(own[Math.round(0.975 * own.length)]! - v.gain!.highValue)).toBeLessThan(0.25 * half);
    });
    // What two candidates have in common is in the draws: they differ from each other as the pair says.
    const differences = Array.from(
      { length: draws.length / 5 },
      (_, row) => draws[5 * row]! - draws[5 * row + 1]!,
    ).sort((a, b) => a - b);
    const pair = judged.contrasts.find((c) => c.of.kind === 'pair' && c.of.candidate === 'C' && c.of.against === 'B')!;
    const level = judged.verdicts[0]!.gain!.value / judged.verdicts[0]!.gain!.percent!;
    const spread =
      differences[Math.round(0.975 * differences.length)]! - differences[Math.round(0.025 * differences.length)]!;
    expect(Math.abs(spread / level / (pair.high - pair.low) - 1)).toBeLessThan(0.1);
    expect(jointGains(FIVE, prepared, MEASURE)!.draws).toEqual(draws);
    const chances = frontierChances([460, 120, 230, 80, 40], draws);
    expect(chances[1]).toBe(1);
    expect(chances[2]).toBeLessThan(0.05);
    expect(chances[0]!).toBeGreaterThan(0.2);
  });

  test('pairs that hold at once are wider than each alone, and run the other way round under another name', () => {
    for (const c of judged.contrasts) {
      if (c.of.kind !== 'pair') continue;
      expect(c.together!.low).toBeLessThan(c.low);
      expect(c.together!.high).toBeGreaterThan(c.high);
    }
    const [one, other] = [
      differenceBetween(FIVE, judged, MEASURE, 'B', 'F')!,
      differenceBetween(FIVE, judged, MEASURE, 'F', 'B')!,
    ];
    // 25 per cent more is 20 per cent less.
    const back = (percent: number) => 100 * (1 / (1 + percent / 100) - 1);
    [one.estimate, one.low, one.high].forEach((value, i) =>
      expect(value).toBeCloseTo(back([other.estimate, other.high, other.low][i]!), 9),
    );
  });
});

describe('bad input', () => {
  test('a setup without pulls and twelve setups with one pull each: below the line, with the reason', () => {
    const twelve = Object.fromEntries([...'BCDEFGHIJKLM'].map((id, i) => [id, { level: i / 500, pulls: 1 }]));
    const job = shootoutDay(twelve);
    const list = standings(job, judgeJob(job), { measure: MEASURE, by: 'sure' });
    expect(list.ranked).toEqual([]);
    expect(new Set(list.unranked.map((s) => s.unranked))).toEqual(new Set(['too-few-pulls']));
    const without = { ...FIVE, pulls: FIVE.pulls.filter((p) => p.setupId !== 'C') };
    const own = standings(without, judgeJob(without), { measure: MEASURE, by: 'sure' });
    expect(own.unranked.find((s) => s.setup === 'C')).toMatchObject({ unranked: 'too-few-pulls', rank: null });
  });

  test('two currencies have no sum; a circle of parents is named', () => {
    const foreign = { ...FIVE, setups: FIVE.setups.map((s) => (s.id === 'B' ? { ...s, currency: 'CHF' } : s)) };
    expect(costAgainst(foreign, 'B', 'A')).toMatchObject({ total: null, gaps: ['currencies'] });
    const circle = {
      ...FIVE,
      setups: FIVE.setups.map((s) =>
        s.id === 'B' ? { ...s, parentId: 'C' } : s.id === 'C' ? { ...s, parentId: 'B' } : s,
      ),
    };
    expect(jobProblem(circle)).toMatchObject({
      code: 'setups',
      text: expect.stringContaining('B from C from B') as unknown,
    });
  });
});

describe('where hours and parts come from', () => {
  const fitted = (setup: string, from: string, to: string) => ({
    ...{ setup, who: 'T', startedAt: `2026-05-04T${from}:00Z`, stoppedAt: `2026-05-04T${to}:00Z` },
    ...{ changed: '', disturbed: '', parts: '', cost: null, notes: '' },
  });
  const clocked: Job = {
    ...FIVE,
    setups: FIVE.setups.map((s) => (s.id === 'C' ? { ...s, labourHours: null, partCost: null } : s)),
    day: { ...USUAL_DAY, fittings: [fitted('B', '08:20', '08:50'), fitted('B', '11:00', '12:00')] },
  };

  test('the clock before the record before what was typed; fitting a part again costs nothing', () => {
    expect(costAgainst(clocked, 'B', 'A')).toMatchObject({ hours: 0.5, hoursFrom: 'clock' });
    const record = [{ setupId: 'C', price: 90, currency: 'EUR', hours: 0.75 }];
    expect(costAgainst(clocked, 'C', 'A', record)).toMatchObject({
      ...{ parts: 90, partsFrom: 'record', hours: 0.75, hoursFrom: 'record', total: 150 },
    });
    // The part was deleted from the record: what is missing is named, nothing is lost.
    expect(costAgainst(clocked, 'C', 'A')).toMatchObject({ total: null, gaps: ['parts', 'hours'] });
    expect(costAgainst(clocked, 'D', 'A')).toMatchObject({ hoursFrom: 'typed' });
  });
});

describe('two factors crossed', () => {
  const both = (id: string): Job => {
    const job = shootoutDay({ B: { level: 0.03 }, C: { level: 0.02 }, [id]: { level: 0.031 } });
    const setup = setupWithBoth(job.setups, 'A', ['B', 'C'], id);
    return { ...job, setups: job.setups.map((s) => (s.id === id ? setup : s)) };
  };

  test('the interaction is what both do less what each does alone: the identity of a two-way table', () => {
    const job = both('D');
    const judgement = judgeJob(job);
    const [crossed] = crossedIn(job, judgement, MEASURE);
    expect(crossed).toMatchObject({ alone: ['B', 'C'], both: 'D' });
    const log = (d: { estimate: number } | null) => Math.log1p(d!.estimate / 100);
    const [b, c, d] = crossed!.gains;
    // NIST/SEMATECH e-Handbook 7.4.3.8, effects of a two-way layout: an interaction is the cell less its row and its column.
    expect(log(crossed!.interaction)).toBeCloseTo(log(d) - log(b) - log(c), 9);
    expect(log(crossed!.onTop[0])).toBeCloseTo(log(d) - log(c), 9);
    expect(crossed!.interaction.high).toBeLessThan(0);
    expect(crossed!.onTop[0]!.low).toBeGreaterThan(0);
    expect(crossed!.onTop[1]!.low).toBeLessThan(0);
    expect(crossedIn(FIVE, judged, MEASURE)).toEqual([]);
  });
});

describe('a ledger', () => {
  const tune = changesIn('tune: rev 2');
  const cure = changesIn('hose joint sealed');
  const steps = shootoutDay(
    {
      B: { level: 0.02, setup: { ...priced(100, 1), changes: [part('cover'), part('plate')] } },
      C: {
        level: 0.035,
        setup: {
          parentId: 'B',
          changes: tune,
          declares: ['tuneDigest'],
          labourHours: 1,
          costs: { adapters: null, consumables: 5, tune: 150 },
        },
      },
      D: { level: 0.06, setup: { parentId: 'C', changes: cure, cure: true, partCost: 3, labourHours: 0.5 } },
      E: { level: 0.021, setup: { changes: [part('cover')] } },
    },
    { money },
  );

  test('each step against its parent, the totals fitted; a retune, a cure and a bundle are what they are', () => {
    const judgement = judgeJob(steps);
    const ledger = ledgerOf(steps, judgement, MEASURE)!;
    expect(ledger.steps.map((s) => [s.setup.id, s.parent, s.kind])).toEqual([
      ['B', 'A', 'part'],
      ['C', 'B', 'retune'],
      ['D', 'C', 'cure'],
    ]);
    expect(ledger.steps[0]!.bundle).toEqual({ of: 2, measuredElsewhere: ['part fitted: cover'] });
    ledger.steps.forEach(({ gain, total }, i) => {
      const truth = [1.02, 1.035, 1.06];
      expect(total!.estimate).toBeCloseTo(100 * (truth[i]! - 1), 0);
      expect(gain!.estimate).toBeCloseTo(100 * (truth[i]! / (truth[i - 1] ?? 1) - 1), 0);
      expect(gain!.low).toBeGreaterThan(0);
    });
    expect(costOfStep(steps, 'C')).toMatchObject({ tune: 150, consumables: 5, labour: 80, total: 235, gaps: [] });
    expect(ledger.steps.map((s) => s.costToHere)).toEqual([180, 415, 458]);
    expect(ledgerOf(FIVE, judged, MEASURE)).toBeNull();
    expect(newSetup('X', 'x').parentId).toBeNull();
  });
});
