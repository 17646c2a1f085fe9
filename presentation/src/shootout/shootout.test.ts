import { describe, expect, test } from '@jest/globals';
import {
  crossedIn,
  judgeJob,
  ledgerOf,
  standings,
  VERDICTS,
  type Crossed,
  type Difference,
  type Job,
  type Judgement,
  type Standing,
} from '@prandel/core';
import { part, shootoutDay } from '@prandel/core/test/shootoutDay';
import fc from 'fast-check';
import { USUAL_UNITS } from '../figures.ts';
import { axisOver, ticksOf } from '../geometry.ts';
import { verdictLook } from '../measureWords.ts';
import { onePanelSvg } from '../onePanelPicture.ts';
import { crossedSvg } from './crossedPicture.ts';
import { frontierSvg } from './frontierPicture.ts';
import { bandCellsSvg, intervalStripSvg, rankBarSvg, rankWords, stripHeadSvg, stripScale } from './intervalStrip.ts';
import { ledgerSvg } from './ledgerPicture.ts';
import {
  costGapWords,
  either,
  firstWords,
  interactionWords,
  money,
  nextQuestion,
  onTopWords,
  tellCustomer,
  unrankedWords,
} from './standingWords.ts';

const MEASURE = 'windowMeanPower';
const priced = (partCost: number, labourHours: number) => ({ partCost, labourHours, currency: 'EUR' });
const money78 = { money: { currency: 'EUR', hourlyRate: 78 } };
const five = shootoutDay(
  {
    B: { level: 0.03, setup: priced(300, 2) },
    C: { level: 0.029, setup: priced(80, 0.5) },
    D: { level: (n) => (n > 4000 ? 0.03 : -0.02), setup: priced(150, 1) },
    E: { level: 0.0004, setup: priced(40, 0.5) },
    F: { level: 0.0001, setup: priced(20, 0.25) },
  },
  money78,
  0.004,
);
const crossed = shootoutDay(
  {
    B: { level: 0.03 },
    C: { level: 0.02 },
    D: { level: 0.035, setup: { changes: [part('part B'), part('part C')] } },
  },
  money78,
);
const build = shootoutDay(
  {
    B: { level: 0.02, setup: { cure: true } },
    C: { level: 0.05, setup: { parentId: 'B' } },
    D: { level: 0.07, setup: { parentId: 'C', changes: [{ kind: 'tune', part: '', text: 'tune' }] } },
  },
  money78,
);
const judged = new Map<Job, Judgement>([five, crossed, build].map((job) => [job, judgeJob(job)]));
const listOf = (job: Job) => standings(job, judged.get(job)!, { measure: MEASURE, by: 'sure' });

/** Every number of a picture that places something. */
const places = (svg: string) =>
  [...svg.matchAll(/\b(x|y|x1|x2|y1|y2|cx|cy|width|height)="(-?[\d.]+|NaN|-?Infinity)"/g)].map(
    ([, key, value]) => [key!, Number(value)] as const,
  );

function staysInside(svg: string, width: number, height: number): void {
  const all = places(svg);
  expect(all.length).toBeGreaterThan(1);
  for (const [key, value] of all) {
    expect(Number.isFinite(value)).toBe(true);
    const most = /^(x|cx|width)/.test(key) ? width : height;
    expect(value).toBeGreaterThanOrEqual(-1);
    expect(value).toBeLessThanOrEqual(Math.max(most, 20) + 1);
  }
  expect(svg).not.toMatch(/NaN|undefined|Infinity/);
}

