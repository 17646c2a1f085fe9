import {
  USUAL_DAY,
  type DeclaredMeasure,
  type JobDay,
  type FaultSearch,
  type Fitting,
  type PlanStep,
  type Question,
} from '@prandel/core';
import { and, asc, eq } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { inTurn } from '../database/inTurn.ts';
import {
  abortLimits,
  fittingPhotos,
  fittings,
  fittingTimes,
  intakeNotes,
  jobDays,
  modelCards,
  modelCardVersions,
  planSteps,
  questionAmendments,
  questionMeasures,
  questionVersions,
  rounds,
  faultSearches,
  searchLooks,
} from '../database/schema.ts';
import { cardOf, cardVersionOf } from '../records/versions.ts';

/** The question in force and its plan. */
export async function readQuestion(tx: Transaction, jobId: string): Promise<Question> {
  const [versions, measures, steps] = await inTurn(
    () => tx.select().from(questionVersions).where(eq(questionVersions.jobId, jobId)).orderBy(asc(questionVersions.n)),
    () =>
      tx
        .select()
        .from(questionMeasures)
        .where(eq(questionMeasures.jobId, jobId))
        .orderBy(asc(questionMeasures.n), asc(questionMeasures.place)),
    () =>
      tx
        .select()
        .from(planSteps)
        .where(and(eq(planSteps.jobId, jobId), eq(planSteps.part, 'plan')))
        .orderBy(asc(planSteps.place)),
  );
  const row = versions.at(-1)!;
  const { text, baselineSetup, candidateSetups, extension, confidence, partChangesIntakeTemperature } = row;
  return {
    ...{ text, baselineSetup, candidateSetups, confidence },
    measures: measures.filter(({ n }) => n === row.n).map(measureOf),
    windowRpm: windowOf(row),
    ...{ partChangesIntakeTemperature, extension, plan: steps.map(stepOf) },
  };
}

interface WindowColumns {
  readonly windowFromRpm: number | null;
  readonly windowToRpm: number | null;
}

function windowOf({ windowFromRpm, windowToRpm }: WindowColumns): [number, number] | null {
  return windowFromRpm === null || windowToRpm === null ? null : [windowFromRpm, windowToRpm];
}

function measureOf(row: typeof questionMeasures.$inferSelect): DeclaredMeasure {
  const windowRpm = windowOf(row);
  return {
    id: row.measure,
    ...(row.channel === null ? {} : { channel: row.channel }),
    ...(row.rpm === null ? {} : { rpm: row.rpm }),
    ...(row.target === null ? {} : { target: row.target }),
    ...(row.fromKmH === null ? {} : { fromKmH: row.fromKmH }),
    ...(row.toKmH === null ? {} : { toKmH: row.toKmH }),
    ...(windowRpm ? { windowRpm } : {}),
    meaningful: row.meaningful,
  };
}

const stepOf = ({ setupKey, settle, counted }: typeof planSteps.$inferSelect): PlanStep => ({
  setup: setupKey,
  settle,
  counted,
});

/** Keeps a question as its next version; a change of the plan alone is no other question. */
export async function writeQuestion(tx: Transaction, shopId: string, jobId: string, question: Question): Promise<void> {
  const { text, baselineSetup, candidateSetups, measures, windowRpm, extension, plan } = question;
  const { confidence, partChangesIntakeTemperature } = question;
  const [last] = await tx
    .select({ n: questionVersions.n })
    .from(questionVersions)
    .where(eq(questionVersions.jobId, jobId))
    .orderBy(asc(questionVersions.n))
    .then((rows) => rows.slice(-1));
  const before = last ? await readQuestion(tx, jobId) : null;
  const same = before && JSON.stringify({ ...before, plan: [] }) === JSON.stringify({ ...ordered(question), plan: [] });
  if (!same) {
    const n = (last?.n ?? 0) + 1;
    const columns = (window: readonly [number, number] | null | undefined): WindowColumns => ({
      windowFromRpm: window?.[0] ?? null,
      windowToRpm: window?.[1] ?? null,
    });
    await tx.insert(questionVersions).values({
      ...{ shopId, jobId, n, text, baselineSetup, extension, confidence, partChangesIntakeTemperature },
      candidateSetups: [...candidateSetups],
      ...columns(windowRpm),
    });
    await tx.insert(questionMeasures).values(
      measures.map(({ id, channel = null, rpm = null, target = null, fromKmH = null, toKmH = null, ...m }, place) => ({
        ...{ shopId, jobId, n, place, measure: id, channel, rpm, target, fromKmH, toKmH, meaningful: m.meaningful },
        ...columns(m.windowRpm),
      })),
    );
  }
  await writeSteps(tx, shopId, jobId, 'plan', plan);
}

