import { BadRequestException, ConflictException, Injectable } from '@nestjs/common';
import { newPull, type Job, type Pull } from '@prandel/core';
import type { ColumnMapping, PullDigest } from '@prandel/formats';
import { inArray } from 'drizzle-orm';
import { Database, type Transaction } from '../../database/database.ts';
import { files, pulls } from '../../database/schema.ts';
import { record } from '../../evidence/evidence.ts';
import { JobStore } from '../../jobs/jobStore.ts';
import { allotPullKeys } from '../../jobs/pullKeys.ts';
import type { Caller } from '../../people/caller.ts';
import { ahead } from '../../work/ahead.ts';
import type { Task } from '../../work/progress.ts';
import type { ReadPull } from '../../work/work.ts';
import { WorkPool } from '../../work/workPool.ts';
import {
  AHEAD,
  asMapping,
  fileRows,
  lastRound,
  MAPPING_S,
  MOST_VALUES,
  refuseRepeated,
  refuseTooManyChannels,
  stateOf,
  STORED_AT_ONCE,
  type FileRow,
} from '../importSteps.ts';
import { rememberShape } from '../shapes.ts';
import { Tables } from '../tables.ts';
import type { DayImportRequest, ImportedPull, ShapeSaid } from './day.dto.ts';

interface MappedDayFile {
  readonly row: FileRow;
  readonly shape: number;
  readonly signature: string;
  readonly pulls: readonly ReadPull[];
}

