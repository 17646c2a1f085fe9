import { BadRequestException, ConflictException, Injectable } from '@nestjs/common';
import {
  suspectLabel,
  suspectsFor,
  USUAL_DAY,
  type Complaint,
  type FaultSearch,
  type Job,
  type JobDay,
  type SuspectRecord,
} from '@prandel/core';
import { COMPLAINT_NAMES } from '@prandel/presentation';
import { and, eq, isNull, sql } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { faultSearches, jobDays, jobs, modelCardVersions, searchLooks, vehicles } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { modelOfJob, ofModel, type ModelOfJob } from '../models/ofModel.ts';
import type { Caller } from '../people/caller.ts';
import type { SearchesAnswer } from '../http/coreAnswers.ts';
import type { NewLook, NewSearch } from './faults.dto.ts';

/** Searches for what is wrong with a car, and what they teach the next one. */
@Injectable()
export class FaultsService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
  ) {}

  /** The searches of a job, with what earlier ones of each complaint say of its suspects. */
  list(caller: Caller, id: string): Promise<SearchesAnswer> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const { job } = await this.store.read(tx, id, false);
      const searches = job.day?.searches ?? [];
      const complaints = [...new Set(searches.map((s) => s.complaint))];
      const model = await modelOfJob(tx, id);
      const seen: Partial<Record<Complaint, SuspectRecord[]>> = {};
      for (const complaint of complaints) seen[complaint] = await suspectRecords(tx, id, complaint, model);
      return searches.map((search) => ({ search, seen: seen[search.complaint] ?? [] }));
    });
  }

  /** @throws ConflictException while another search of the job goes on */
  open(caller: Caller, id: string, { complaint, words, budgetMinutes }: NewSearch): Promise<void> {
    return this.#change(caller, id, (searches) => {
      if (searches.some((s) => s.closedAt === null))
        throw new ConflictException('A search of this job goes on. Close it first.');
      if (complaint === 'other' && words.trim() === '') throw new BadRequestException('Say in words what is wrong.');
      const search: FaultSearch = {
        ...{ complaint, words: words.trim(), budgetMinutes, looks: [], closedAt: null },
        ...{ openedAt: new Date().toISOString(), openedBy: caller.name },
      };
      const about = complaint === 'other' ? words.trim() : COMPLAINT_NAMES[complaint];
      return { searches: [...searches, search], what: `Opened a search: ${about}; ${budgetMinutes} min.` };
    });
  }

  /** Writes down what a look at one suspect came to; a later look at the same one takes its place. */
  look(caller: Caller, id: string, { suspect, result, minutes, pull }: NewLook): Promise<void> {
    return this.#change(caller, id, (searches, job) => {
      const search = searches.findLast((s) => s.closedAt === null);
      if (!search) throw new ConflictException('No search of this job goes on. Open one first.');
      const known = suspectsFor(job.vehicle, search.complaint).find((s) => s.key === suspect);
      if (!known) throw new BadRequestException('This car has no such suspect.');
      if (pull !== null && !job.pulls.some((p) => p.id === pull))
        throw new BadRequestException(`This job has no pull ${pull}.`);
      const at = new Date().toISOString();
      const look = { suspect, result, minutes, pull, who: caller.name, at };
      const next = {
        ...search,
        looks: [...search.looks.filter((l) => l.suspect !== suspect), look],
        // What is cured needs no more looks.
        closedAt: result === 'cured' ? at : null,
      };
      const by = pull === null ? '' : `, by pull ${pull}`;
      const came = { fine: 'fine', found: 'that is it', cured: 'that was it, and it is cured' }[result];
      return {
        searches: searches.map((s) => (s === search ? next : s)),
        what: `Looked at ${known.label}${by}: ${came}.`,
        detail: look,
      };
    });
  }

  /** Gives a search up; what was looked at stays. */
  close(caller: Caller, id: string): Promise<void> {
    return this.#change(caller, id, (searches) => {
      const search = searches.findLast((s) => s.closedAt === null);
      if (!search) throw new ConflictException('No search of this job goes on.');
      const looked = search.looks.map((l) => suspectLabel(l.suspect)).join('; ');
      return {
        searches: searches.map((s) => (s === search ? { ...s, closedAt: new Date().toISOString() } : s)),
        what: `Closed the search. Looked at: ${looked || 'nothing'}.`,
      };
    });
  }

  async #change(
    caller: Caller,
    id: string,
    change: (
      searches: readonly FaultSearch[],
      job: Job,
    ) => { searches: readonly FaultSearch[]; what: string; detail?: Readonly<Record<string, unknown>> },
  ): Promise<void> {
    await this.database.inShop(caller.shopId, async (tx) => {
      await this.store.lock(tx, id);
      const { job } = await this.store.read(tx, id, false);
      const { searches, what, detail } = change(job.day?.searches ?? [], job);
      await this.store.changeDay(tx, id, (day): JobDay => ({ ...USUAL_DAY, ...day, searches }));
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'search', what, ...(detail ? { detail } : {}) });
    });
  }
}

/** What searches of this complaint in other jobs found, by suspect: on cars of the model, and on all others. */
export async function suspectRecords(
  tx: Transaction,
  exceptJob: string,
  complaint: Complaint,
  model: ModelOfJob,
): Promise<SuspectRecord[]> {
  const rows = await tx
    .select({
      suspect: searchLooks.suspect,
      own: sql<boolean>`coalesce(${ofModel(model)}, false)`,
      looks: sql<number>`count(*)::int`,
      cures: sql<number>`(count(*) FILTER (WHERE ${searchLooks.result} <> 'fine'))::int`,
    })
    .from(faultSearches)
    .innerJoin(
      searchLooks,
      and(eq(searchLooks.jobId, faultSearches.jobId), eq(searchLooks.search, faultSearches.place)),
    )
    .innerJoin(jobs, eq(jobs.id, faultSearches.jobId))
    .innerJoin(jobDays, eq(jobDays.jobId, faultSearches.jobId))
    .innerJoin(modelCardVersions, eq(modelCardVersions.id, jobDays.cardVersionId))
    .leftJoin(vehicles, eq(vehicles.id, jobs.vehicleId))
    .where(
      and(eq(faultSearches.complaint, complaint), isNull(jobs.deletedAt), sql`${faultSearches.jobId} <> ${exceptJob}`),
    )
    .groupBy(searchLooks.suspect, sql`2`);
  const none = { looks: 0, cures: 0 };
  return [...new Set(rows.map((row) => row.suspect))].map((suspect) => {
    const of = (own: boolean) => {
      const row = rows.find((r) => r.suspect === suspect && r.own === own);
      return row ? { looks: row.looks, cures: row.cures } : none;
    };
    return { suspect, own: of(true), others: of(false) };
  });
}
