import { expect, test } from '@jest/globals';
import { takenWords, trayWords } from './trayWords.ts';

test.each([
  [{ outcome: 'pull', pulls: ['A-3', 'A-4'], code: null, message: null } as const, 'taken as A·3, A·4'],
  [{ outcome: 'known', pulls: ['B-1'], code: null, message: null } as const, 'known already as B·1'],
  [{ outcome: 'known', pulls: [], code: null, message: null } as const, 'known already'],
  [
    { outcome: 'tray', pulls: [], code: 'no-round', message: null } as const,
    'in the tray. No round is open in this bay. Begin one, and bring the file in.',
  ],
  [
    { outcome: 'tray', pulls: [], code: 'unreadable', message: 'Line 4: a word.' } as const,
    'in the tray. Line 4: a word.',
  ],
])('%j', (taken, words) => {
  expect(takenWords(taken)).toBe(words);
});

test('what the reader says stands only beside a file that it cannot read', () => {
  expect(trayWords('no-job', 'Line 4: a word.')).toMatch(/^No car is in this bay/);
  expect(trayWords('unreadable', null)).toBe('It cannot be read.');
});
