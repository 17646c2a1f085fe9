import { BadRequestException, Injectable } from '@nestjs/common';
import { namedFactor, type Bay, type Vehicle } from '@prandel/core';
import { UnreadableError, type RecordedAt } from '@prandel/formats';
import { and, between, eq, isNotNull } from 'drizzle-orm';
import { Database, type Transaction } from '../../database/database.ts';
import { bayCalibrations, jobs, weatherReadings } from '../../database/schema.ts';
import { JobStore } from '../../jobs/jobStore.ts';
import type { Caller } from '../../people/caller.ts';
import { ahead } from '../../work/ahead.ts';
import type { LaidPull } from '../../work/dayWork.ts';
import type { Task } from '../../work/progress.ts';
import { WorkPool } from '../../work/workPool.ts';
import { AHEAD, asMapping, fileRows, MAPPING_S, refuseImported, storedSamples, type FileRow } from '../importSteps.ts';
import { comesTwice, instantOf } from '../recordedTimes.ts';
import { Tables } from '../tables.ts';
import {
  CONDITIONS,
  type Condition,
  type DayLayout,
  type DayLayoutRequest,
  type DayPullDto,
  type PullTimeDto,
  type SaidState,
  type SaidValue,
  type UnlaidFile,
} from './day.dto.ts';

/** A reading of the bay's station stands for pulls this far from it. Common practice, no source. */
const STATION_MS = 20 * 60_000;
const PREVIEW_STEP_RPM = 100;

interface Reading {
  readonly atMs: number;
  readonly airC: number | null;
  readonly pressureHpa: number | null;
  readonly relativeHumidity: number | null;
}

type Laid = Omit<DayPullDto, 'twin'> & { readonly digest: string | null };

/** Staged files as the day they were: every pull with its time, weather, temperatures and the state of its numbers, each with what says so. */
@Injectable()
export class DayLayoutService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly tables: Tables,
    private readonly pool: WorkPool,
  ) {}

  /** A file of which no pull can be made does not keep the others from being shown. */
  async layOut(caller: Caller, jobId: string, request: DayLayoutRequest, task: Task): Promise<DayLayout> {
    const { shopId } = caller;
    const shapes = request.shapes.map(({ columns, answers }) => ({
      columns: columns.map(asMapping),
      rpmPerKmH: answers?.rpmPerKmH ?? null,
    }));
    const { job, rows, stored } = await this.database.inShop(shopId, async (tx) => ({
      job: (await this.store.read(tx, jobId, false)).job,
      rows: await fileRows(
        tx,
        jobId,
        request.files.map((f) => f.id),
      ),
      stored: await storedSamples(tx, jobId),
    }));
    const pulls: Laid[] = [];
    const unlaid: UnlaidFile[] = [];
    const lay = (row: FileRow, k: number) => {
      const { shape, changedAt = null } = request.files[k]!;
      const own = shapes[shape];
      if (!own) throw new BadRequestException(`"${row.name}" has shape ${shape}; there are ${shapes.length}.`);
      return this.#layFile(shopId, row, { ...own, changedAt }, job, task);
    };
    for await (const [k, row, laid] of ahead(rows, AHEAD, lay)) {
      if (laid instanceof UnreadableError)
        unlaid.push({ fileId: row.id, name: row.name, problems: [...laid.problems] });
      else laid.forEach((pull, index) => pulls.push(asDayPull(row, index, pull, request.timeZone)));
      task.tell('reading', (k + 1) / rows.length);
    }
    const withWeather = await this.#fromStation(shopId, job.bay.label, pulls);
    const twins = await this.#twins(shopId, withWeather, stored, task);
    return {
      pulls: withWeather.map(({ digest: _, ...pull }, k) => ({ ...pull, state: computed(pull), twin: twins[k]! })),
      unlaid,
    };
  }

  async #layFile(
    shopId: string,
    row: FileRow,
    {
      columns,
      rpmPerKmH,
      changedAt,
    }: { columns: ReturnType<typeof asMapping>[]; rpmPerKmH: number | null; changedAt: string | null },
    { bay, vehicle }: { bay: Bay; vehicle: Vehicle },
    task: Task,
  ): Promise<LaidPull[] | UnreadableError> {
    refuseImported(row);
    const file = { name: row.name, tablePath: await this.tables.pathOf(shopId, row.id, task) };
    try {
      const input = { file, columns, rpmPerKmH, changedAt, bay, vehicle };
      return await this.pool.run(shopId, 'layPulls', () => ({ input }), { timeoutS: MAPPING_S, signal: task.signal });
    } catch (error) {
      if (error instanceof UnreadableError) return error;
      throw error;
    }
  }

  /** Weather that no file knows, from the station of the bay at that time. */
  async #fromStation(shopId: string, bay: string, pulls: readonly Laid[]): Promise<Laid[]> {
    const times = pulls.flatMap((p) => (p.when ? Date.parse(p.when.at) : []));
    if (bay === '' || times.length === 0) return [...pulls];
    const [from, to] = [Math.min(...times) - STATION_MS, Math.max(...times) + STATION_MS];
    const readings = await this.database.inShop(shopId, (tx) => stationReadings(tx, bay, from, to));
    if (readings.length === 0) return [...pulls];
    return pulls.map((pull) => {
      const at = pull.when ? Date.parse(pull.when.at) : NaN;
      const near = readings.reduce<Reading | null>(
        (best, r) => (Math.abs(r.atMs - at) < Math.abs((best?.atMs ?? Infinity) - at) ? r : best),
        null,
      );
      if (!near || !(Math.abs(near.atMs - at) <= STATION_MS)) return pull;
      const conditions = { ...pull.conditions };
      for (const key of ['airC', 'pressureHpa', 'relativeHumidity'] as const) {
        const value = near[key];
        if (conditions[key] === null && value !== null)
          conditions[key] = { value, source: 'station', words: new Date(near.atMs).toISOString() };
      }
      return { ...pull, conditions };
    });
  }

  async #twins(
    shopId: string,
    pulls: readonly Laid[],
    stored: ReadonlyMap<string, string>,
    task: Task,
  ): Promise<DayPullDto['twin'][]> {
    const twins: DayPullDto['twin'][] = pulls.map(() => null);
    const seen = new Map<string, number>();
    pulls.forEach(({ digest }, k) => {
      if (digest === null) return;
      const pullId = stored.get(digest) ?? null;
      const place = seen.get(digest) ?? null;
      if (pullId !== null || place !== null) twins[k] = { kind: 'same-samples', pullId, place, correlation: null };
      else seen.set(digest, k);
    });
    const curves = pulls.map(({ curve, when }) => ({
      first: Math.round((curve[0]?.rpm ?? 0) / PREVIEW_STEP_RPM),
      values: curve.map((c) => c.powerW),
      // The date of a file is when it was exported, and that happens twice.
      startedMs: when && when.source !== 'file-date' ? Date.parse(when.at) : null,
    }));
    const pairs = await this.pool.run(shopId, 'secondExports', () => ({ input: { curves } }), {
      timeoutS: MAPPING_S,
      signal: task.signal,
    });
    for (const { a, b, correlation } of pairs)
      twins[b] ??= { kind: 'second-export', pullId: null, place: a, correlation };
    return twins;
  }
}

