import { Injectable, NotFoundException } from '@nestjs/common';
import { factsNamed, median, modelRange, pooledHeat, truePercent } from '@prandel/core';
import { and, asc, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { Database, type Transaction } from '../database/database.ts';
import {
  bayCalibrations,
  bays,
  faultSearches,
  jobDays,
  jobProjections,
  jobs,
  modelCards,
  modelCardVersions,
  partResults,
  parts,
  searchLooks,
  setupChanges,
  vehicles,
} from '../database/schema.ts';
import type { ModelAnswer, ModelListed } from '../http/coreAnswers.ts';
import type { Caller } from '../people/caller.ts';
import { cardOfJob, ofModel } from './ofModel.ts';
import { RECORD_TABLES } from '../records/recordFields.ts';

/** The latest jobs of a model say enough of it. */
const MOST_JOBS = 300;
const Z = 1.959964;

/** What the shop knows of a model: how it runs, what it reads, what was tried on it, what was wrong with it. */
@Injectable()
export class ModelsService {
  constructor(private readonly database: Database) {}

  /** Models by name with how many jobs and cars they had. */
  list(caller: Caller): Promise<ModelListed[]> {
    return this.database.inShop(caller.shopId, (tx) => {
      const known = jobsByCard(tx);
      return tx
        .select({
          ...{ id: modelCards.id, label: modelCards.label, lastAt: known.lastAt },
          jobs: sql<number>`coalesce(${known.jobs}, 0)`,
          cars: sql<number>`coalesce(${known.cars}, 0)`,
        })
        .from(modelCards)
        .leftJoin(known, eq(known.card, modelCards.id))
        .orderBy(asc(modelCards.label));
    });
  }

  /** @throws NotFoundException */
  one(caller: Caller, id: string): Promise<ModelAnswer> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [record] = await RECORD_TABLES['model-card'].read(tx, [id]);
      if (!record) throw new NotFoundException('This shop has no such model.');
      const rows = await jobsOf(tx, id, record.label);
      const ids = rows.map((row) => row.job);
      const latest = rows[0];
      const baselines = baselinesOf(rows);
      const typed = (record.fields.baselinesSeenW ?? []) as number[];
      const heats = rows.flatMap((row) =>
        row.heatPercentPerC === null
          ? []
          : [
              {
                percentPerC: row.heatPercentPerC,
                low: row.heatLow!,
                high: row.heatHigh!,
                pulls: row.heatPulls!,
                rounds: row.heatRounds!,
              },
            ],
      );
      const settled = rows.flatMap((row) => row.settled ?? []);
      return {
        ...{ id, label: record.label, jobs: rows.length, cars: new Set(rows.map((row) => row.car)).size },
        card: record.fields as unknown as ModelAnswer['card'],
        baselines,
        typedW: typed,
        bay: latest?.bay ?? null,
        range: modelRange([...typed, ...baselines.map((b) => b.peakW)]),
        heat: pooledHeat(heats),
        settle: settled.length < 3 ? null : { pulls: median(settled), jobs: settled.length },
        parts: await partsOf(tx, ids),
        searches: await searchesOf(tx, ids),
      };
    });
  }
}

/** How many jobs and cars each card had; a job that came without a card counts for the card that is called as it says. */
function jobsByCard(tx: Transaction) {
  const namesake = alias(modelCards, 'namesake');
  const card = sql<string | null>`coalesce(${cardOfJob}, ${namesake.id})`;
  return tx
    .select({
      card: card.as('card'),
      jobs: sql<number>`count(*)::int`.as('jobs'),
      cars: sql<number>`count(DISTINCT coalesce(${jobs.vehicleId}::text, ${jobs.vehicleLabel}))::int`.as('cars'),
      lastAt: sql<string | null>`max(${jobs.lastPullAt})`.as('last_at'),
    })
    .from(jobs)
    .innerJoin(jobDays, eq(jobDays.jobId, jobs.id))
    .leftJoin(vehicles, eq(vehicles.id, jobs.vehicleId))
    .leftJoin(modelCardVersions, and(sql`${cardOfJob} IS NULL`, eq(modelCardVersions.id, jobDays.cardVersionId)))
    .leftJoin(namesake, eq(namesake.label, modelCardVersions.label))
    .where(isNull(jobs.deletedAt))
    .groupBy(card)
    .as('known');
}

