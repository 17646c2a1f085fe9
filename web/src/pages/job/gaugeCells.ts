import type { HandMoment, HandReading } from '@prandel/core';
import type { Schemas } from '../../api/client.ts';

/** A gauge of the grid: what is read, and when. */
export interface Gauge {
  readonly channel: string;
  readonly moment: HandMoment;
}

/** What stands in the cells, as typed. */
export type Cells = ReadonlyMap<string, string>;

export const cellOf = (pullId: string, { channel, moment }: Gauge) => `${pullId}\n${channel}\n${moment}`;
export const numberIn = (text: string) => Number(text.trim().replace(',', '.'));

/** The gauges that somebody read already; the first time the oil at its hottest. */
export function gaugesOf(readings: readonly HandReading[]): Gauge[] {
  const own: Gauge[] = [];
  for (const { channel, moment } of readings)
    if (!own.some((c) => c.channel === channel && c.moment === moment)) own.push({ channel, moment });
  return own.length > 0 ? own : [{ channel: 'oil_c', moment: 'peak' }];
}

/** A block of a spreadsheet laid into the grid from a cell on. */
export interface Pasted {
  readonly cells: readonly (readonly [cell: string, text: string])[];
  /** Values of the block that lie beside the grid and are left out. */
  readonly outside: number;
}

/** @returns null where the text is one value, which goes into its cell as any other text */
export function pastedBlock(
  text: string,
  at: { readonly row: number; readonly column: number },
  pullIds: readonly string[],
  gauges: readonly Gauge[],
): Pasted | null {
  const lines = text.replace(/\r/g, '').replace(/\n+$/, '').split('\n');
  if (lines.length === 1 && !lines[0]!.includes('\t')) return null;
  let outside = 0;
  const cells = lines.flatMap((line, i) =>
    line.split('\t').flatMap((value, j) => {
      const [pull, gauge] = [pullIds[at.row + i], gauges[at.column + j]];
      if (pull !== undefined && gauge) return [[cellOf(pull, gauge), value.trim()] as const];
      if (value.trim() !== '') outside += 1;
      return [];
    }),
  );
  return { cells, outside };
}

/** Only what changed; a cell that was emptied takes its reading away. */
export function changedReadings(
  before: readonly HandReading[],
  cells: Cells,
  pullIds: readonly string[],
  gauges: readonly Gauge[],
): Schemas['GaugeDto'][] {
  const was = new Map(before.map((r) => [cellOf(r.pullId, r), r.value]));
  return pullIds.flatMap((pullId) =>
    gauges.flatMap((gauge): Schemas['GaugeDto'][] => {
      const cell = cellOf(pullId, gauge);
      const text = cells.get(cell) ?? '';
      const value = text.trim() === '' ? null : numberIn(text);
      return value === (was.get(cell) ?? null) ? [] : [{ pullId, ...gauge, value }];
    }),
  );
}
