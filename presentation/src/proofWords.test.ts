import { describe, expect, test } from '@jest/globals';
import {
  chartStretches,
  fails,
  holds,
  noted,
  shelfAnswer,
  suspectsFor,
  type CheckCode,
  type SearchStanding,
  type ShelfStudy,
} from '@prandel/core';
import fc from 'fast-check';
import {
  baselinesSvg,
  complaintWords,
  controlChartSvg,
  expectedWords,
  forestRowSvg,
  forestScale,
  OPEN_RING,
  promiseWords,
  repeatabilitySvg,
  returnChecksSvg,
  SEAL_RING,
  sealCheckWords,
  sealedVerdicts,
  sealStanding,
  searchStandingWords,
  spreadWords,
  unitsOfSealed,
  USUAL_UNITS,
} from './index.ts';

const size = { width: 600, height: 200 };
const count = (svg: string, tag: string) => svg.split(`<${tag}`).length - 1;
/** Numbers of a picture that are none. */
const nonsense = /NaN|Infinity|undefined|null/;

describe('a check of a seal in words', () => {
  const codes: Record<CheckCode, Record<string, string | number>> = {
    ...{ 'no-seal': {}, signature: { shop: 'Quillmoor Garage' }, resources: { files: 9 } },
    ...{ 'resource-changed': { path: 'pulls/B2.csv' }, 'resource-missing': { path: 'log.csv' } },
    ...{
      'resource-added': { path: 'x.csv' },
      'no-log': {},
      'log-chain': { events: 12, row: 4, why: 'Its hash differs.' },
    },
    ...{ 'log-head': { events: 12, sealed: 14 }, pulls: { pulls: 8 }, 'pull-samples': { pull: 'B2' } },
    ...{ 'pull-facts': { pull: 'B2' }, 'pull-missing': { pull: 'B2' }, 'pull-unlogged': { pulls: 1 } },
    ...{ verdicts: { verdicts: 2 }, 'verdict-differs': { candidate: 'B', sealed: '+2.6 kW', made: '+2.4 kW' } },
    ...{ 'verdicts-elsewhere': {}, report: {}, 'report-elsewhere': {} },
  };

  test('each names what it is about, whichever way it went, and leaves no gap', () => {
    for (const [code, parameters] of Object.entries(codes) as [CheckCode, Record<string, string | number>][])
      for (const made of [holds, fails, noted]) {
        const words = sealCheckWords(made(code, parameters));
        // A sentence that begins with a path keeps the path as it is.
        expect(words).toMatch('path' in parameters ? /\.$/ : /^[A-Z].*\.$/);
        expect(words).not.toMatch(nonsense);
        expect(words).not.toMatch(/ {2}| \.| ,/);
        for (const name of ['path', 'pull', 'candidate'])
          if (name in parameters) expect(words).toContain(parameters[name]);
      }
  });

  test('one that fails makes the whole fail, whatever the others say; none without a seal is called sealed', () => {
    const all = Object.entries(codes).map(([code, p]) => holds(code as CheckCode, p));
    expect(sealStanding(all, true)).toEqual({ holds: true, words: 'The seal holds' });
    for (let i = 0; i < all.length; i++) expect(sealStanding(all.with(i, fails(all[i]!.code)), true).holds).toBe(false);
    expect(sealStanding([noted('no-seal')], false).words).toMatch(/^Not sealed/);
    expect(SEAL_RING).not.toBe(OPEN_RING);
  });
});

describe('figures that are sealed', () => {
  const verdict = (unit: 'kW' | 'hp') =>
    sealedVerdicts(
      {
        verdicts: [
          {
            ...{ candidate: 'B', baseline: 'A', measure: 'windowMeanPower', verdict: 'verified-gain' },
            gain: {
              value: 2600,
              lowValue: 1900,
              highValue: 3300,
              unit: 'W',
              percent: 2.61,
              lowPercent: 1.9,
              highPercent: 3.32,
            },
          },
          { candidate: 'C', baseline: 'A', measure: 'windowMeanPower', verdict: 'not-comparable', gain: null },
        ] as never,
      },
      { ...USUAL_UNITS, power: unit },
    );

  test('are as they are printed, in the units they were printed in, which they tell', () => {
    const [own, none] = verdict('kW');
    expect(own).toMatchObject({ estimate: '+2.6', low: '+1.9', high: '+3.3', unit: 'kW', percent: '+2.6' });
    expect(none).toMatchObject({ estimate: null, unit: null, percent: null });
    const [inHp] = verdict('hp');
    // 2600 W over 745.69987 W: 3.49 hp (mechanical horsepower).
    expect(inHp).toMatchObject({ estimate: '+3.5', unit: 'hp', percent: '+2.6' });
    expect(unitsOfSealed([own!, none!])).toEqual({ ...USUAL_UNITS, power: 'kW' });
    expect(unitsOfSealed([inHp!]).power).toBe('hp');
    expect(unitsOfSealed([{ ...inHp!, unit: 'furlong' }])).toEqual(USUAL_UNITS);
  });
});