/** The members of a question in the order in which they are read. */
function ordered(q: Question): Question {
  const { text, baselineSetup, candidateSetups, confidence, windowRpm } = q;
  const { partChangesIntakeTemperature, extension, plan } = q;
  const measures = q.measures.map(({ id, channel, rpm, target, fromKmH, toKmH, windowRpm: own, meaningful }) => ({
    ...{ id, channel, rpm, target, fromKmH, toKmH, windowRpm: own, meaningful },
  }));
  return {
    ...{ text, baselineSetup, candidateSetups, confidence, measures, windowRpm },
    ...{ partChangesIntakeTemperature, extension, plan },
  };
}

async function writeSteps(
  tx: Transaction,
  shopId: string,
  jobId: string,
  part: 'plan' | 'extension',
  steps: readonly PlanStep[],
): Promise<void> {
  await tx.delete(planSteps).where(and(eq(planSteps.jobId, jobId), eq(planSteps.part, part)));
  if (steps.length > 0)
    await tx.insert(planSteps).values(
      steps.map(({ setup, settle, counted }, place) => ({
        ...{ shopId, jobId, part, place, settle, counted },
        setupKey: setup,
      })),
    );
}

/** The day in the bay; undefined for a job that only came from files. */
export async function readDay(tx: Transaction, jobId: string): Promise<JobDay | undefined> {
  const [[row], intake, limits, amendments, searches, looks, closed, steps, clocked, photos, times] = await inTurn(
    () =>
      tx
        .select()
        .from(jobDays)
        .innerJoin(modelCardVersions, eq(modelCardVersions.id, jobDays.cardVersionId))
        .where(eq(jobDays.jobId, jobId)),
    () => tx.select().from(intakeNotes).where(eq(intakeNotes.jobId, jobId)).orderBy(asc(intakeNotes.place)),
    () => tx.select().from(abortLimits).where(eq(abortLimits.jobId, jobId)).orderBy(asc(abortLimits.place)),
    () =>
      tx
        .select()
        .from(questionAmendments)
        .where(eq(questionAmendments.jobId, jobId))
        .orderBy(asc(questionAmendments.place)),
    () => tx.select().from(faultSearches).where(eq(faultSearches.jobId, jobId)).orderBy(asc(faultSearches.place)),
    () => tx.select().from(searchLooks).where(eq(searchLooks.jobId, jobId)).orderBy(asc(searchLooks.place)),
    () => tx.select().from(rounds).where(eq(rounds.jobId, jobId)).orderBy(asc(rounds.place)),
    () =>
      tx
        .select()
        .from(planSteps)
        .where(and(eq(planSteps.jobId, jobId), eq(planSteps.part, 'extension')))
        .orderBy(asc(planSteps.place)),
    () => tx.select().from(fittings).where(eq(fittings.jobId, jobId)).orderBy(asc(fittings.place)),
    () =>
      tx
        .select({ photo: fittingPhotos })
        .from(fittingPhotos)
        .innerJoin(fittings, eq(fittings.id, fittingPhotos.fittingId))
        .where(eq(fittings.jobId, jobId))
        .orderBy(asc(fittingPhotos.place)),
    () =>
      tx
        .select()
        .from(fittingTimes)
        .where(eq(fittingTimes.jobId, jobId))
        .orderBy(asc(fittingTimes.fromKey), asc(fittingTimes.toKey)),
  );
  if (!row) return undefined;
  const { job_days: day, model_card_versions: card } = row;
  const photosOf = (id: string) =>
    photos
      .filter(({ photo }) => photo.fittingId === id)
      .map(({ photo: { path, name, sha256, addedAt } }) => ({ path, name, sha256, addedAt }));
  return {
    ...USUAL_DAY,
    ...day.rest,
    ...{ customer: day.customer, claim: day.claim, cannotBeUndone: day.cannotBeUndone },
    ...(day.channels ? { channels: day.channels } : {}),
    ...(day.readAtRpm ? { readAtRpm: day.readAtRpm } : {}),
    intake: Object.fromEntries(intake.map(({ subject, value }) => [subject, value])),
    modelCard: cardOf(card),
    plan: {
      ...{ shape: day.shape, startAt: day.startAt, order: day.order },
      ...{ minutesPerPull: day.minutesPerPull, fittingMinutes: day.fittingMinutes },
      ...{ openFromMin: day.openFromMin, openUntilMin: day.openUntilMin },
      forecastC: day.forecastLowC === null || day.forecastHighC === null ? null : [day.forecastLowC, day.forecastHighC],
      drawn:
        day.drawnSeed === null || day.drawnCandidates === null
          ? null
          : { seed: day.drawnSeed, candidates: day.drawnCandidates },
      ...(times.length > 0
        ? { times: times.map(({ fromKey, toKey, minutes }) => ({ from: fromKey, to: toKey, minutes })) }
        : {}),
      ...(day.extendedAt === null
        ? {}
        : { extended: { at: day.extendedAt, declared: day.extendedDeclared ?? false, rounds: steps.map(stepOf) } }),
    },
    abortLimits: limits.map(({ channel, warn, stop, side }) => ({ channel, warn, stop, side })),
    fittings: clocked.map((f): Fitting => {
      const own = photosOf(f.id);
      const { who, startedAt, stoppedAt, changed, disturbed, parts, cost, notes } = f;
      return {
        setup: f.setupKey,
        ...{ who, startedAt, stoppedAt, changed, disturbed, parts, cost, notes },
        ...(own.length > 0 ? { photos: own } : {}),
      };
    }),
    ...(closed.length > 0
      ? { closedEarly: Object.fromEntries(closed.map((r) => [`${r.setupKey}#${r.n}`, r.closedEarly])) }
      : {}),
    ...(amendments.length > 0
      ? { amendments: amendments.map(({ at, who, reason, what }) => ({ at, who, reason, what })) }
      : {}),
    ...(searches.length > 0
      ? {
          searches: searches.map(
            ({ place, complaint, words, budgetMinutes, openedAt, openedBy, closedAt }): FaultSearch => ({
              ...{ complaint, words, budgetMinutes, openedAt, openedBy, closedAt },
              looks: looks
                .filter((l) => l.search === place)
                .map(({ suspect, result, minutes, pull, who, at }) => ({ suspect, result, minutes, pull, who, at })),
            }),
          ),
        }
      : {}),
  };
}

