import { readFile, rm, writeFile } from 'node:fs/promises';
import { ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { numberStateUnder, type Job } from '@prandel/core';
import type { TrayReason } from '@prandel/presentation';
import { UnreadableError, type ColumnMapping, type MappedPull } from '@prandel/formats';
import { and, asc, count, eq } from 'drizzle-orm';
import { v7 } from 'uuid';
import { Database } from '../../database/database.ts';
import { files, mappings, trayFiles } from '../../database/schema.ts';
import type { ShapeAnswers } from '../../database/shapes.ts';
import { scratchPath } from '../../files/scratch.ts';
import { nameOf, type Upload } from '../../files/uploads.ts';
import { asMapping, MAPPING_S } from '../../imports/importSteps.ts';
import { instantOf } from '../../imports/recordedTimes.ts';
import { Tables } from '../../imports/tables.ts';
import { LiveBays } from '../../live/liveBays.ts';
import type { LiveBay } from '../../live/liveBay.ts';
import type { WholeTaken } from '../../live/wholePull.ts';
import type { Caller } from '../../people/caller.ts';
import type { LaidPull } from '../../work/dayWork.ts';
import { WorkPool } from '../../work/workPool.ts';
import type { BayFiles, LastFile, TakenFile, TrayFile } from './bayFiles.dto.ts';

/** Longer files are no single pulls; they are imported as a day. */
export const LARGEST_WATCHED_BYTES = 50 * 1024 * 1024;

/** A tray that nobody looks at does not fill the disk; the next files wait in their folder. */
const MOST_IN_TRAY = 200;

interface Known {
  readonly columns: readonly ColumnMapping[];
  readonly answers: ShapeAnswers;
}

interface Given {
  readonly name: string;
  readonly path: string;
  readonly size: number;
  readonly sha256: string;
  readonly changedAt: string | null;
}

/** Files that a watched folder brings: each becomes the next pull of the open round, or waits in the bay's tray with its reason. */
@Injectable()
export class BayFilesService {
  /** What the watcher of a bay said last; it says it again with every file. */
  readonly #heard = new Map<string, { folder: string | null; atMs: number; last: LastFile | null }>();

  constructor(
    private readonly database: Database,
    private readonly live: LiveBays,
    private readonly tables: Tables,
    private readonly pool: WorkPool,
  ) {}

  async list(caller: Caller, bayId: string): Promise<BayFiles> {
    const bay = this.live.of(caller.shopId, bayId);
    const heard = this.#heard.get(bay.row.id);
    const tray = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .select({
          ...{ id: trayFiles.id, name: trayFiles.name, size: trayFiles.size, code: trayFiles.code },
          ...{ message: trayFiles.message, changedAt: trayFiles.changedAt, addedAt: trayFiles.addedAt },
        })
        .from(trayFiles)
        .where(eq(trayFiles.bayId, bayId))
        .orderBy(asc(trayFiles.addedAt)),
    );
    return {
      folder: heard?.folder ?? null,
      heardAt: heard ? new Date(heard.atMs).toISOString() : null,
      last: heard?.last ?? null,
      tray: tray.map(({ changedAt, addedAt, ...row }): TrayFile => ({
        ...row,
        changedAt: changedAt?.toISOString() ?? null,
        addedAt: addedAt.toISOString(),
      })),
    };
  }

  /** The watcher is there and watches this folder. */
  hear(caller: Caller, bayId: string, folder: string | null): void {
    const bay = this.live.of(caller.shopId, bayId);
    const before = this.#heard.get(bay.row.id);
    this.#heard.set(bay.row.id, {
      folder: folder ?? before?.folder ?? null,
      atMs: Date.now(),
      last: before?.last ?? null,
    });
  }

  /** Takes a file in. It is stored, one way or the other, before this answers. */
  async take(
    caller: Caller,
    bayId: string,
    upload: Upload,
    folder: string | null,
    changedAt: string | null,
  ): Promise<TakenFile> {
    const bay = this.live.of(caller.shopId, bayId);
    this.hear(caller, bayId, folder);
    const given = { name: nameOf(upload), path: upload.path, size: upload.size, sha256: upload.sha256, changedAt };
    const taken = (await this.#known(caller, bay, given.sha256)) ?? (await this.#takeOrKeep(caller, bay, given));
    const heard = this.#heard.get(bay.row.id)!;
    const last = { name: given.name, at: new Date().toISOString(), taken };
    this.#heard.set(bay.row.id, { ...heard, last });
    return taken;
  }

  /** Tries a file of the tray again; it leaves the tray when it became a pull. */
  async retry(caller: Caller, bayId: string, id: string): Promise<TakenFile> {
    const bay = this.live.of(caller.shopId, bayId);
    const { name, content, sha256, changedAt } = await this.#trayFile(caller, bayId, id);
    const path = scratchPath(`${v7()}.tray`);
    await writeFile(path, content, { mode: 0o600 });
    try {
      const given = { name, path, size: content.length, sha256, changedAt: changedAt?.toISOString() ?? null };
      const became = await this.#becomes(caller, bay, given);
      await this.database.inShop(caller.shopId, (tx) =>
        became.outcome === 'tray'
          ? tx.update(trayFiles).set({ code: became.code!, message: became.message }).where(eq(trayFiles.id, id))
          : tx.delete(trayFiles).where(eq(trayFiles.id, id)),
      );
      return became;
    } finally {
      await rm(path, { force: true });
    }
  }

  async file(caller: Caller, bayId: string, id: string): Promise<{ name: string; content: Buffer }> {
    return this.#trayFile(caller, bayId, id);
  }

  async discard(caller: Caller, bayId: string, id: string): Promise<void> {
    await this.#trayFile(caller, bayId, id);
    await this.database.inShop(caller.shopId, (tx) => tx.delete(trayFiles).where(eq(trayFiles.id, id)));
  }

  async #trayFile(caller: Caller, bayId: string, id: string) {
    const [row] = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .select()
        .from(trayFiles)
        .where(and(eq(trayFiles.id, id), eq(trayFiles.bayId, bayId))),
    );
    if (!row) throw new NotFoundException('There is no such file in the tray; somebody may have dealt with it.');
    return row;
  }

  /** A file that came before, in whichever job: its pulls are known, or it waits already. */
  async #known({ shopId }: Caller, bay: LiveBay, sha256: string): Promise<TakenFile | null> {
    return this.database.inShop(shopId, async (tx) => {
      // What became pulls only in part waits, and is tried again from there.
      const [waits] = await tx
        .select({ code: trayFiles.code, message: trayFiles.message })
        .from(trayFiles)
        .where(and(eq(trayFiles.bayId, bay.row.id), eq(trayFiles.sha256, sha256)));
      if (waits) return { outcome: 'tray', pulls: [], ...waits };
      const [known] = await tx
        .select({ id: files.id })
        .from(files)
        .where(and(eq(files.sha256, sha256), eq(files.kind, 'pull-file')))
        .limit(1);
      return known ? { outcome: 'known', pulls: [], code: null, message: null } : null;
    });
  }

  async #takeOrKeep(caller: Caller, bay: LiveBay, given: Given): Promise<TakenFile> {
    const became = await this.#becomes(caller, bay, given);
    if (became.outcome !== 'tray') return became;
    const content = await readFile(given.path);
    await this.database.inShop(caller.shopId, async (tx) => {
      const [held] = await tx.select({ files: count() }).from(trayFiles).where(eq(trayFiles.bayId, bay.row.id));
      if ((held?.files ?? 0) >= MOST_IN_TRAY)
        throw new ConflictException(
          `The tray of ${bay.row.label} holds ${MOST_IN_TRAY} files. Look at them on the page of bays first.`,
        );
      await tx
        .insert(trayFiles)
        .values({
          ...{ shopId: caller.shopId, bayId: bay.row.id, name: given.name, sha256: given.sha256, content },
          ...{ size: content.length, code: became.code!, message: became.message },
          changedAt: given.changedAt === null ? null : new Date(given.changedAt),
        })
        .onConflictDoNothing();
    });
    return became;
  }

  /** Makes pulls of a file, or says why it waits. */
  async #becomes({ shopId }: Caller, bay: LiveBay, given: Given): Promise<TakenFile> {
    const tableId = v7();
    try {
      const read = await this.tables.read(shopId, tableId, given.path, null);
      const known = await this.#shape(shopId, bay.row.label, read.signature);
      if (!known || known.columns.length !== read.columns.length) return waiting('shape-unknown');
      const pulls = await this.#pulls(shopId, bay, given, await this.tables.pathOf(shopId, tableId), known);
      const states = pulls.map(({ laid, air }) => numberStateUnder(known.answers, laid.stated.state, air));
      if (states.includes(null)) return waiting('numbers-unknown');
      const keys: string[] = [];
      let fresh = 0;
      for (const [k, pull] of pulls.entries()) {
        const taken: WholeTaken = await bay.takeWhole({
          file: { name: given.name, upload: given },
          ...{ channels: pull.mapped.channels, startMs: pull.startMs, conditions: pull.conditions },
          numberState: states[k]!,
          gear: pull.laid.stated.gear?.value ?? null,
          averagingRpm: known.answers.averagingRpm ?? pull.laid.stated.averagingRpm?.value ?? null,
        });
        if ('refused' in taken) return waiting(taken.refused);
        if ('pull' in taken) fresh += 1;
        keys.push('pull' in taken ? taken.pull : taken.known);
      }
      return { outcome: fresh > 0 ? 'pull' : 'known', pulls: keys, code: null, message: null };
    } catch (error) {
      if (!(error instanceof UnreadableError)) throw error;
      const [first] = error.problems;
      const where = first?.line ? `Line ${first.line}: ` : '';
      return { outcome: 'tray', pulls: [], code: 'unreadable', message: `${where}${first?.message ?? error.message}` };
    } finally {
      await this.tables.forget([tableId]);
    }
  }

  async #shape(shopId: string, bay: string, signature: string): Promise<Known | null> {
    const [row] = await this.database.inShop(shopId, (tx) =>
      tx
        .select()
        .from(mappings)
        .where(and(eq(mappings.bay, bay), eq(mappings.signature, signature), eq(mappings.byItself, true))),
    );
    return row?.answers ? { columns: row.columns.map(asMapping), answers: row.answers } : null;
  }

  async #pulls(shopId: string, bay: LiveBay, given: Given, tablePath: string, { columns, answers }: Known) {
    const file = { name: given.name, tablePath };
    const job: Job | null = bay.job;
    const limit = { timeoutS: MAPPING_S };
    const { rpmPerKmH } = answers;
    const facts = { bay: bay.row.rollers, vehicle: job?.vehicle ?? UNKNOWN_CAR };
    const input = { file, columns, rpmPerKmH, changedAt: given.changedAt, ...facts };
    const laid = await this.pool.run(shopId, 'layPulls', () => ({ input }), limit);
    const { pulls } = await this.pool.run(shopId, 'mapPulls', () => ({ input: { file, columns, rpmPerKmH } }), limit);
    return pulls.map((mapped, k) => ofPull(laid[k]!, mapped, bay, job?.timeZone ?? 'UTC', Date.now()));
  }
}

