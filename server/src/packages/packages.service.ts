import { Injectable } from '@nestjs/common';
import { brokenRow, readEvents, SEAL_PATH } from '@prandel/formats';
import { sealCheckWords } from '@prandel/presentation';
import { BayHistory } from '../bays/bayHistory.ts';
import { Database } from '../database/database.ts';
import { evidenceOf, restoreEvidence } from '../evidence/evidence.ts';
import { fileBytes } from '../files/fileStore.ts';
import { nameOf, type Upload } from '../files/uploads.ts';
import type { Made } from '../http/answers.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { unloggedDigests } from '../jobs/pullDigests.ts';
import type { Caller } from '../people/caller.ts';
import { fileNameOf, sealInForce } from '../seals/seals.service.ts';
import { Judging } from '../work/judging.ts';
import type { Task } from '../work/progress.ts';
import { WorkPool } from '../work/workPool.ts';

const READING_S = 120;

/** Whole jobs in and out as job packages. */
@Injectable()
export class PackagesService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly pool: WorkPool,
    private readonly judging: Judging,
    private readonly history: BayHistory,
  ) {}

  /** Stores the job of a package, with its evidence log when that holds. */
  async take(caller: Caller, file: Upload, task: Task): Promise<Made> {
    const {
      job,
      extras,
      broken: contradicted,
    } = await this.pool.run(caller.shopId, 'readPackage', () => ({ input: { path: file.path } }), {
      timeoutS: READING_S,
      signal: task.signal,
    });
    task.tell('storing', 0);
    return this.database.inShop(caller.shopId, async (tx) => {
      const events = extras.files.get('events.csv');
      const rows = events ? readEvents(events) : [];
      const broken = brokenRow(rows);
      const kept = new Map(
        [...extras.files]
          .filter(([path]) => path !== 'events.csv')
          // A seal is of the package as it came; what this shop seals is its own.
          .map(([path, bytes]) => [path === SEAL_PATH ? 'seal-imported.json' : path, bytes]),
      );
      // A broken log is kept as it came, beside the job's own.
      if (events && broken) kept.set('events-broken.csv', events);
      const bay = { ...job.bay, prior: await this.history.priorFor(tx, caller.shopId, job) };
      const id = await this.store.insert(tx, caller.shopId, { ...job, bay }, { ...extras, files: kept });
      if (!broken) await restoreEvidence(tx, caller.shopId, id, rows);
      else
        await this.store.note(
          tx,
          caller.shopId,
          id,
          caller.name,
          `The package's evidence log is broken: ${broken.why} It is kept as events-broken.csv.`,
        );
      if (contradicted.length > 0)
        await this.store.note(
          tx,
          caller.shopId,
          id,
          caller.name,
          `The package's log or seal does not hold: ${contradicted.slice(0, 5).map(sealCheckWords).join(' ')}`,
          'edit',
          { checks: contradicted },
        );
      const digests = await unloggedDigests(tx, id, job.pulls);
      await this.store.note(tx, caller.shopId, id, caller.name, `Imported the job from ${nameOf(file)}.`, 'edit', {
        digests,
      });
      task.signal.throwIfAborted();
      return { id };
    });
  }

  /** A job as a package, and the name of its file; a sealed job's is the one that was sealed. */
  async give(caller: Caller, id: string): Promise<{ name: string; content: Uint8Array }> {
    const read = () =>
      this.database.inShop(caller.shopId, async (tx) => ({
        job: (await this.store.read(tx, id, true)).job,
        extras: await this.store.extras(tx, id),
        log: await evidenceOf(tx, id),
      }));
    const { job, sealed } = await this.database.inShop(caller.shopId, async (tx) => {
      const seal = await sealInForce(tx, id);
      const stored = await this.store.read(tx, id, false);
      return { job: stored.job, sealed: seal && (await fileBytes(tx, seal.packageFileId)) };
    });
    const name = `${fileNameOf(job.id)}.zip`;
    if (sealed) return { name, content: sealed };
    return { name, content: await this.judging.writePackage(caller, read) };
  }
}