describe('a shelf in words and pictures', () => {
  const study = (car: number, estimate: number, standardError = 0.4): ShelfStudy => ({
    ...{ car: String(car), model: 'Vireo', verdict: 'verified-gain', estimate, standardError, factors: {} },
  });
  const group = (values: readonly number[]) =>
    shelfAnswer(
      values.map((v, i) => study(i, v)),
      'windowMeanPower',
    ).all!;

  test('a promise is held against the average only where there is one', () => {
    const three = group([1.2, 1.4, 1.3, 1.5]);
    expect(promiseWords(5, three)).toMatch(/^Promised \+5\.0 %, found \+1\.[34] % \(.* to .*\): less than promised\.$/);
    expect(promiseWords(-3, three)).toMatch(/more than promised/);
    expect(promiseWords(three.average!.estimate, three)).toMatch(/as promised, as far as can be told/);
    expect(promiseWords(5, group([1.2, 1.4]))).toBe(
      'Promised +5.0 %, found +1.3 % on two cars: too few cars to hold it against the promise.',
    );
    expect([promiseWords(null, three), promiseWords(5, null)]).toEqual(['', '']);
  });

  test('what is expected of the next car needs three; how cars differ is said from three on', () => {
    expect(expectedWords({ cars: 0, estimate: null, low: null, high: null })).toBe('');
    expect(expectedWords({ cars: 1, estimate: -0.4, low: null, high: null })).toMatch(/^on one car: −0\.4 %; too few/);
    expect(expectedWords({ cars: 5, estimate: 1, low: 0.2, high: 1.8 })).toBe('on 5 cars: +0.2 to +1.8 % expected');
    expect(spreadWords(group([1, 2]), 'windowMeanPower')).toBe('');
    expect(spreadWords(group([1.2, 1.2, 1.2]), 'windowMeanPower')).toMatch(/^No difference between cars/);
    expect(spreadWords(group([0, 4, 8]), 'windowMeanPower')).toMatch(
      // By hand: s = 4 of 0, 4, 8; τ² = 16 − 0.16, I² = 1 − 2/200.
      /^Differs between cars by about 4\.0 %; 99 % of/,
    );
  });

  test('baselines: a dot a car, a box for the range, one number where all are one', () => {
    const read = (w: number) => (w / 1000).toFixed(1);
    const many = baselinesSvg([99_000, 103_000], { lowW: 95_000, highW: 107_000 }, read);
    expect([count(many, 'circle'), count(many, 'rect'), count(many, 'text')]).toEqual([2, 1, 2]);
    const one = baselinesSvg([99_000], null, read);
    expect([count(one, 'rect'), count(one, 'text')]).toEqual([0, 1]);
    expect(one + many).not.toMatch(nonsense);
  });

  test('a row stays inside its picture whatever its interval, and a study left out is hollow (property)', () => {
    const value = fc.double({ min: -30, max: 30, noNaN: true });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(value, fc.double({ min: 0, max: 60, noNaN: true })), { minLength: 1, maxLength: 8 }),
        (rows) => {
          const ranges = rows.map(([estimate, half]) => ({ estimate, low: estimate - half, high: estimate + half }));
          const scale = forestScale(ranges, [], 400);
          expect(scale.min).toBeLessThanOrEqual(0);
          expect(scale.max).toBeGreaterThanOrEqual(0);
          for (const range of ranges) {
            expect(range.estimate).toBeGreaterThanOrEqual(scale.min);
            expect(range.estimate).toBeLessThanOrEqual(scale.max);
            const svg = forestRowSvg(scale, { range, weight: 0.3, verdict: 'verified-gain' }, 0.5, 2, 26);
            expect(svg).not.toMatch(nonsense);
            for (const [, x] of svg.matchAll(/ x[12]="(-?[\d.]+)"/g)) expect(Number(x)).toBeLessThanOrEqual(400);
          }
        },
      ),
      { numRuns: 60 },
    );
    const scale = forestScale([{ estimate: 1, low: 0, high: 2 }], [], 400);
    const drawn = (weight: number) =>
      forestRowSvg(scale, { range: { estimate: 1, low: 0, high: 2 }, weight, verdict: 'verified-gain' }, 1, null, 26);
    expect(drawn(0)).toContain('stroke-dasharray="3 3"');
    expect(drawn(1)).not.toContain('stroke-dasharray="3 3"');
  });
});

