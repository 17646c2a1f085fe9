import { describe, expect, test } from '@jest/globals';
import { cellOf, changedReadings, gaugesOf, pastedBlock, type Gauge } from './gaugeCells.ts';

const OIL: Gauge = { channel: 'oil_c', moment: 'peak' };
const BAR: Gauge = { channel: 'oil_bar', moment: 'end' };
const PULLS = ['A-1', 'A-2', 'A-3'];

describe('a block of a spreadsheet', () => {
  test('is laid from the cell on in which it was dropped', () => {
    const { cells, outside } = pastedBlock('104\t4,1\r\n106\t4,0\r\n', { row: 1, column: 0 }, PULLS, [OIL, BAR])!;
    expect(cells).toEqual([
      [cellOf('A-2', OIL), '104'],
      [cellOf('A-2', BAR), '4,1'],
      [cellOf('A-3', OIL), '106'],
      [cellOf('A-3', BAR), '4,0'],
    ]);
    expect(outside).toBe(0);
  });

  test('what lies beside the grid is counted, so that it is told; one value is typed like any other', () => {
    const wide = pastedBlock('104\t4,1\t9\n106\t\t\n107', { row: 2, column: 1 }, PULLS, [OIL, BAR])!;
    expect(wide.cells).toEqual([[cellOf('A-3', BAR), '104']]);
    // 4,1 and 9 to the right, 106 and 107 below; empty cells are nobody's loss.
    expect(wide.outside).toBe(4);
    expect(pastedBlock('104', { row: 0, column: 0 }, PULLS, [OIL])).toBeNull();
  });
});

test('only what was changed is sent, and an emptied cell takes its reading away', () => {
  const before = [
    { pullId: 'A-1', ...OIL, value: 104 },
    { pullId: 'A-2', ...OIL, value: 106 },
    { pullId: 'A-3', ...BAR, value: 4 },
  ];
  const cells = new Map([
    [cellOf('A-1', OIL), '104,0'],
    [cellOf('A-2', OIL), ' '],
    [cellOf('A-3', OIL), '108.5'],
  ]);
  // The pressure stands in no column of this grid: it is not touched.
  expect(changedReadings(before, cells, PULLS, [OIL])).toEqual([
    { pullId: 'A-2', ...OIL, value: null },
    { pullId: 'A-3', ...OIL, value: 108.5 },
  ]);
});

test('columns are those that somebody read, and the oil where nobody read any', () => {
  const read = (gauge: Gauge) => ({ pullId: 'A-1', ...gauge, value: 1 });
  expect(gaugesOf([read(BAR), read(OIL), read(OIL)])).toEqual([BAR, OIL]);
  expect(gaugesOf([])).toEqual([OIL]);
});
