import { describe, expect, test } from '@jest/globals';
import { conditionFinding, finding, type ConditionFinding, type PullFinding } from '@prandel/core';
import { conditionWords, notUsedWords, pullFindingWords, verdictReasonWords } from './findingWords.ts';
import { USUAL_UNITS } from './figures.ts';

const pair = { baseline: 'A', candidate: 'B' };
const fahrenheit = { ...USUAL_UNITS, temperature: '°F' } as const;

describe('findings in words', () => {
  test('a difference of temperature is said in the unit that a person reads, its zero point left where it is', () => {
    const warm = conditionFinding('condition-differs', 'blocking', {
      ...{ condition: 'intakeStart', difference: -10, unit: '°C', blockingAt: 8 },
    } as const);
    expect(conditionWords(warm, pair)).toBe(
      'Intake air at start above the bay’s air differs by 10.0 °C; beyond 8 °C the pair is not comparable.',
    );
    expect(conditionWords(warm, pair, fahrenheit)).toContain('differs by 18.0 °F; beyond 14.4 °F');
    const rise = conditionFinding('rise', 'warning', { baselineC: 1, candidateC: 3.5 });
    expect(conditionWords(rise, pair, fahrenheit)).toContain(
      'climbs by 6.3 °F from pull to pull on B and by 1.8 °F on A',
    );
  });

  test('the ranges that power was lost in are joined, and the setups called by their keys', () => {
    const hidden: ConditionFinding = conditionFinding('peak-hides-loss', 'warning', {
      percent: 1.26,
      lostRpm: [
        [3000, 4000],
        [5000, 5500],
      ],
    });
    expect(conditionWords(hidden, pair)).toMatch(
      /^The peak reads 1\.3 % higher, but .* 3000 to 4000 and 5000 to 5500 rpm/,
    );
    const crossed = conditionFinding('place-crossed', 'warning', { baselinePlaces: [1, 2], candidatePlaces: [3] });
    expect(conditionWords(crossed, pair)).toMatch(/^B was counted at place 3 of its round, A at places 1, 2:/);
  });

  test('what decided a pair that cannot be compared is every blocking finding and nothing else', () => {
    const findings = [
      conditionFinding('no-return', 'info', {}),
      conditionFinding('settle-one-side', 'blocking', {}),
      conditionFinding('state-differs', 'blocking', { state: 'fuel', baseline: '98', candidate: '95' }),
    ];
    expect(verdictReasonWords({ ...pair, measure: 'windowMeanPower', reason: 'conditions' }, findings)).toBe(
      'One side has settle pulls and the other none. Fuel differs (98 against 95) and is not a declared change.',
    );
  });

  test('one odd sample is one sample, and a pull that was left out says by which finding', () => {
    const bad = (samples: number): PullFinding => finding('rpm-dropout', 'warning', { samples });
    expect(pullFindingWords(bad(1))).toContain('in 1 sample:');
    expect(pullFindingWords(bad(4))).toContain('in 4 samples:');
    const cut = finding('cut-short', 'warning', { coveredPercent: 81.6, windowRpm: [3000, 6000] });
    expect(notUsedWords({ code: 'finding', finding: cut })).toBe(
      'Cut short: covers 82 % of the window 3000–6000 rpm, so it does not count.',
    );
    const outside = finding('outside-validity', 'info', {
      quantities: [
        { quantity: 'factor', low: 0.93, high: 1.07, unit: '' },
        { quantity: 'air', low: 15, high: 35, unit: '°C' },
      ],
    });
    expect(pullFindingWords(outside)).toMatch(/factor outside 0\.93–1\.07, air outside 15–35 °C\.$/);
  });
});
