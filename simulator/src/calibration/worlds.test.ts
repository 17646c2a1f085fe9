import { describe, expect, test } from '@jest/globals';
import { Random } from '../random.ts';
import { worldDay, WORLDS } from './worlds.ts';

describe('worlds to calibrate the engine in', () => {
  test('the same seed makes the same day, and a gain moves the candidate and nothing else', () => {
    const day = (gain: number) => worldDay(WORLDS.wild, 'A3 B3 A2', [gain], new Random(5));
    expect(day(0)).toEqual(day(0));
    expect(day(2).y.map((y, i) => Math.round(1e6 * (y - day(0).y[i]!)) / 1e6)).toEqual([0, 0, 0, 2, 2, 2, 0, 0]);
  });
});
