import { describe, expect, test } from '@jest/globals';
import { NOT_LAID, type DistanceForecast, type NotLaid, type PooledHeat, type RoadForecast } from '@prandel/core';
import { USUAL_UNITS } from './figures.ts';
import { heatWords, pauseWords } from './heatWords.ts';
import { notLaidWords } from './loggerWords.ts';
import {
  agreementWords,
  distanceFigures,
  distancesBeyond,
  feltWords,
  forecastBasis,
  forecastFigures,
  roadFigures,
} from './roadWords.ts';

// Words about what stands beside the pulls: the road, a logger, the heat of a car.
const DISTANCE: DistanceForecast = {
  ...{ metres: 200, baselineS: 7.312, candidateS: 7.221, lowS: -0.141, highS: -0.049 },
  ...{ baselineEnd: 35.52, candidateEnd: 35.81 },
};
const FORECAST: RoadForecast = {
  ...{ baselineS: 6.2, candidateS: 6.05, baselineG: 0.1827, candidateG: 0.1872, percent: -2.42 },
  ...{ lowPercent: -3.31, highPercent: -1.52, dragAreaM2: 0.66, fitted: false, airDensity: 1.2, felt: false },
  distances: [DISTANCE],
};

describe('the road', () => {
  test('a result stands in seconds, per cent and g, and its g follow from its seconds', () => {
    const levels = { baseline: 5, baselineLow: 4.9, baselineHigh: 5.1 };
    const gain = {
      value: -0.15,
      lowValue: -0.21,
      highValue: -0.09,
      unit: 's',
      percent: -3,
      lowPercent: -4.2,
      highPercent: -1.8,
    };
    const figures = roadFigures({ measure: 'roadTime(80-120)', gain, levels } as never)!;
    // 40 km/h in 5 s are 2.2222 m/s², 0.2266 g of 9.80665 m/s²; three per cent less time is 0.2336 g.
    expect(figures).toEqual({
      seconds: '\u22120.15 s (\u22120.21 to \u22120.09)',
      percent: '\u22123.0 % (\u22124.2 to \u22121.8)',
      g: '0.227 to 0.234 g (+0.007)',
    });
    expect(roadFigures({ measure: 'windowMeanPower', gain, levels } as never)).toBeNull();
    expect(roadFigures({ measure: 'roadTime(80-120)', gain: null, levels } as never)).toBeNull();
  });

  test('where drag was fitted to the passes, no time of a single setup is called a forecast', () => {
    expect(forecastFigures(FORECAST).seconds).toBe('6.20 to 6.05 s');
    const fitted = { ...FORECAST, fitted: true };
    expect(forecastFigures(fitted).seconds).toBe('\u22120.15 s');
    expect(forecastBasis(fitted)).toContain('only the change is a forecast');
    expect(distanceFigures(DISTANCE, false)).toEqual({
      ...{ name: '200 m', seconds: '7.31 to 7.22 s', change: '\u22120.09 s (\u22120.14 to \u22120.04)' },
      atTheEnd: '127.9 to 128.9 km/h',
    });
    const shown = distanceFigures({ ...DISTANCE, lowS: null, highS: null }, true);
    expect(Object.values(shown).join(' ')).not.toMatch(/7\.\d|12\d\./);
    expect(shown.change).toBe('\u22120.09 s, no ±');
  });

  test('distances that the curves do not reach are named', () => {
    expect(distancesBeyond(FORECAST)).toBe('400 m, ¼ mile: the curves end before that, it needs another gear.');
    const all = [200, 400, 402.336].map((metres) => ({ ...DISTANCE, metres }));
    expect(distancesBeyond({ distances: all })).toBe('');
  });

  test('felt and not felt, agreed and not, are told apart', () => {
    expect(feltWords(FORECAST, 5)).toContain('would not feel');
    expect(feltWords({ ...FORECAST, felt: true }, 5)).toMatch(/^A driver would feel/);
    expect(new Set((['agree', 'differ', 'cannot-tell'] as const).map(agreementWords)).size).toBe(3);
  });
});

test('every reason why a record cannot be laid says what to do, and none is the words of another', () => {
  const reasons: Record<NotLaid['code'], NotLaid> = {
    'no-time': { code: 'no-time' },
    'too-long': { code: 'too-long', hours: 1583.4 },
    'no-common-speed': { code: 'no-common-speed' },
    'no-match': { code: 'no-match', correlation: 0.9134 },
    ambiguous: { code: 'ambiguous', places: 3 },
    residual: { code: 'residual', residual: 212.4, range: 4000, laidBy: 'engine' },
  };
  expect(Object.keys(reasons).sort()).toEqual([...NOT_LAID].sort());
  const words = Object.values(reasons).map(notLaidWords);
  expect(new Set(words).size).toBe(words.length);
  for (const sentence of words) expect(sentence).toMatch(/[.?]$/);
  expect(notLaidWords(reasons['too-long'])).toContain('1583 hours');
  expect(notLaidWords(reasons['no-match'])).toContain('0.913');
  expect(notLaidWords(reasons.residual)).toContain('212 rpm');
});

describe('the heat of a car', () => {
  const heat: PooledHeat = { percentPerC: 0.18, low: 0.06, high: 0.3, jobs: 3 };

  test('what it costs keeps its interval the right way round, also in °F', () => {
    expect(heatWords(heat, USUAL_UNITS)).toContain('\u22120.18 % of mean power per °C');
    expect(heatWords(heat, USUAL_UNITS)).toContain('between \u22120.30 and \u22120.06');
    expect(heatWords(heat, { ...USUAL_UNITS, temperature: '°F' })).toContain('\u22120.10 % of mean power per °F');
    expect(heatWords({ ...heat, jobs: 1 }, USUAL_UNITS)).toContain('by one job');
  });

  test('a pause that is too short is told with one that is not, and a car that heat does not slow needs none', () => {
    const short = pauseWords(heat, 1, true, 1);
    const told = Number(/(\d+) min keep that under/.exec(short)![1]);
    expect(told).toBeGreaterThan(1);
    expect(pauseWords(heat, told, true, 1)).toContain('the pause is long enough');
    expect(pauseWords({ ...heat, percentPerC: -0.05 }, 1, true, 1)).toContain('does no harm');
    expect(pauseWords({ ...heat, percentPerC: 30 }, 5, true, 0.1)).toContain('no pause up to half an hour');
  });
});
