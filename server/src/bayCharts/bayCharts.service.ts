import { BadRequestException, Injectable, NotFoundException } from '@nestjs/common';
import {
  chartStretches,
  pressureFitsElevation,
  repeatabilityLimit,
  stationPressureHpa,
  type ChartAnswer,
  type ChartPoint,
} from '@prandel/core';
import { and, asc, desc, eq, gt, isNotNull, isNull, or, sql } from 'drizzle-orm';
import { readBays } from '../bays/bayStore.ts';
import { Database, type Transaction } from '../database/database.ts';
import {
  bayAnswers,
  bayCalibrations,
  bays,
  jobProjections,
  jobs,
  secondReadings,
  vehicles,
} from '../database/schema.ts';
import type { BayChartsAnswer, OpenSignal } from '../http/coreAnswers.ts';
import type { Caller } from '../people/caller.ts';
import type { NewSecondReading, NewSignalAnswer } from './bayCharts.dto.ts';

/** What repeatability is pooled from. */
const REPEAT_GROUPS = 30;

type Point = ChartPoint & { readonly epoch: string | null };

/** The bay held against itself: how it repeats, how far it comes back, and where a car that never changes reads. */
@Injectable()
export class BayChartsService {
  constructor(private readonly database: Database) {}

  /** @throws NotFoundException */
  charts(caller: Caller, bayId: string): Promise<BayChartsAnswer> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const bay = await bayOf(tx, bayId);
      const rows = await jobPoints(tx, bayId);
      const answers = await answersOf(tx, bayId);
      const repeats = rows.filter((row) => row.degrees > 0);
      const months = [...new Set(repeats.map((row) => row.at.slice(0, 7)))].sort();
      const last = repeats.slice(-REPEAT_GROUPS);
      const returned = rows.filter((row) => row.returned !== null);
      return {
        ...{ id: bay.id, label: bay.label, elevationM: bay.elevationM },
        repeatability: last.length === 0 ? null : { ...repeatabilityLimit(last)!, jobs: last.length },
        months: months.map((month) => {
          const own = repeats.filter((row) => row.at.startsWith(month));
          return { month, jobs: own.length, sd: repeatabilityLimit(own)!.sd };
        }),
        returns: {
          points: returned.map((row) => pointOf(row, row.returned!)),
          limit: returnLimit(returned.map((row) => row.returned!)),
        },
        references: referencesIn(rows).map(({ car, points }) => ({
          car,
          stretches: chartStretches(points, answers('reference')),
        })),
        second: chartStretches(await secondPoints(tx, bayId), answers('second')),
        answers: (['reference', 'second'] as const).flatMap((chart) =>
          answers(chart).map((own) => ({ ...own, chart })),
        ),
      };
    });
  }

  /** Signals that nobody has answered, of all bays. */
  open(caller: Caller): Promise<OpenSignal[]> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const found: OpenSignal[] = [];
      const all = await tx.select({ id: bays.id, label: bays.label }).from(bays).where(isNull(bays.deletedAt));
      for (const bay of all) {
        const answers = await answersOf(tx, bay.id);
        const add = (chart: OpenSignal['chart'], points: readonly Point[]) => {
          for (const { open, points: own } of chartStretches(points, answers(chart)))
            for (const { index, code } of open)
              found.push({ bay: bay.id, label: bay.label, chart, code, at: own[index]!.at, name: own[index]!.name });
        };
        for (const { points } of referencesIn(await jobPoints(tx, bay.id, true))) add('reference', points);
        add('second', await secondPoints(tx, bay.id));
      }
      return found;
    });
  }

  /** Answers the signals of a chart that are there by now. @throws BadRequestException when there is none */
  async answer(caller: Caller, bayId: string, { chart, answer, words }: NewSignalAnswer): Promise<void> {
    const open = (await this.open(caller)).filter((s) => s.bay === bayId && s.chart === chart);
    if (open.length === 0) throw new BadRequestException('No signal of this chart waits for an answer.');
    const until = new Date(Math.max(...open.map((s) => Date.parse(s.at))));
    await this.database.inShop(caller.shopId, async (tx) => {
      await bayOf(tx, bayId);
      const { shopId, name: who } = caller;
      await tx.insert(bayAnswers).values({ shopId, bayId, chart, answer, words: words.trim(), who, until });
    });
  }

  /** Keeps a reading beside the station. @throws BadRequestException for a pressure that does not fit the bay's elevation */
  async second(caller: Caller, bayId: string, { source, ownHpa, otherHpa }: NewSecondReading): Promise<void> {
    await this.database.inShop(caller.shopId, async (tx) => {
      const bay = await bayOf(tx, bayId);
      if (source === 'airport' && bay.elevationM === null)
        throw new BadRequestException(
          'The bay has no elevation, so an airport’s pressure cannot be brought to it. Enter it on Bays.',
        );
      const brought = source === 'airport' ? stationPressureHpa(otherHpa, bay.elevationM!) : otherHpa;
      const { elevationM } = bay;
      for (const value of elevationM === null ? [] : [ownHpa, brought])
        if (!pressureFitsElevation(value, elevationM!))
          throw new BadRequestException(
            `${value.toFixed(1)} hPa does not fit a bay at ${elevationM} m. Type the station pressure, not one reduced to sea level.`,
          );
      await tx.insert(secondReadings).values({
        ...{ shopId: caller.shopId, bayId, at: new Date(), who: caller.name, source },
        ...{ ownHpa, otherHpa: brought },
      });
    });
  }
}

