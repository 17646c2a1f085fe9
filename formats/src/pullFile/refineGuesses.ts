import { median, radPerSecond, toSi, type UnitName } from '@prandel/core';
import type { ColumnGuess, PullTable } from './readPullFile.ts';

/**
 * Settles guesses by looking at the numbers: one column per role, roller speed in rpm, a nameless rpm column, and the
 * units of power and torque from P = T·ω where the header left them open.
 */
export function refineGuesses(guesses: readonly ColumnGuess[], pulls: readonly PullTable[]): ColumnGuess[] {
  let columns = guesses.map((c) =>
    c.role === 'rollerSpeed' && c.unit === 'rpm' ? { ...c, unit: 'roller rpm' } : { ...c },
  );
  columns = oneEach(columns);
  if (!columns.some((c) => c.role === 'engineSpeed')) columns = findEngineSpeed(columns, pulls);
  return settleUnits(columns, guesses, pulls);
}

/** The most confident column keeps a role that can be given once; the others are kept as they are. */
function oneEach(columns: ColumnGuess[]): ColumnGuess[] {
  return columns.map((column, i) => {
    if (column.role === 'other' || column.role === 'ignore') return column;
    const rival = columns.some(
      (other, j) =>
        j !== i &&
        other.role === column.role &&
        (other.confidence > column.confidence || (other.confidence === column.confidence && j < i)),
    );
    return rival ? { ...column, role: 'other', confidence: 0.3 } : column;
  });
}

/** A column that mostly rises from 500–5000 to under 25 000 by at least 1000 may be engine speed. */
function findEngineSpeed(columns: ColumnGuess[], pulls: readonly PullTable[]): ColumnGuess[] {
  const first = pulls[0];
  if (!first) return columns;
  const found = columns.findIndex((c, i) => {
    if (c.role !== 'other' || c.unit !== null) return false;
    const values = sampled(first.columns[i]!).filter(Number.isFinite);
    if (values.length < 5) return false;
    const rising = values.filter((v, k) => k === 0 || v >= values[k - 1]!).length / values.length;
    const low = values.reduce((a, b) => Math.min(a, b), Infinity);
    const high = values.reduce((a, b) => Math.max(a, b), -Infinity);
    return rising > 0.7 && low >= 500 && low <= 5000 && high <= 25_000 && high - low >= 1000;
  });
  return columns.map((c, i) => (i === found ? { ...c, role: 'engineSpeed', unit: 'rpm', confidence: 0.4 } : c));
}

const TELLING_ROWS = 500;

/** Evenly spaced values of a long column: enough to tell what it is. */
function sampled(values: Float64Array): Float64Array {
  const step = Math.ceil(values.length / TELLING_ROWS);
  if (step <= 1) return values;
  const some = new Float64Array(Math.floor(values.length / step));
  for (let i = 0; i < some.length; i += 1) some[i] = values[i * step]!;
  return some;
}

const POWER_UNITS: readonly UnitName[] = ['kW', 'hp', 'PS', 'W'];
const TORQUE_UNITS: readonly UnitName[] = ['N·m', 'lb·ft', 'kgf·m'];

/** Where a unit of power or torque was only assumed, takes the pair for which P = T·ω holds. */
function settleUnits(
  columns: ColumnGuess[],
  guesses: readonly ColumnGuess[],
  pulls: readonly PullTable[],
): ColumnGuess[] {
  const rpm = columns.findIndex((c) => c.role === 'engineSpeed');
  const power = columns.findIndex((c) => c.role === 'wheelPower');
  const torque = columns.findIndex((c) => c.role === 'wheelTorque');
  const table = pulls[0];
  if (rpm < 0 || power < 0 || torque < 0 || !table) return columns;
  const stated = (i: number) => guesses[i]!.confidence > 0.7 || columns[i]!.confidence > 0.7;
  const ratios: number[] = [];
  const [speeds, powers, torques] = [rpm, power, torque].map((c) => sampled(table.columns[c]!));
  speeds!.forEach((n, i) => {
    const ratio = powers![i]! / (torques![i]! * radPerSecond(n));
    if (n > 500 && ratio > 0 && Number.isFinite(ratio)) ratios.push(ratio);
  });
  if (ratios.length < 5) return columns;
  const observed = median(ratios);
  const fitting = POWER_UNITS.flatMap((p) =>
    TORQUE_UNITS.map((t) => ({ p, t, off: Math.abs((observed * toSi(1, p)) / toSi(1, t) - 1) })),
  )
    .filter(
      ({ p, t }) => (!stated(power) || p === columns[power]!.unit) && (!stated(torque) || t === columns[torque]!.unit),
    )
    .sort((a, b) => a.off - b.off);
  const best = fitting[0];
  if (!best || best.off > 0.01) return columns;
  return columns.map((c, i) => {
    if (i === power) return { ...c, unit: best.p, confidence: Math.max(c.confidence, 0.9) };
    return i === torque ? { ...c, unit: best.t, confidence: Math.max(c.confidence, 0.9) } : c;
  });
}
