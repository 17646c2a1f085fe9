import { describe, expect, test } from '@jest/globals';
import { conditionsOf, EMPTY_ROUND, numberStateOf } from './roundForm.ts';

describe('what a person says about a round', () => {
  test('nothing can be imported before somebody says whether the numbers are corrected', () => {
    expect(numberStateOf(EMPTY_ROUND)).toBeNull();
    expect(numberStateOf({ ...EMPTY_ROUND, state: 'corrected' })).toBeNull();
    expect(numberStateOf({ ...EMPTY_ROUND, state: 'scaled' })).toBeNull();
  });

  test.each([
    [{ state: 'uncorrected' }, { kind: 'uncorrected' }],
    [{ state: 'unknown' }, { kind: 'unknown' }],
    [
      { state: 'corrected', standard: 'sae-j607', factor: '1,037' },
      { kind: 'corrected', standard: 'sae-j607', factor: 1.037 },
    ],
    [
      { state: 'scaled', factor: '1.1' },
      { kind: 'scaled', factor: 1.1 },
    ],
  ] as const)('%j', (typed, state) => {
    expect(numberStateOf({ ...EMPTY_ROUND, ...typed })).toEqual(state);
  });

  test('humidity is typed in per cent and kept as a fraction; empty fields stay unknown', () => {
    expect(conditionsOf({ ...EMPTY_ROUND, humidity: '47', air: '21,5', gear: ' 4 ' })).toEqual({
      pressureHpa: null,
      airC: 21.5,
      relativeHumidity: 0.47,
      gear: '4',
    });
  });
});