type JobPoint = Awaited<ReturnType<typeof jobPoints>>[number];

/** What is kept of a bay's jobs, oldest first; with `references` only those of reference cars. */
async function jobPoints(tx: Transaction, bayId: string, references = false) {
  const rows = await tx
    .select({
      ...{ job: jobs.id, number: jobs.number, car: jobs.vehicleLabel, epoch: bayCalibrations.since },
      ...{ level: jobProjections.level, squares: jobProjections.squares, degrees: jobProjections.degrees },
      ...{ returned: jobProjections.returned, vehicleId: jobs.vehicleId, reference: vehicles.reference },
      at: sql<Date>`coalesce(${jobs.lastPullAt}, ${jobs.openedAt})`.mapWith(jobs.openedAt),
    })
    .from(jobs)
    .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
    .innerJoin(jobProjections, eq(jobProjections.jobId, jobs.id))
    .leftJoin(vehicles, eq(vehicles.id, jobs.vehicleId))
    .where(
      and(
        isNull(jobs.deletedAt),
        eq(bayCalibrations.bayId, bayId),
        isNotNull(sql`coalesce(${jobs.lastPullAt}, ${jobs.openedAt})`),
        references ? eq(vehicles.reference, true) : or(gt(jobProjections.degrees, 0), isNotNull(jobProjections.level)),
      ),
    )
    .orderBy(asc(sql`coalesce(${jobs.lastPullAt}, ${jobs.openedAt})`));
  return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
}

const pointOf = (row: JobPoint, value: number): Point => ({
  ...{ at: row.at, value, job: row.job, name: row.number, epoch: row.epoch },
});

/** The reference cars of a bay, each with where it read. */
function referencesIn(rows: readonly JobPoint[]): { car: string; points: Point[] }[] {
  const own = rows.filter((row) => row.reference && row.level !== null);
  const cars = [...new Set(own.map((row) => row.vehicleId))];
  return cars.map((id) => {
    const of = own.filter((row) => row.vehicleId === id);
    return { car: of.at(-1)!.car, points: of.map((row) => pointOf(row, row.level!)) };
  });
}

/** Differences between the bay's station and the other instrument. */
async function secondPoints(tx: Transaction, bayId: string): Promise<Point[]> {
  const rows = await tx
    .select()
    .from(secondReadings)
    .where(eq(secondReadings.bayId, bayId))
    .orderBy(asc(secondReadings.at));
  return rows.map(({ at, ownHpa, otherHpa, source, who }) => ({
    ...{ at: at.toISOString(), value: ownHpa - otherHpa, job: null, epoch: null },
    name: `${source === 'airport' ? 'airport' : 'second instrument'}, ${who}`,
  }));
}

/** 95 % limits of return checks about zero: where nothing drifts, they scatter about it. */
function returnLimit(values: readonly number[]): number | null {
  if (values.length < 3) return null;
  return 1.959964 * Math.sqrt(values.reduce((a, v) => a + v * v, 0) / values.length);
}

async function answersOf(tx: Transaction, bayId: string) {
  const rows = await tx.select().from(bayAnswers).where(eq(bayAnswers.bayId, bayId)).orderBy(desc(bayAnswers.until));
  return (chart: string): ChartAnswer[] =>
    rows
      .filter((row) => row.chart === chart)
      .map(({ answer, words, who, at, until }) => ({
        ...{ answer, words, who },
        at: at.toISOString(),
        until: until.toISOString(),
      }));
}

async function bayOf(tx: Transaction, bayId: string) {
  const [row] = await readBays(tx, bayId);
  if (!row) throw new NotFoundException('This shop has no such bay.');
  return { id: row.id, label: row.label, elevationM: row.rollers.elevationM };
}
