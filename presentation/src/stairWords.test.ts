import { describe, expect, test } from '@jest/globals';
import type { CandidateVerdict, Gain } from '@prandel/core';
import { USUAL_UNITS } from './figures.ts';
import { narrowerLines, seesFromWords, stairLines, suspectedWords, widthLines } from './stairWords.ts';

const gain: Gain = {
  ...{ percent: 2.11, lowPercent: 1.0, highPercent: 3.0, low90Percent: 1.2, high90Percent: 2.9 },
  ...{ value: 2300, lowValue: 1100, highValue: 3300, unit: 'W', confidence: 0.95, p: 0.001, estimate: 2.09 },
};
const v: Pick<
  CandidateVerdict,
  'measure' | 'gain' | 'steps' | 'returnCheck' | 'width' | 'narrower' | 'baseline' | 'candidate'
> = {
  ...{ measure: 'windowMeanPower', gain, returnCheck: { value: 0.7, unit: '%' }, baseline: 'A', candidate: 'B' },
  steps: [
    { kind: 'measured', after: -1.407 },
    { kind: 'weather', after: -1.18 },
    { kind: 'start-temperature', after: -1.18 },
    { kind: 'drift', after: 2.104 },
    { kind: 'bad-pulls', after: 2.11 },
  ],
  width: { shares: { scatter: 0.34, mounts: 0.12, drift: 0.536, heat: 0.004 }, scatter: 0.36 },
  narrower: [
    { kind: 'rounds', rounds: [{ side: 0, counted: 3 }], halfWidth: 0.684 },
    { kind: 'known-bay', halfWidth: 0.7 },
  ],
};

describe('how a number came about, in words', () => {
  test('what is printed adds up, and a step that changed nothing is left out', () => {
    const { unit, lines } = stairLines(v, USUAL_UNITS);
    expect(unit).toBe('%');
    expect(lines.map((l) => [l.kind, l.change, l.after])).toEqual([
      ['measured', null, '\u22121.41'],
      ['weather', '+0.23', '\u22121.18'],
      ['drift', '+3.28', '+2.10'],
      ['bad-pulls', '+0.01', '+2.11'],
    ]);
    for (const [i, line] of lines.entries()) if (i > 0) expect(line.from).toBe(lines[i - 1]!.to);
  });

  test('without a return check nobody says that one told the drift', () => {
    const words = (returnCheck: typeof v.returnCheck) =>
      stairLines({ ...v, returnCheck }, USUAL_UNITS).lines.find((l) => l.kind === 'drift')!.words;
    expect(words({ value: 0.7, unit: '%' })).toContain('return check');
    expect(words(null)).not.toContain('return check');
  });

  test('a temperature’s steps are differences in the unit that a person reads', () => {
    const degrees = { ...gain, percent: null, lowPercent: null, highPercent: null, unit: '°C' as const };
    const asked = { ...v, gain: degrees, measure: 'start(oil_c)' };
    const { unit, lines } = stairLines(asked, { ...USUAL_UNITS, temperature: '°F' });
    expect([unit, lines[0]!.after]).toEqual(['°F', '\u22122.53']);
    expect(lines[0]!.words).toBe('Means of the readings, as measured');
  });

  test('shares, largest first, and what would make it narrower', () => {
    expect(widthLines(v).map((s) => s.percent)).toEqual([54, 34, 12]);
    expect(narrowerLines(v, USUAL_UNITS).map((w) => `${w.words}: ${w.half}`)).toEqual([
      'One more round of 3: back to A: about ±0.68 %',
      'A bay whose ways are known: commissioning days and return checks: about ±0.70 %',
    ]);
  });

  test('pulls that may be unlike the others are named with their weight', () => {
    const pull = (name: string, likely: number) => ({ pullId: name, name, likely, repeat: true });
    expect(suspectedWords({ suspected: [] })).toBe('');
    expect(suspectedWords({ suspected: [pull('B·3', 0.57), pull('A·4', 0.998)] })).toBe(
      'The day reads as if B·3 (57 %) and A·4 (99 %) were not like the others; nothing is dropped.',
    );
  });

  test('what a day sees from is the half-width that stands beside its result', () => {
    expect(seesFromWords(v, USUAL_UNITS)).toBe('This day sees from ±1.2 %.');
    expect(seesFromWords({ gain: null, measure: 'windowMeanPower' }, USUAL_UNITS)).toBe('');
  });
});