const UNKNOWN_CAR: Job['vehicle'] = {
  ...{ label: '', drivenWheels: null, aspiration: null, transmission: null, massKg: null, engineToRollerRatio: null },
};

const waiting = (code: TrayReason): TakenFile => ({ outcome: 'tray', pulls: [], code, message: null });

/** A pull with its start and what it started under: what its file says, else what the bay's instruments say. */
function ofPull(laid: LaidPull, mapped: MappedPull, bay: LiveBay, timeZone: string, nowMs: number) {
  const { start, stated, when, durationS } = laid;
  const now = bay.conditions;
  const of = (key: keyof typeof start) => start[key] ?? stated[key]?.value ?? now[key];
  const conditions = {
    ...{ pressureHpa: of('pressureHpa'), airC: of('airC'), relativeHumidity: of('relativeHumidity') },
    ...{ intakeStartC: of('intakeStartC'), coolantStartC: of('coolantStartC'), oilStartC: of('oilStartC') },
  };
  const { airC, pressureHpa, relativeHumidity } = conditions;
  const air =
    airC === null || pressureHpa === null || relativeHumidity === null ? null : { airC, pressureHpa, relativeHumidity };
  // A file is written when its pull is over.
  const written = when?.source === 'file-date' ? (durationS ?? 0) * 1000 : 0;
  const startMs = when ? Date.parse(instantOf(when, timeZone)) - written : nowMs - (durationS ?? 0) * 1000;
  return { laid, mapped, conditions, air, startMs };
}