/** A day of files into a job: all of it or nothing. */
@Injectable()
export class DayImportService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly tables: Tables,
    private readonly pool: WorkPool,
  ) {}

  /** Stores the pulls that are named, and remembers what was said of the files. Asked for again, it answers the same. */
  async import(caller: Caller, jobId: string, request: DayImportRequest, task: Task): Promise<{ pulls: number }> {
    const { shopId } = caller;
    const shapes = request.shapes.map(({ columns, answers, byItself }) => ({
      columns: columns.map(asMapping),
      answers,
      byItself,
    }));
    for (const { columns } of shapes) refuseTooManyChannels(columns);
    const ids = request.files.map((f) => f.id);
    const { rows, job } = await this.database.inShop(shopId, async (tx) => ({
      job: (await this.store.read(tx, jobId, false)).job,
      rows: await fileRows(tx, jobId, ids),
    }));
    refuseWrong(request, job);
    const again = await this.database.inShop(shopId, (tx) => doneBefore(tx, rows));
    if (again) return again;
    const mapped = await this.#map(shopId, rows, request, shapes, task);
    const answer = await this.database.inShop(shopId, async (tx) => {
      await this.store.lock(tx, jobId);
      // Somebody may have clicked twice: the second one waited here for the first.
      const before = await doneBefore(tx, await fileRows(tx, jobId, ids));
      if (before) return before;
      const named = new Set(request.pulls.map((p) => `${p.fileId} ${p.index}`));
      const taken = mapped.map((m) => ({ ...m, pulls: m.pulls.filter((_, k) => named.has(`${m.row.id} ${k}`)) }));
      await refuseRepeated(tx, jobId, taken);
      await this.#store(tx, caller, jobId, request, mapped, task);
      for (const [signature, shape] of new Map(mapped.map((m) => [m.signature, m.shape])))
        await rememberShape(tx, shopId, job.bay.label, { signature, ...shapes[shape]! });
      await this.store.touch(tx, jobId);
      task.signal.throwIfAborted();
      return { pulls: request.pulls.length };
    });
    await this.tables.forget(ids);
    return answer;
  }

  /** Keeps what somebody says of a kind of files, after a look at whether one of them can be read by it. @throws UnreadableError */
  async remember(
    caller: Caller,
    jobId: string,
    { fileId, columns: said, answers, byItself }: ShapeSaid,
  ): Promise<void> {
    const { shopId } = caller;
    const columns = said.map(asMapping);
    const { row, bay } = await this.database.inShop(shopId, async (tx) => ({
      row: (await fileRows(tx, jobId, [fileId]))[0]!,
      bay: (await this.store.read(tx, jobId, false)).job.bay.label,
    }));
    const file = { name: row.name, tablePath: await this.tables.pathOf(shopId, row.id) };
    const input = { file, columns, rpmPerKmH: answers?.rpmPerKmH ?? null };
    const { signature } = await this.pool.run(shopId, 'mapPulls', () => ({ input }), { timeoutS: MAPPING_S });
    await this.database.inShop(shopId, (tx) =>
      rememberShape(tx, shopId, bay, { signature, columns, answers, byItself }),
    );
  }

  async #map(
    shopId: string,
    rows: readonly FileRow[],
    request: DayImportRequest,
    shapes: readonly { columns: readonly ColumnMapping[]; answers: { rpmPerKmH: number | null } | null }[],
    task: Task,
  ): Promise<MappedDayFile[]> {
    const mapped: MappedDayFile[] = [];
    let values = 0;
    const map = async (row: FileRow, k: number) => {
      const shape = shapes[request.files[k]!.shape];
      if (!shape) throw new BadRequestException(`"${row.name}" has a shape that is not there.`);
      const file = { name: row.name, tablePath: await this.tables.pathOf(shopId, row.id, task) };
      const input = { file, columns: shape.columns, rpmPerKmH: shape.answers?.rpmPerKmH ?? null };
      return this.pool.run(shopId, 'mapPulls', () => ({ input }), { timeoutS: MAPPING_S, signal: task.signal });
    };
    for await (const [k, row, { signature, pulls: own }] of ahead(rows, AHEAD, map)) {
      for (const pull of own) values += pull.channels.reduce((sum, c) => sum + c.values.length, 0);
      if (values > MOST_VALUES)
        throw new BadRequestException(
          `These files hold more than ${MOST_VALUES / 1e6} million values together. Import fewer of them at a time.`,
        );
      mapped.push({ row, shape: request.files[k]!.shape, signature, pulls: own });
      task.tell('reading', (k + 1) / rows.length);
    }
    return mapped;
  }

  async #store(
    tx: Transaction,
    caller: Caller,
    jobId: string,
    request: DayImportRequest,
    mapped: readonly MappedDayFile[],
    task: Task,
  ): Promise<void> {
    const ofFile = new Map(mapped.map((m) => [m.row.id, m]));
    const rounds = new Map<number, ImportedPull[]>();
    for (const pull of request.pulls) rounds.set(pull.round, [...(rounds.get(pull.round) ?? []), pull]);
    const next = new Map<string, number>();
    const list: Pull[] = [];
    const fileIds = new Map<string, string>();
    const digests = new Map<string, Pick<ReadPull, 'telling' | 'samples'>>();
    const told: { setup: string; round: number; pulls: string[] }[] = [];
    const keys = new Map<string, string[]>();
    for (const { setupId } of request.pulls)
      if (!keys.has(setupId)) {
        const count = request.pulls.filter((p) => p.setupId === setupId).length;
        keys.set(setupId, await allotPullKeys(tx, jobId, setupId, count));
      }
    for (const [, members] of [...rounds].sort((a, b) => a[0] - b[0])) {
      const setup = members[0]!.setupId;
      const round = (next.get(setup) ?? (await lastRound(tx, jobId, setup))) + 1;
      next.set(setup, round);
      const made = members.map((asked, k) => {
        const key = keys.get(setup)!.shift()!;
        const file = ofFile.get(asked.fileId)!;
        const pull = file.pulls[asked.index];
        if (!pull)
          throw new BadRequestException(
            `"${file.row.name}" holds ${file.pulls.length} pulls; pull ${asked.index + 1} was asked for.`,
          );
        fileIds.set(key, file.row.id);
        digests.set(key, pull);
        return asPull(pull, key, asked, round, k + 1);
      });
      list.push(...made);
      told.push({ setup, round, pulls: made.map((p) => p.id) });
    }
    const logged: Record<string, PullDigest> = {};
    // In portions, so that a large import tells how far it is and can be cancelled.
    for (let at = 0; at < list.length; at += STORED_AT_ONCE) {
      const portion = list.slice(at, at + STORED_AT_ONCE);
      const stored = await this.store.addPulls(tx, caller.shopId, jobId, portion, {
        fileOf: (pull) => fileIds.get(pull.id)!,
        digestOf: (pull) => digests.get(pull.id)!.telling,
        samplesOf: (pull) => digests.get(pull.id)!.samples,
      });
      Object.assign(logged, stored);
      task.signal.throwIfAborted();
      task.tell('storing', (at + portion.length) / list.length);
    }
    const ids = mapped.map(({ row }) => row.id);
    await tx.update(files).set({ kind: 'pull-file' }).where(inArray(files.id, ids));
    const sources = [...new Set(request.pulls.map((p) => p.timeFrom))];
    const what = `Imported a day: ${list.length} ${list.length === 1 ? 'pull' : 'pulls'} in rounds ${told.map((r) => r.setup).join(', ')} from ${mapped.length} ${mapped.length === 1 ? 'file' : 'files'}.`;
    const detail = {
      rounds: told,
      timesFrom: sources,
      digests: logged,
      files: mapped.map(({ row, pulls: own }) => ({ name: row.name, sha256: row.sha256, pulls: own.length })),
      leftOut: mapped.flatMap(({ row, pulls: own }) =>
        own.flatMap((pull, index) =>
          request.pulls.some((p) => p.fileId === row.id && p.index === index) ? [] : [`${row.name}: ${pull.name}`],
        ),
      ),
    };
    await record(tx, caller.shopId, jobId, { person: caller.name, kind: 'edit', what, detail });
  }
}

