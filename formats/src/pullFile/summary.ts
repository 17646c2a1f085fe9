import { radPerSecond, torqueAtEngineSpeed } from '@prandel/core';
import { UnreadableError, type Problem } from '../problem.ts';
import { COLUMN_ROLES } from './columnRole.ts';
import { mapPullFile, type MappedPull } from './mapping.ts';
import { pullTimes } from './pullTimes.ts';
import { readPullFile, type Arrangement, type PullFile, type Written } from './readPullFile.ts';
import type { RecordedAt } from './recordedAt.ts';
import { statedIn, type Stated } from './stated.ts';

/** What `./prandel read` prints of a file: values as they stand in it, no weather correction, no averaging. */
export interface FileSummary {
  readonly file: string;
  readonly encoding: string | null;
  readonly delimiter: string | null;
  readonly decimal: string | null;
  readonly headerLine: number | null;
  readonly written: Written | null;
  readonly arrangement: Arrangement | null;
  readonly columns: readonly {
    name: string;
    quantity: string;
    role: string;
    unit: string | null;
    confidence: number;
  }[];
  readonly pulls: readonly (PullSummary & {
    /** When the file says that it was made. */
    readonly recorded: RecordedAt | null;
    /** What else the file says of it. */
    readonly stated: Partial<Stated>;
  })[];
  readonly problems: readonly Problem[];
}

export interface PullSummary {
  readonly name: string;
  readonly rows: number;
  readonly rpmFrom: number | null;
  readonly rpmTo: number | null;
  readonly peakPowerW: number | null;
  readonly peakPowerRpm: number | null;
  readonly peakTorqueNm: number | null;
  readonly peakTorqueRpm: number | null;
}

/** Reads a file as far as it goes; problems instead of exceptions. */
export function summariseFile(name: string, bytes: Uint8Array, written: Written = 'separated'): FileSummary {
  let file: PullFile;
  try {
    file = readPullFile(bytes, { written });
  } catch (error) {
    if (!(error instanceof UnreadableError)) throw error;
    return {
      file: name,
      encoding: null,
      delimiter: null,
      decimal: null,
      headerLine: null,
      written: null,
      arrangement: null,
      columns: [],
      pulls: [],
      problems: error.problems,
    };
  }
  let mapped: MappedPull[] = [];
  let problems = file.problems;
  try {
    mapped = mapPullFile(file, file.columns);
  } catch (error) {
    if (!(error instanceof UnreadableError)) throw error;
    problems = error.problems;
  }
  const times = pullTimes(file, file.columns, name, null);
  return {
    file: name,
    encoding: file.encoding,
    delimiter: file.delimiter,
    decimal: file.decimal,
    headerLine: file.headerLine,
    written: file.written,
    arrangement: file.arrangement,
    columns: file.columns.map((c) => ({
      name: c.name,
      quantity: COLUMN_ROLES[c.role].quantity ?? c.role,
      role: c.role,
      unit: c.unit,
      confidence: c.confidence,
    })),
    pulls: mapped.map((pull, k) => ({
      ...summarisePull(pull),
      recorded: times[k] ?? null,
      stated: Object.fromEntries(Object.entries(statedOf(file, k)).filter(([, v]) => v !== null)),
    })),
    problems,
  };
}

/** What a file says of one of its pulls: the lines above that pull first, then those of the file. */
export function statedOf(file: Pick<PullFile, 'fields' | 'pulls'>, index: number): Stated {
  return statedIn([...file.pulls[index]!.fields, ...file.fields]);
}

export function summarisePull(pull: MappedPull): PullSummary {
  const values = (name: string) => pull.channels.find((c) => c.name === name)?.values;
  const rpm = values('engine_rpm');
  const power = values('wheel_power_w');
  const torque = values('wheel_torque_nm');
  const rows = pull.channels[0]?.values.length ?? 0;
  let [from, to, most, mostAt, strongest, strongestAt] = [Infinity, -Infinity, -Infinity, NaN, -Infinity, NaN];
  for (let i = 0; i < (rpm?.length ?? 0); i += 1) {
    const n = rpm![i]!;
    if (!(n > 0)) continue;
    if (n < from) from = n;
    if (n > to) to = n;
    const p = power?.[i] ?? (torque ? torque[i]! * radPerSecond(n) : NaN);
    const t = torque?.[i] ?? torqueAtEngineSpeed(p, n);
    if (p > most) [most, mostAt] = [p, n];
    if (t > strongest) [strongest, strongestAt] = [t, n];
  }
  const known = (value: number) => (Number.isFinite(value) ? value : null);
  return {
    name: pull.name,
    rows,
    rpmFrom: known(from),
    rpmTo: known(to),
    peakPowerW: known(most),
    peakPowerRpm: known(mostAt),
    peakTorqueNm: known(strongest),
    peakTorqueRpm: known(strongestAt),
  };
}