async function stationReadings(tx: Transaction, bay: string, fromMs: number, toMs: number): Promise<Reading[]> {
  const instant = (ms: number) => new Date(ms).toISOString();
  const rows = await tx
    .select({
      at: weatherReadings.at,
      airC: weatherReadings.airC,
      pressureHpa: weatherReadings.pressureHpa,
      relativeHumidity: weatherReadings.relativeHumidity,
    })
    .from(weatherReadings)
    .innerJoin(jobs, eq(jobs.id, weatherReadings.jobId))
    .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
    .where(
      and(
        eq(bayCalibrations.bayLabel, bay),
        isNotNull(bayCalibrations.bayId),
        between(weatherReadings.at, instant(fromMs), instant(toMs)),
      ),
    )
    .limit(2000);
  return rows.map(({ at, ...rest }) => ({ atMs: Date.parse(at), ...rest }));
}

function asDayPull({ id, name: file }: FileRow, index: number, pull: LaidPull, timeZone: string): Laid {
  const { stated, start, when, digest, ...rest } = pull;
  const said = (key: Condition): SaidValue | null => {
    if (start[key] !== null) return { value: start[key], source: 'channel', words: null };
    const field = stated[key];
    return field && { value: field.value, source: 'header', words: field.words };
  };
  return {
    ...{ ...rest, file, fileId: id, index, digest },
    when: when && timeOf(when, timeZone),
    conditions: Object.fromEntries(CONDITIONS.map((key) => [key, said(key)])) as Record<Condition, SaidValue | null>,
    state: stated.state && { ...stated.state, computed: null },
    gear: stated.gear?.value ?? null,
    vehicle: stated.vehicle?.value ?? null,
    round: stated.round?.value ?? null,
    averagingRpm: stated.averagingRpm?.value ?? null,
  };
}

function timeOf(when: RecordedAt, timeZone: string): PullTimeDto {
  const unsure = when.dayMonthUnsure
    ? 'day-month'
    : when.source === 'file-date'
      ? 'copied'
      : comesTwice(when, timeZone)
        ? 'comes-twice'
        : null;
  return { at: instantOf(when, timeZone), source: when.source, words: when.words, unsure };
}

/** What a file says of its correction, beside the factor that its standard gives in the weather that is known. */
function computed({ state, conditions }: Pick<Laid, 'state' | 'conditions'>): SaidState | null {
  const { airC, pressureHpa, relativeHumidity } = conditions;
  if (!state || state.kind !== 'corrected' || !airC || !pressureHpa || !relativeHumidity) return state;
  const air = { airC: airC.value, pressureHpa: pressureHpa.value, relativeHumidity: relativeHumidity.value };
  return { ...state, computed: namedFactor(state.standard, air) };
}