/** What no day can be, before anything is read. */
function refuseWrong(request: DayImportRequest, job: Job): void {
  const files = new Set(request.files.map((f) => f.id));
  const seen = new Set<string>();
  const setups = new Map<number, string>();
  const times = new Map<string, string>();
  for (const pull of request.pulls) {
    const { fileId, index, round, setupId, startedAt } = pull;
    if (!files.has(fileId)) throw new BadRequestException('A pull names a file that is not part of this import.');
    if (seen.has(`${fileId} ${index}`)) throw new BadRequestException('A pull is named twice in this import.');
    seen.add(`${fileId} ${index}`);
    if (!job.setups.some((s) => s.id === setupId)) throw new BadRequestException(`The job has no setup "${setupId}".`);
    if ((setups.get(round) ?? setupId) !== setupId)
      throw new BadRequestException(`Round ${round} of the day has pulls of ${setups.get(round)} and of ${setupId}.`);
    setups.set(round, setupId);
    if (pull.status === 'set-aside' && !pull.reason)
      throw new BadRequestException(`A pull of round ${round} is set aside without a reason.`);
    if (startedAt === null) continue;
    const instant = new Date(startedAt).toISOString();
    if (times.has(instant))
      throw new BadRequestException(
        `Two pulls of round ${round} were made at ${instant}. Type the time of one of them.`,
      );
    times.set(instant, fileId);
  }
}

/** The answer of an import that was carried out before; null when it was not. @throws ConflictException when it was another one */
async function doneBefore(tx: Transaction, rows: readonly FileRow[]): Promise<{ pulls: number } | null> {
  const done = rows.filter((row) => row.kind !== 'staged');
  if (done.length === 0) return null;
  if (done.length < rows.length) throw new ConflictException(`"${done[0]!.name}" was already imported.`);
  const stored = await tx
    .select({ fileId: pulls.fileId })
    .from(pulls)
    .where(
      inArray(
        pulls.fileId,
        rows.map((row) => row.id),
      ),
    );
  return { pulls: stored.length };
}

function asPull(mapped: ReadPull, id: string, asked: ImportedPull, round: number, position: number): Pull {
  const { kind } = mapped;
  const { status, gear, averagingRpm, conditions, startedAt } = asked;
  return {
    ...newPull(id, asked.setupId, position),
    ...(kind === 'sweep' ? {} : { kind }),
    ...{ round, status, gear, averagingRpm, ...conditions },
    reason: status === 'set-aside' ? asked.reason : null,
    startedAt: startedAt && new Date(startedAt).toISOString(),
    channels: mapped.channels,
    numberState: stateOf(asked.numberState),
  };
}