const KNOWN: readonly string[] = [
  ...['customer', 'claim', 'intake', 'modelCard', 'plan', 'abortLimits', 'fittings', 'cannotBeUndone'],
  ...['closedEarly', 'amendments', 'searches', 'channels', 'readAtRpm'],
];

/** The card on record by which a job is run: the one it had, as long as it says the same; a new one is found by its name. */
async function recordedCard(
  tx: Transaction,
  jobId: string,
  label: string,
  cardVersionId: string,
): Promise<string | null> {
  const [before] = await tx
    .select({ cardId: jobDays.cardId, cardVersionId: jobDays.cardVersionId })
    .from(jobDays)
    .where(eq(jobDays.jobId, jobId));
  if (before?.cardId && before.cardVersionId === cardVersionId) return before.cardId;
  if (label === '') return null;
  const [card] = await tx.select({ id: modelCards.id }).from(modelCards).where(eq(modelCards.label, label));
  return card?.id ?? null;
}

/** Keeps the day as it is given. Part of the caller's transaction, under the job's lock. */
export async function writeDay(tx: Transaction, shopId: string, jobId: string, day: JobDay): Promise<void> {
  const { plan, modelCard } = day;
  const cardVersionId = await cardVersionOf(tx, shopId, modelCard);
  const values = {
    ...{ customer: day.customer, claim: day.claim, cannotBeUndone: day.cannotBeUndone },
    channels: day.channels ? [...day.channels] : null,
    readAtRpm: day.readAtRpm ? [...day.readAtRpm] : null,
    ...{ cardId: await recordedCard(tx, jobId, modelCard.label, cardVersionId), cardVersionId },
    ...{ shape: plan.shape, startAt: plan.startAt, order: plan.order },
    ...{ minutesPerPull: plan.minutesPerPull, fittingMinutes: plan.fittingMinutes },
    ...{ openFromMin: plan.openFromMin, openUntilMin: plan.openUntilMin },
    forecastLowC: plan.forecastC?.[0] ?? null,
    forecastHighC: plan.forecastC?.[1] ?? null,
    drawnSeed: plan.drawn?.seed ?? null,
    drawnCandidates: plan.drawn ? [...plan.drawn.candidates] : null,
    extendedAt: plan.extended?.at ?? null,
    extendedDeclared: plan.extended?.declared ?? null,
    rest: Object.fromEntries(Object.entries(day).filter(([name]) => !KNOWN.includes(name))),
  };
  await tx
    .insert(jobDays)
    .values({ shopId, jobId, ...values })
    .onConflictDoUpdate({ target: jobDays.jobId, set: values });
  await writeSteps(tx, shopId, jobId, 'extension', plan.extended?.rounds ?? []);
  const own = { shopId, jobId };
  await tx.delete(intakeNotes).where(eq(intakeNotes.jobId, jobId));
  const intake = Object.entries(day.intake).map(([subject, value], place) => ({ ...own, place, subject, value }));
  if (intake.length > 0) await tx.insert(intakeNotes).values(intake);
  await tx.delete(abortLimits).where(eq(abortLimits.jobId, jobId));
  const limits = day.abortLimits.map(({ channel, warn, stop, side }, place) => ({
    ...own,
    ...{ place, channel, warn, stop, side },
  }));
  if (limits.length > 0) await tx.insert(abortLimits).values(limits);
  await tx.delete(questionAmendments).where(eq(questionAmendments.jobId, jobId));
  const amendments = (day.amendments ?? []).map(({ at, who, reason, what }, place) => ({
    ...own,
    ...{ place, at, who, reason, what },
  }));
  if (amendments.length > 0) await tx.insert(questionAmendments).values(amendments);
  await tx.delete(faultSearches).where(eq(faultSearches.jobId, jobId));
  const searches = (day.searches ?? []).map(({ looks: _, ...search }, place) => ({ ...own, ...search, place }));
  if (searches.length > 0) await tx.insert(faultSearches).values(searches);
  const looks = (day.searches ?? []).flatMap((one, search) =>
    one.looks.map((look, place) => ({ ...own, ...look, search, place })),
  );
  if (looks.length > 0) await tx.insert(searchLooks).values(looks);
  await tx.delete(rounds).where(eq(rounds.jobId, jobId));
  const closed = Object.entries(day.closedEarly ?? {}).flatMap(([key, closedEarly], place) => {
    const at = /^(.*)#(\d{1,6})$/.exec(key);
    return at ? [{ ...own, setupKey: at[1]!, n: Number(at[2]), closedEarly, place }] : [];
  });
  if (closed.length > 0) await tx.insert(rounds).values(closed);
  await tx.delete(fittingTimes).where(eq(fittingTimes.jobId, jobId));
  const times = (plan.times ?? []).map(({ from, to, minutes }) => ({ ...own, fromKey: from, toKey: to, minutes }));
  if (times.length > 0) await tx.insert(fittingTimes).values(times).onConflictDoNothing();
  await writeFittings(tx, shopId, jobId, day.fittings);
}

async function writeFittings(tx: Transaction, shopId: string, jobId: string, list: readonly Fitting[]): Promise<void> {
  await tx.delete(fittings).where(eq(fittings.jobId, jobId));
  if (list.length === 0) return;
  const rows = await tx
    .insert(fittings)
    .values(
      list.map((f, place) => {
        const { who, startedAt, stoppedAt, changed, disturbed, parts, cost, notes } = f;
        return {
          ...{ shopId, jobId, place, setupKey: f.setup },
          ...{ who, startedAt, stoppedAt, changed, disturbed, parts, cost, notes },
        };
      }),
    )
    .returning({ id: fittings.id, place: fittings.place });
  const idOf = new Map(rows.map(({ id, place }) => [place, id]));
  const photos = list.flatMap((f, k) =>
    (f.photos ?? []).map(({ path, name, sha256, addedAt }, place) => ({
      ...{ shopId, fittingId: idOf.get(k)!, place, path, name, sha256, addedAt },
    })),
  );
  if (photos.length > 0) await tx.insert(fittingPhotos).values(photos);
}
