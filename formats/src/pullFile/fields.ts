/** A line of a file that says one thing: `Air temperature: 24.5 °C`, `Pressure;1002 hPa`, `"Gear","4"`. */
export interface Field {
  readonly key: string;
  readonly value: string;
}

const MOST_FIELDS = 80;
const LONGEST = 200;

/** What the cells of lines above, between or below the numbers say; a line that says nothing is left out. */
export function fieldsOf(rows: readonly (readonly string[])[]): Field[] {
  return rows.flatMap((row) => fieldsOfRow(row)).slice(0, MOST_FIELDS);
}

function fieldsOfRow(row: readonly string[]): Field[] {
  const cells = row.map((cell) => cell.trim().replace(/^(?:#|\/\/|%|;|\*)+\s*/, '')).filter((cell) => cell !== '');
  if (cells.length === 0) return [];
  const pairs = cells.map(pairOf);
  // `Air: 24 °C; Pressure: 1002 hPa`, or one pair alone.
  if (pairs.every((pair) => pair !== null)) return pairs.filter(told);
  const [first, ...rest] = cells as [string, ...string[]];
  const value = pairs[0] ? [pairs[0].value, ...rest] : rest;
  const key = pairs[0]?.key ?? first.replace(/\s*[:=]$/, '');
  // A key and its value, perhaps with the unit in a cell of its own; more cells are a table.
  return value.length === 0 || value.length > 2
    ? []
    : [{ key: key.trim(), value: value.join(' ').trim() }].filter(told);
}

/** Text on both sides of a colon or an equals sign; the colon of a time of day is none. */
function pairOf(cell: string): Field | null {
  const at = /^([^:=]*[^:=\d\s][^:=]*?)\s*[:=]\s*(.+)$/s.exec(cell);
  return at && { key: at[1]!.trim(), value: at[2]!.trim() };
}

const told = ({ key, value }: Field) => /\p{L}/u.test(key) && value !== '' && key.length + value.length < LONGEST;
