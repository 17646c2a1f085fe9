import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { LIVE_VERSION, readLiveMessage } from './liveMessages.ts';

const samples = {
  ...{ v: LIVE_VERSION, seq: 7, kind: 'samples', pullId: 'A-1', from: 0, arrivedMs: 1 },
  names: ['rpm', 'kw'],
  rows: [
    [2000, null],
    [2010, 51.5],
  ],
};

test('a message comes as it was sent, and a missing sample stays missing', () => {
  expect(readLiveMessage(JSON.stringify(samples))).toEqual(samples);
});

test.each([
  ['of another version', { ...samples, v: LIVE_VERSION + 1 }],
  ['without a number', { ...samples, seq: 'x' }],
  ['of a kind nobody knows', { ...samples, kind: 'hello' }],
  ['with a row that is too short', { ...samples, rows: [[2000]] }],
  ['with a text among the samples', { ...samples, rows: [[2000, '51.5']] }],
  [
    'with a sheet in a state nobody knows',
    { v: LIVE_VERSION, seq: 1, kind: 'sheet', sheet: { state: 'odd', atMs: 1 } },
  ],
])('a message %s is none', (_, message) => {
  expect(readLiveMessage(JSON.stringify(message))).toBeNull();
});

test('whatever comes over the line, it is a message or nothing (property)', () => {
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
      expect(readLiveMessage(text)).toBeNull();
    }),
  );
});