describe('strips and bars', () => {
  const ends = fc.tuple(fc.double({ min: -40, max: 40, noNaN: true }), fc.double({ min: 0.01, max: 20, noNaN: true }));

  test('an interval lies inside its strip on the shared scale, zero too, whatever the verdict (property)', () => {
    fc.assert(
      fc.property(fc.array(ends, { minLength: 1, maxLength: 12 }), fc.constantFrom(...VERDICTS), (list, verdict) => {
        const scale = stripScale(
          list.flatMap(([at, half]) => [at - half, at + half]),
          190,
        );
        expect(scale.min).toBeLessThanOrEqual(0);
        expect(scale.max).toBeGreaterThanOrEqual(0);
        for (const [estimate, half] of list)
          staysInside(
            intervalStripSvg(scale, { estimate, low: estimate - half, high: estimate + half }, verdict, 22, 0.5),
            190,
            22,
          );
        staysInside(intervalStripSvg(scale, null, verdict, 22), 190, 22);
        expect(stripHeadSvg(scale, 10)).toContain('>0<');
      }),
      { numRuns: 40 },
    );
  });

  test('ticks of an axis are told apart by their digits, whatever its width (property)', () => {
    fc.assert(
      fc.property(ends, ([at, half]) => {
        const axis = axisOver(at - half, at + half, 5);
        const { values, digits } = ticksOf(axis);
        const words = values.map((v) => v.toFixed(digits));
        expect(new Set(words).size).toBe(words.length);
        values.forEach((v, i) => expect(Math.abs(Number(words[i]) - v)).toBeLessThan(axis.step * 1e-6));
        expect(values[0]).toBeCloseTo(axis.min, 9);
        expect(values.at(-1)).toBeCloseTo(axis.max, 9);
      }),
    );
  });

  test('a rank bar spans the places it can have, and says them (property)', () => {
    const rank = fc
      .tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 0, max: 11 }))
      .map(([from, more]) => ({ from, to: Math.min(12, from + more) }));
    fc.assert(
      fc.property(rank, (own) => {
        const svg = rankBarSvg(own, 12, own.from, 48, 10);
        staysInside(svg, 48, 10);
        expect(svg).toContain(`aria-label="${rankWords(own)}"`);
        expect(rankWords(own)).toBe(own.from === own.to ? `${own.from}` : `${own.from} to ${own.to}`);
      }),
    );
  });

  test('bands say themselves; only verified ones bear a shape', () => {
    const bands = judged.get(five)!.verdicts.find((v) => v.candidate === 'D')!.bands;
    const svg = bandCellsSvg(bands, [2500, 6000], 150, 14);
    expect(svg.match(/<title>/g)).toHaveLength(bands.length);
    expect(svg.match(/viewBox="0 0 16 16"/g)).toHaveLength(bands.filter((b) => b.verified).length);
    expect(svg).toContain('verified loss');
  });
});

