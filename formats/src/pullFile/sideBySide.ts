import { splitHeader } from './columnRole.ts';
import type { ColumnGuess, PullTable } from './readPullFile.ts';

/** Pulls that stand side by side in one table: the same columns again and again. */
export interface ColumnGroups {
  /** Columns of one pull. */
  readonly width: number;
  /** From the first column of one pull to that of the next; more than `width` where blank columns stand between them. */
  readonly stride: number;
  /** What each pull is called in the header or above it; null where nobody says. */
  readonly names: readonly (string | null)[];
  /** The columns of one pull, without the pull's name. */
  readonly columns: readonly ColumnGuess[];
}

/**
 * Finds groups of columns that repeat ("rpm, kW, rpm, kW"), with or without a number behind the name and a blank column between.
 * @returns null for the columns of one pull
 */
export function columnGroups(columns: readonly ColumnGuess[], above: readonly string[]): ColumnGroups | null {
  const bare = columns.map((c) => (/^column \d+$/.test(c.name) ? '' : plainName(c.name)));
  for (let stride = 2; stride <= Math.ceil(columns.length / 2); stride += 1) {
    const count = Math.ceil(columns.length / stride);
    const width = bare[stride - 1] === '' ? stride - 1 : stride;
    if (width < 2 || columns.length < (count - 1) * stride + width || count < 2) continue;
    if (!isPull(columns.slice(0, width))) continue;
    const own = Array.from({ length: count }, (_, k) => called(bare.slice(k * stride, k * stride + width)));
    const names = bare.map((name, i) => name.slice(own[Math.floor(i / stride)]!.length));
    const repeats = columns.every(({ unit }, i) => {
      const first = i % stride;
      return names[i] === names[first] && (names[i] === '' || unit === columns[first]!.unit);
    });
    if (!repeats) continue;
    const inHeader = new Set(own).size === count ? own : null;
    return {
      ...{ width, stride },
      names: own.map((name, k) =>
        inHeader ? columns[k * stride]!.name.slice(0, name.length).trim() : nameOf(above, k * stride, stride),
      ),
      columns: columns.slice(0, width).map((c) => ({ ...c, name: inHeader ? c.name.slice(own[0]!.length) : c.name })),
    };
  }
  return null;
}

/** What all columns of a pull begin with, `run 2 ` of `run 2 power` and `run 2 torque`; nothing where they share no words. */
function called(names: readonly string[]): string {
  const [first = '', ...rest] = names;
  let shared = first;
  for (const name of rest) while (!name.startsWith(shared)) shared = shared.slice(0, -1);
  const end = Math.max(shared.lastIndexOf(' '), shared.lastIndexOf('_'), shared.lastIndexOf('.'));
  const words = shared.slice(0, end + 1);
  return /\d|\p{L}/u.test(words) && words.length < first.length ? words : '';
}

/** The pulls of a table whose columns repeat; rows in which a pull has no value are left out of it. */
export function apart(table: PullTable, { width, stride, names }: ColumnGroups): PullTable[] {
  return names.map((name, k) => {
    const columns = table.columns.slice(k * stride, k * stride + width);
    const rows: number[] = [];
    for (let i = 0; i < table.lines.length; i += 1) if (columns.some((c) => !Number.isNaN(c[i]!))) rows.push(i);
    return {
      name: name ?? `${table.name}, ${k + 1} of ${names.length}`,
      columns: columns.map((c) => Float64Array.from(rows, (i) => c[i]!)),
      lines: Uint32Array.from(rows, (i) => table.lines[i]!),
      fields: table.fields,
    };
  });
}

/** A header without the number by which its pull is told: "RPM 2", "rpm_2", "RPM (2)", "RPM.1". */
function plainName(name: string): string {
  return splitHeader(name)
    .name.trim()
    .toLowerCase()
    .replace(/[\s_.#-]*[([]?\d{1,3}[)\]]?$/, '');
}

function isPull(group: readonly ColumnGuess[]): boolean {
  const has = (...roles: ColumnGuess['role'][]) => group.some((c) => roles.includes(c.role));
  return has('engineSpeed', 'rollerSpeed', 'roadSpeed') && has('wheelPower', 'wheelTorque', 'time');
}

function nameOf(above: readonly string[], from: number, stride: number): string | null {
  return (
    above
      .slice(from, from + stride)
      .map((cell) => cell.trim())
      .find((cell) => cell !== '') ?? null
  );
}
