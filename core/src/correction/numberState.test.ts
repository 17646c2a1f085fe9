import { describe, expect, test } from '@jest/globals';
import { namedFactor, numberStateUnder, type FileSays, type NumbersSaid } from './numberState.ts';

const AIR = { airC: 25, pressureHpa: 990, relativeHumidity: 0 };
const said = (state: NumbersSaid['state'], more: Partial<NumbersSaid> = {}): NumbersSaid => ({
  state,
  standard: null,
  factor: null,
  ...more,
});
const file = (kind: FileSays['kind'], standard: string | null, factor: number | null): FileSays => ({
  kind,
  standard,
  factor,
});

describe('the state of a pull’s numbers', () => {
  // SAE J1349 at its own reference: 25 °C and 990 hPa of dry air give 1.
  test('a factor that nobody printed is computed from the weather, where that is known', () => {
    expect(namedFactor('sae-j1349', AIR)).toBeCloseTo(1, 9);
    expect(numberStateUnder(said('corrected', { standard: 'sae-j1349' }), null, AIR)).toEqual({
      kind: 'corrected',
      standard: 'sae-j1349',
      factor: expect.closeTo(1, 9),
    });
    expect(numberStateUnder(said('corrected', { standard: 'sae-j1349' }), null, null)).toBeNull();
    expect(numberStateUnder(said('corrected', { standard: 'nobody’s' }), null, AIR)).toBeNull();
    expect(namedFactor('iso-1585-ci', AIR)).toBeNull();
  });

  test.each<[string, NumbersSaid, FileSays | null, object | null]>([
    ['as measured', said('uncorrected'), file('corrected', 'din-70020', 1.02), { kind: 'uncorrected' }],
    ['nobody knows', said('unknown'), null, { kind: 'unknown' }],
    ['scaled', said('scaled', { factor: 1.15 }), null, { kind: 'scaled', factor: 1.15 }],
    ['scaled by nothing', said('scaled'), null, null],
    [
      'a typed factor over the computed one',
      said('corrected', { standard: 'din-70020', factor: 1.03 }),
      null,
      { kind: 'corrected', standard: 'din-70020', factor: 1.03 },
    ],
    [
      'as the file says',
      said('as-stated'),
      file('corrected', 'din-70020', 1.02),
      { kind: 'corrected', standard: 'din-70020', factor: 1.02 },
    ],
    [
      'a factor of a standard without a name',
      said('as-stated'),
      file('corrected', null, 1.02),
      { kind: 'corrected', standard: 'unnamed', factor: 1.02 },
    ],
    ['a file that says “none”', said('as-stated'), file('uncorrected', null, null), { kind: 'uncorrected' }],
    ['a file that says nothing', said('as-stated'), null, null],
    ['a file that only says “corrected”', said('as-stated'), file('corrected', null, null), null],
  ])('%s', (_, answers, says, state) => {
    expect(numberStateUnder(answers, says, AIR)).toEqual(state);
  });
});