/** The jobs of a model, the newest first. */
async function jobsOf(tx: Transaction, cardId: string, label: string) {
  const rows = await tx
    .select({
      ...{ job: jobs.id, number: jobs.number, carLabel: jobs.vehicleLabel, lastPullAt: jobs.lastPullAt },
      ...{ peakW: jobProjections.baselinePeakW, settled: jobProjections.settled, epoch: bayCalibrations.since },
      ...{ heatPercentPerC: jobProjections.heatPercentPerC, heatLow: jobProjections.heatLow },
      ...{
        heatHigh: jobProjections.heatHigh,
        heatPulls: jobProjections.heatPulls,
        heatRounds: jobProjections.heatRounds,
      },
      car: sql<string>`coalesce(${jobs.vehicleId}::text, ${jobs.vehicleLabel})`,
      bay: sql<string>`coalesce(${bays.label}, ${bayCalibrations.bayLabel})`,
    })
    .from(jobs)
    .innerJoin(jobDays, eq(jobDays.jobId, jobs.id))
    .innerJoin(modelCardVersions, eq(modelCardVersions.id, jobDays.cardVersionId))
    .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
    .leftJoin(bays, eq(bays.id, bayCalibrations.bayId))
    .leftJoin(vehicles, eq(vehicles.id, jobs.vehicleId))
    .leftJoin(jobProjections, eq(jobProjections.jobId, jobs.id))
    .where(and(isNull(jobs.deletedAt), ofModel({ cardId, label })))
    .orderBy(desc(sql`coalesce(${jobs.lastPullAt}, ${jobs.openedAt})`))
    .limit(MOST_JOBS);
  return rows;
}

/** Peaks of the baselines in the present epoch of the bay that saw the model last: figures of two epochs are never compared. */
function baselinesOf(rows: Awaited<ReturnType<typeof jobsOf>>): ModelAnswer['baselines'] {
  const latest = rows.find((row) => row.peakW !== null);
  const seen = new Set<string>();
  return rows.flatMap((row) => {
    if (row.peakW === null || row.bay !== latest?.bay || row.epoch !== latest.epoch || seen.has(row.car)) return [];
    seen.add(row.car);
    const { job, number, carLabel: car, peakW } = row;
    return [{ job, number, car, peakW, at: row.lastPullAt?.toISOString() ?? null }];
  });
}

async function partsOf(tx: Transaction, ids: readonly string[]): Promise<ModelAnswer['parts']> {
  if (ids.length === 0) return [];
  const rows = await tx
    .selectDistinct({
      ...{ job: partResults.jobId, place: partResults.place, setup: partResults.setupKey, number: jobs.number },
      ...{ measure: partResults.measure, verdict: partResults.verdict, estimate: partResults.estimate },
      ...{ standardError: partResults.standardError, alone: partResults.alone, part: parts.name, partId: parts.id },
      ...{ named: setupChanges.partName, at: jobs.lastPullAt },
    })
    .from(partResults)
    .innerJoin(jobs, eq(jobs.id, partResults.jobId))
    .innerJoin(
      setupChanges,
      and(eq(setupChanges.jobId, partResults.jobId), eq(setupChanges.setupKey, partResults.setupKey)),
    )
    .leftJoin(parts, eq(parts.id, setupChanges.partId))
    .where(and(inArray(partResults.jobId, [...ids]), eq(setupChanges.kind, 'part-fitted')))
    .orderBy(desc(jobs.lastPullAt), asc(partResults.place));
  return rows.map(({ estimate, standardError, measure, part, named, at, ...row }) => {
    const shown = factsNamed(measure).scale === 'log' ? truePercent : (value: number) => value;
    return {
      ...{ job: row.job, number: row.number, measure, verdict: row.verdict, alone: row.alone },
      ...{ part: part ?? named ?? '', partId: row.partId, at: at?.toISOString() ?? null },
      range:
        estimate === null || standardError === null
          ? null
          : {
              estimate: shown(estimate),
              low: shown(estimate - Z * standardError),
              high: shown(estimate + Z * standardError),
            },
    };
  });
}

/** Complaints of the model and what was behind them. */
async function searchesOf(tx: Transaction, ids: readonly string[]): Promise<ModelAnswer['searches']> {
  if (ids.length === 0) return [];
  const rows = await tx
    .select({ search: faultSearches, number: jobs.number })
    .from(faultSearches)
    .innerJoin(jobs, eq(jobs.id, faultSearches.jobId))
    .where(inArray(faultSearches.jobId, [...ids]))
    .orderBy(desc(faultSearches.openedAt));
  const looks = await tx
    .select()
    .from(searchLooks)
    .where(inArray(searchLooks.jobId, [...ids]))
    .orderBy(asc(searchLooks.place));
  return rows.map(({ search, number }) => {
    const own = looks.filter((l) => l.jobId === search.jobId && l.search === search.place);
    const culprit = own.find((l) => l.result !== 'fine');
    return {
      ...{ job: search.jobId, number, complaint: search.complaint, words: search.words, at: search.openedAt },
      looks: own.length,
      culprit: culprit ? { suspect: culprit.suspect, cured: culprit.result === 'cured' } : null,
    };
  });
}