describe('pictures of several setups', () => {
  test('the frontier holds every priced part; what is not verified or surely needless loses its fill', () => {
    const list = listOf(five);
    const svg = frontierSvg({
      setups: five.setups,
      standings: list,
      units: USUAL_UNITS,
      currency: 'EUR',
      width: 620,
      height: 292,
      fontSize: 11,
    });
    staysInside(svg, 620, 292);
    expect(svg.match(/<circle/g)).toHaveLength(5);
    expect(svg).toContain('surely needless');
    expect(svg).toContain('not verified');
    expect(svg).toContain('cost in EUR');
    const unpriced = standings({ ...five, money: { currency: null, hourlyRate: null } }, judged.get(five)!, {
      measure: MEASURE,
      by: 'sure',
    });
    expect(
      frontierSvg({
        setups: five.setups,
        standings: unpriced,
        units: USUAL_UNITS,
        currency: '',
        width: 620,
        height: 292,
        fontSize: 11,
      }),
    ).toBe('');
  });

  test('two factors: four points with bars, named by who is on the car', () => {
    const [own] = crossedIn(crossed, judged.get(crossed)!, MEASURE);
    const svg = crossedSvg(own!, crossed.setups, USUAL_UNITS, { width: 560, height: 270, fontSize: 11 });
    staysInside(svg, 560, 270);
    expect(svg.match(/<circle/g)).toHaveLength(4);
    for (const words of ['without B', 'with B', 'without C', 'with C']) expect(svg).toContain(`>${words}<`);
    const part = { ...own!, gains: [null, null, null] as const };
    expect(crossedSvg(part, crossed.setups, USUAL_UNITS, { width: 560, height: 270, fontSize: 11 })).toBe('');
  });

  test('steps: a part is a dot, a retune a square, a cure hollow', () => {
    const ledger = ledgerOf(build, judged.get(build)!, MEASURE)!;
    const svg = ledgerSvg(ledger, build.setups, USUAL_UNITS, { width: 560, height: 280, fontSize: 11 });
    staysInside(svg, 560, 280);
    expect(svg.match(/<circle/g)).toHaveLength(3);
    expect(svg.match(/<rect[^>]*width="10"/g)).toHaveLength(1);
    expect(svg.match(/<circle[^>]*fill="#FFFFFF"/g)).toHaveLength(1);
    expect(
      ledgerSvg({ ...ledger, steps: [] }, build.setups, USUAL_UNITS, { width: 560, height: 280, fontSize: 11 }),
    ).toBe('');
  });

  test('one panel has power and torque of what is shown, and curves of other jobs grey', () => {
    const curve = {
      name: 'x',
      at: null,
      bay: '',
      correction: null,
      first: 120,
      values: Array.from({ length: 80 }, () => 60e3),
    };
    const view = {
      ...{
        job: { ...five, references: [curve] },
        judgement: judged.get(five)!,
        candidate: 'B',
        measure: MEASURE,
        units: USUAL_UNITS,
      },
      hiddenSetups: new Set(['C', 'D', 'E', 'F', 'A2', 'A3']),
      ...{ hiddenPulls: new Set<string>(), showPulls: true, showSetAside: false, fontSize: 11 },
      size: { width: 826, power: 198, torque: 104, ribbon: 112 },
    };
    const svg = onePanelSvg(view, 826, 440);
    staysInside(svg, 826, 440);
    expect(svg.match(/<path/g)).toHaveLength(2 * 2 + 2);
    expect(svg).toContain('in one panel');
    const none = new Set(five.setups.map((s) => s.id));
    expect(onePanelSvg({ ...view, hiddenSetups: none }, 826, 440)).toBe('');
  });
});

