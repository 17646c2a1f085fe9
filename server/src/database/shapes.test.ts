import { bayLearned, isBayPrior } from '@prandel/core';
import { describe, expect, test } from '@jest/globals';
import {
  isBayRun,
  isMapping,
  isNumberTable,
  isPackageExtras,
  isRecordingDraft,
  isTextTable,
  type BayRun,
} from './shapes.ts';

const run: BayRun = {
  ...{ phase: 'round', setup: 'A', round: 1, extraSettle: 0 },
  ...{ lastPullEndedAt: null, lastPullId: 'A-1', lastPullRound: 'A#1' },
  override: { reason: 'cause is known', person: 'Ines R.' },
  stop: {
    at: '2026-11-23T09:10:00.000Z',
    crossed: { limit: { channel: 'coolant_c', warn: null, stop: 115, side: 'above' }, value: 118, level: 'stop' },
  },
};

describe('JSON of the database is looked at when it is read', () => {
  test('what this version writes is taken, also after it went through JSON', () => {
    expect(isBayRun(JSON.parse(JSON.stringify(run)))).toBe(true);
    expect(isBayRun({ ...run, override: null, stop: null, lastPullId: null })).toBe(true);
    expect(isRecordingDraft({ pull: { setupId: 'A', round: 1 }, channels: ['rpm'], startMs: 5 })).toBe(true);
    expect(isTextTable({ power: 'hp' })).toBe(true);
    expect(isNumberTable({ s0: 0.3 })).toBe(true);
  });

  test.each([
    ['a run in no phase', { ...run, phase: 'elsewhere' }],
    ['a run without its round', { ...run, round: undefined }],
    ['a STOP in words, as older versions kept it', { ...run, stop: { words: 'hot', at: 'now' } }],
    ['an override without a reason', { ...run, override: { person: 'Ines R.' } }],
    ['a list', [run]],
    ['nothing', null],
  ])('%s is not taken', (_, value) => {
    expect(isBayRun(value)).toBe(false);
  });

  test('drafts and tables with anything else in them are not taken', () => {
    expect(isRecordingDraft({ pull: { setupId: 'A' }, channels: ['rpm'], startMs: 5 })).toBe(false);
    expect(isRecordingDraft({ pull: { setupId: 'A', round: 1 }, channels: [1], startMs: 5 })).toBe(false);
    expect(isTextTable({ power: 7 })).toBe(false);
    expect(isNumberTable({ s0: null })).toBe(false);
    expect(isNumberTable([1])).toBe(false);
  });

  test('what a package carried, what columns are and what a bay learned are looked at too', () => {
    const extras = {
      descriptor: { x: 1 },
      setupCells: { A: { note: 'x' } },
      pullCells: {},
      weatherCells: [{ wind: '3' }],
    };
    expect(isPackageExtras(extras)).toBe(true);
    expect(isPackageExtras({ ...extras, setupCells: { A: { note: 7 } } })).toBe(false);
    expect(isPackageExtras({ ...extras, weatherCells: { wind: '3' } })).toBe(false);
    expect(isMapping([{ role: 'rpm', unit: null }])).toBe(true);
    expect(isMapping([{ role: 'rpm' }])).toBe(false);
    const learned = { jobs: 6, returnChecks: 2, learned: bayLearned([]).prior.learned };
    expect(isBayPrior(learned)).toBe(true);
    expect(isBayPrior({ ...learned, jobs: -1 })).toBe(false);
    expect(isBayPrior({ ...learned, learned: { power: { scatter: [1] } } })).toBe(false);
  });
});
