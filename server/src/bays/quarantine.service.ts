import { ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { formatRecords } from '@prandel/formats';
import { and, eq, isNotNull } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { lastingFault } from '../database/faults.ts';
import { recordings } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBays } from '../live/liveBays.ts';
import { quarantined } from '../live/quarantine.ts';
import { closeRecording, recordedChannels, type StoredRecording } from '../live/recorder.ts';
import type { Caller } from '../people/caller.ts';
import type { QuarantinedRecording } from './bays.dto.ts';

/** What a person does with recordings that could not become pulls. */
@Injectable()
export class QuarantineService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly live: LiveBays,
  ) {}

  async list(caller: Caller, bayId: string): Promise<QuarantinedRecording[]> {
    if (!this.live.all(caller.shopId).some((bay) => bay.row.id === bayId))
      throw new NotFoundException('This shop has no such bay.');
    const rows = await this.database.inShop(caller.shopId, (tx) => quarantined(tx, bayId));
    return rows.map(({ job, ...row }) => ({ ...row, jobId: job?.id ?? null, jobTitle: job?.title ?? null }));
  }

  /** @throws ConflictException when it still cannot become a pull, with the reason */
  async retry(caller: Caller, bayId: string, id: string): Promise<{ pull: string }> {
    const { jobId, draft } = await this.#find(caller, bayId, id);
    if (jobId === null)
      throw new ConflictException(
        'This recording belongs to no job any more. Download its samples and import them where they belong.',
      );
    try {
      const pull = await this.database.inShop(caller.shopId, async (tx) => {
        const cut = 'Its recording was quarantined; a person took it back.';
        const key = await closeRecording(tx, this.store, caller.shopId, jobId, { id, draft, cut });
        if (key === null) throw new NotFoundException('This recording is a pull already.');
        return key;
      });
      await this.live.of(caller.shopId, bayId).countQuarantined();
      return { pull };
    } catch (error) {
      if (error instanceof NotFoundException || !lastingFault(error)) throw error;
      const why = error instanceof Error && error.cause instanceof Error ? error.cause : (error as Error);
      throw new ConflictException(`It still cannot become a pull: ${why.message.split('\n')[0]}`);
    }
  }

  async samples(caller: Caller, bayId: string, id: string): Promise<string> {
    const { draft } = await this.#find(caller, bayId, id);
    const channels = await this.database.inShop(caller.shopId, (tx) => recordedChannels(tx, id, draft.channels));
    const rows = Array.from({ length: channels[0]?.values.length ?? 0 }, (_, i) =>
      Object.fromEntries(channels.map((c) => [c.name, c.values[i]])),
    );
    return formatRecords(draft.channels, rows);
  }

  async discard(caller: Caller, bayId: string, id: string): Promise<void> {
    const { jobId } = await this.#find(caller, bayId, id);
    await this.database.inShop(caller.shopId, async (tx) => {
      await tx.delete(recordings).where(eq(recordings.id, id));
      if (jobId !== null)
        await record(tx, caller.shopId, jobId, {
          person: caller.name,
          kind: 'edit',
          what: 'Gave up a recording that could not become a pull, with its samples.',
          detail: { recording: id },
        });
    });
    await this.live.of(caller.shopId, bayId).countQuarantined();
  }

  async #find(caller: Caller, bayId: string, id: string): Promise<StoredRecording> {
    const [row] = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .select({ id: recordings.id, jobId: recordings.jobId, draft: recordings.draft })
        .from(recordings)
        .where(and(eq(recordings.id, id), eq(recordings.bayId, bayId), isNotNull(recordings.quarantinedAt))),
    );
    if (!row) throw new NotFoundException('This bay has no such recording.');
    return row;
  }
}