describe('charts of a bay', () => {
  const point = (value: number, i: number, epoch: string | null = null) => ({
    ...{ at: new Date(Date.UTC(2026, 0, 1 + 7 * i)).toISOString(), value, job: `j${i}`, epoch },
    name: i === 2 ? '<b>&"' : `round ${i}`,
  });
  const steady = [0, 0.2, -0.1, 0.1, -0.2, 0.1, 0, -0.1, 0.2, 0];

  test('a reading outside is a diamond, its word once; names cannot break out of the picture', () => {
    const stretches = chartStretches(
      [...steady, 4].map((v, i) => point(v, i)),
      [],
    );
    const svg = controlChartSvg(stretches, { ...size, unit: '%' });
    expect([count(svg, 'circle'), svg.split('l7 7l-7 7').length - 1]).toEqual([10, 1]);
    expect(svg.split('outside its limits').length - 1).toBe(1);
    expect(svg).not.toContain('<b>');
    expect(svg).not.toMatch(nonsense);
  });

  test('stretches of two calibrations stand about their own means with a rule between', () => {
    const points = [
      ...steady.map((v, i) => point(v, i, '2026-01-01')),
      ...steady.map((v, i) => point(v + 9, 20 + i, '2026-05-01')),
    ];
    const svg = controlChartSvg(chartStretches(points, []), { ...size, unit: '%' });
    expect(svg).toContain('calibrated 2026-05-01');
    expect(count(svg, 'circle')).toBe(20);
    // Nine per cent between them is nowhere on the axis.
    expect(svg).not.toMatch(/>\+[4-9](\.0)?</);
  });

  test('one reading, none, and all at one value are drawn too (property)', () => {
    expect(controlChartSvg([], { ...size, unit: '%' })).toContain('0 readings');
    fc.assert(
      fc.property(fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 1, maxLength: 14 }), (values) => {
        const points = values.map((v, i) => point(v, i));
        expect(controlChartSvg(chartStretches(points, []), { ...size, unit: 'hPa' })).not.toMatch(nonsense);
        expect(returnChecksSvg(points, values[0]! > 0 ? values[0]! : null, size)).not.toMatch(nonsense);
        const months = values.map((v, i) => ({
          month: `2026-${String(i + 1).padStart(2, '0')}`,
          sd: Math.abs(v),
          jobs: 1,
        }));
        expect(count(repeatabilitySvg(months, size), 'title')).toBe(values.length);
      }),
      { numRuns: 60 },
    );
  });
});

describe('a search in words', () => {
  const left = suspectsFor({ aspiration: 'natural' }, 'smoke');
  const standing = (state: SearchStanding['state'], own = left): string =>
    searchStandingWords({ state, spentMinutes: 24.6, next: null, left: own }, 60);

  test('every standing says the minutes; one that stopped short names what would be next', () => {
    for (const state of ['open', 'cured', 'found', 'inside', 'budget', 'all', 'closed'] as const)
      expect(standing(state)).toMatch(/25/);
    expect(standing('budget')).toBe(`The budget is spent (25 of 60 min spent). Next would be: ${left[0]!.label}.`);
    expect(standing('budget', [])).toBe('The budget is spent (25 of 60 min spent).');
    expect(standing('closed')).toBe(`Given up after 25 min; next would be: ${left[0]!.label}.`);
    expect(standing('closed', [])).toBe('Given up after 25 min.');
  });

  test('a complaint ends "because the car …" in its own words', () => {
    expect(complaintWords({ complaint: 'smoke', words: '' })).toBe('smokes');
    expect(complaintWords({ complaint: 'other', words: 'hunts at idle' })).toBe('had a complaint (hunts at idle)');
    expect(complaintWords({ complaint: 'other', words: '' })).toBe('had a complaint (no words)');
  });
});
