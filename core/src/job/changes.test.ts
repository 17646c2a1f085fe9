import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  CHANGE_KINDS,
  changeOf,
  changesAgainst,
  changesColumn,
  changesIn,
  declared,
  setupLine,
  statesDeclared,
  statesNamed,
  wordsOf,
} from './changes.ts';
import { newSetup } from './defaults.ts';

describe('changes of a setup', () => {
  test('a column of one line leaves as it came (property)', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const column = text.replace(/[\r\n]/g, ' ');
        expect(changesColumn(changesIn(column))).toBe(column);
      }),
    );
  });

  test('what somebody chose and typed is read back as that kind, that part and those words (property)', () => {
    const words = fc.string({ minLength: 1 }).filter((s) => /^[a-z0-9]/i.test(s.trim()) && !/[;:\r\n]/.test(s));
    fc.assert(
      fc.property(fc.constantFrom(...CHANGE_KINDS), words, (kind, typed) => {
        // Words after "something else" that begin like another kind are that kind.
        fc.pre(kind !== 'other' || changesIn(typed)[0]!.kind === 'other');
        const change = changeOf(kind, typed);
        expect(changesIn(changesColumn([change]))).toEqual([change]);
        expect(wordsOf(change)).toBe(typed.trim());
      }),
    );
  });

  test('semicolons and line ends that somebody types separate no items; in a column they do', () => {
    expect(changesIn(changeOf('tune', 'rev 4; idle up\nleaner').text)).toHaveLength(1);
    expect(changesIn('tune: rev 4\r\npart removed: baffle;').map((c) => [c.kind, c.part])).toEqual([
      ['tune', null],
      ['part-removed', 'baffle'],
      ['other', null],
    ]);
  });

  test('the words of an item name states; a fitted fan does not name the fan of the bay, gear oil no gear', () => {
    const named = (column: string) => statesNamed(changesIn(column));
    expect(named('98 octane for 95; bonnet open')).toEqual(['fuel', 'hood']);
    expect(named('part fitted: electric fan; gear oil changed')).toEqual([]);
    expect(named('remapped; map 3; 4th gear')).toEqual(['tuneDigest', 'gear']);
    expect(statesNamed([{ kind: 'fuel', part: null, text: '98' }])).toEqual(['fuel']);
    expect(statesNamed([{ kind: 'part-removed', part: null, text: 'fan' }])).toEqual([]);
  });

  test('changes and declared states add up along the parents, down to the baseline; a circle ends', () => {
    const setups = [
      { ...newSetup('A', ''), ...declared('hood open') },
      { ...newSetup('B', '', 'A'), ...declared('part fitted: fan; fuel: 98') },
      { ...newSetup('C', '', 'B'), ...declared('tune: rev 4; ') },
    ];
    expect(changesAgainst(setups, 'C', 'A').map((c) => c.kind)).toEqual(['part-fitted', 'fuel', 'tune']);
    expect(statesDeclared(setups, 'C', 'A')).toEqual(['fuel', 'tuneDigest']);
    expect(statesDeclared(setups, 'A', 'A')).toEqual([]);
    const circle = [newSetup('X', '', 'Y'), newSetup('Y', '', 'X')];
    expect(setupLine(circle, 'X', 'A').map((s) => s.id)).toEqual(['Y', 'X']);
  });
});