describe('what may be said of several setups', () => {
  test('names in a row; money as people write it', () => {
    expect([either([]), either(['B']), either(['B', 'C']), either(['B', 'C', 'D'])]).toEqual([
      '',
      'B',
      'B or C',
      'B, C or D',
    ]);
    expect([money(111.4, 'EUR'), money(37.226, 'EUR'), money(40, null), money(null, 'EUR')]).toEqual([
      '111 EUR',
      '37.23 EUR',
      '40',
      '–',
    ]);
  });

  test('a tie has no best; three sentences at most, and each of a part that was run', () => {
    for (const job of [five, crossed, build]) {
      const list = listOf(job);
      const first = firstWords(job, list);
      expect(first).not.toMatch(/\bbest\b/);
      expect(first).toMatch(list.first.length > 1 ? / or .*cannot tell/ : /surely/);
      const told = tellCustomer(job, list, USUAL_UNITS);
      expect(told.length).toBeGreaterThan(0);
      expect(told.length).toBeLessThanOrEqual(3);
      for (const words of told) expect(words).toMatch(/^[A-Z].*[.]$/);
      expect(nextQuestion(job, list)).toMatch(/[.?]$/);
    }
    expect(tellCustomer(five, listOf(five), USUAL_UNITS).join(' ')).toContain(
      'pays for its gain: it loses between 2500 and 4000 rpm',
    );
  });

  test('what is no power is not gained: a cooler or quicker part does more, and a worse one has its measure’s word', () => {
    const { ranked, unranked, ...rest } = listOf(five);
    const asTime = (s: Standing): Standing => ({ ...s, verdict: { ...s.verdict, measure: 'rollOnTime' } });
    const list = { ranked: ranked.map(asTime), unranked: unranked.map(asTime), ...rest };
    expect(firstWords(five, list)).toMatch(/ does most|of them does most/);
    expect(nextQuestion(five, list)).not.toMatch(/gains/);
    const worse = {
      ...list.unranked[0]!,
      verdict: { ...list.unranked[0]!.verdict, verdict: 'verified-loss' as const },
    };
    const told = tellCustomer(five, { ...list, unranked: [worse] }, USUAL_UNITS).join(' ');
    expect(told).toContain(`${verdictLook('verified-loss', 'rollOnTime').word}: ${worse.setup} (`);
    expect(told).not.toMatch(/power|gains/);
  });

  test('nothing verified: nothing is ranked, and it says so', () => {
    const none = { ranked: [], unranked: listOf(five).unranked, ties: [], first: [], pairs: [] };
    expect(firstWords(five, none)).toContain('nothing to rank yet');
    expect(tellCustomer(five, none, USUAL_UNITS)[0]).toContain('None of the parts is verified');
    expect(nextQuestion(five, none)).toMatch(/E .*is open|Nothing is open/);
    const [open] = none.unranked as [Standing];
    expect(
      unrankedWords({
        ...open,
        unranked: 'too-few-pulls',
        verdict: { ...open.verdict, verdict: 'not-resolved', reason: 'too-few-pulls' },
      }),
    ).toBe('too few pulls');
    expect(unrankedWords({ ...open, verdict: { ...open.verdict, verdict: 'verified-loss' } })).toBe('a verified loss');
    expect(unrankedWords({ ...open, verdict: { ...open.verdict, verdict: 'no-meaningful-change' } })).toContain(
      'nothing that would matter',
    );
    expect(unrankedWords({ ...open, unranked: null })).toBe('');
    const gaps = { ...open.cost!, gaps: ['parts', 'hours', 'rate', 'currencies'] as const };
    expect(costGapWords(gaps).split(', ')).toHaveLength(4);
  });

  test('an interaction is more, less, or no sign of one; what is added on top is said from both sides', () => {
    const d = (estimate: number, half: number): Difference => ({
      estimate,
      low: estimate - half,
      high: estimate + half,
      unit: '%',
    });
    const of = (interaction: Difference, onTop: Crossed['onTop'] = [null, null]): Crossed => ({
      ...{
        measure: MEASURE,
        alone: ['B', 'C'],
        both: 'D',
        gains: [d(2, 0.5), d(3, 0.5), d(3.2, 0.5)],
        interaction,
        onTop,
      },
    });
    expect(interactionWords(of(d(-1.9, 1.1)), USUAL_UNITS)).toBe(
      'Together they bring less than the sum: 1.9 % less (0.8 to 3.0).',
    );
    expect(interactionWords(of(d(1.9, 1.1)), USUAL_UNITS)).toBe(
      'Together they bring more than the sum: +1.9 % more (+0.8 to +3.0).',
    );
    expect(interactionWords(of(d(0.2, 1.2)), USUAL_UNITS)).toBe(
      'No sign that one changes what the other brings (B and C: ±1.2 %).',
    );
    const sides = of(d(-1, 1), [d(0.2, 0.6), d(1.4, 0.6)]);
    expect(onTopWords(sides, 0, USUAL_UNITS)).toContain('With C fitted, B adds nothing that we can see');
    expect(onTopWords(sides, 1, USUAL_UNITS)).toBe('With B fitted, C still adds +1.4 % (+0.8 to +2.0).');
    expect(onTopWords(of(d(0, 1), [d(-1.4, 0.6), null]), 0, USUAL_UNITS)).toContain('takes −1.4 %');
    expect(onTopWords(of(d(0, 1)), 0, USUAL_UNITS)).toBe('');
  });
});
