import { randomInt } from 'node:crypto';
import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import {
  DEFAULT_METHOD,
  drawOrder,
  drawStands,
  inDrawnOrder,
  jobProblem,
  methodProblems,
  newSetup,
  newJob,
  STATE_FIELDS,
  UNKNOWN_BAY,
  UNKNOWN_VEHICLE,
  USUAL_DAY,
  type Bay,
  type JobDay,
  type Job,
  type Setup,
} from '@prandel/core';
import { brokenRow, type EvidenceRow } from '@prandel/formats';
import { and, desc, eq, gt } from 'drizzle-orm';
import { BayHistory } from '../bays/bayHistory.ts';
import { Database, type Transaction } from '../database/database.ts';
import type { JobBeingRead } from '../frames/pullFrames.ts';
import { bayRuns, jobs, pulls } from '../database/schema.ts';
import { daysAgo, UNDO_DAYS } from '../database/undo.ts';
import { evidenceOf } from '../evidence/evidence.ts';
import type { Caller } from '../people/caller.ts';
import {
  calibratedBay,
  calibrationChanges,
  changesInWords,
  dayWith,
  given,
  questionChanges,
  setupsWith,
} from './jobEdits.ts';
import { roadChanges, roadWith } from './roadEdits.ts';
import { useChanges, useWith } from './useEdits.ts';
import { gearsOfVehicle } from './useRows.ts';
import { addedInWords, withAddedSetup } from './addedSetup.ts';
import { calibrationOf } from '../records/versions.ts';
import { RECORD_TABLES } from '../records/recordFields.ts';
import { partsTouched, rebuildShelves } from '../shelf/studies.ts';
import { ProjectionsService } from '../projections/projections.service.ts';
import type { KnownVerdicts } from '../projections/verdicts.ts';
import { jobCount, jobPage, type JobListed } from './jobList.ts';
import { jobConditions } from './jobSearch.ts';
import { JobStore, type StoredJob } from './jobStore.ts';
import { changedFacts } from './pullDigests.ts';
import { linksOf, nextNumber, onOwnRollers } from './newJobs.ts';
import type { DeletedJob, JobPage, JobRow, JobSearch } from './jobList.dto.ts';
import type { AddedSetup, DayDto, JobEdit, JobNote, NewJob, PullEdit, SetupDto } from './jobs.dto.ts';

const PAGE = 50;
const NO_VERDICTS: KnownVerdicts = { state: 'judged', verdicts: [] };

@Injectable()
export class JobsService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly projections: ProjectionsService,
    private readonly history: BayHistory,
  ) {}

  /** A page of jobs with what is known of their verdicts; a page never judges. */
  list(caller: Caller, search: JobSearch): Promise<JobPage> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const conditions = await jobConditions(tx, search);
      if (conditions === null) return { jobs: [], next: null, total: search.after ? null : 0 };
      const rows = await jobPage(tx, search, conditions, PAGE);
      const pulled = rows.filter((row) => row.pulls > 0);
      const known = await this.projections.verdictsOf(tx, caller.shopId, pulled);
      const last = rows.at(-1);
      return {
        jobs: rows.map((row) => jobRow(row, known.get(row.id) ?? NO_VERDICTS)),
        next: rows.length === PAGE && last ? last.key : null,
        total: search.after ? null : await jobCount(tx, conditions),
      };
    });
  }

  /** Deletes a job; it can be brought back for thirty days. */
  async remove(caller: Caller, id: string): Promise<void> {
    await this.database.inShop(caller.shopId, async (tx) => {
      await this.store.lock(tx, id);
      const [on] = await tx.select({ bay: bayRuns.bayId }).from(bayRuns).where(eq(bayRuns.jobId, id));
      if (on) throw new ConflictException('This job is on a bay. Take its car off the rollers first.');
      await this.store.note(tx, caller.shopId, id, caller.name, 'Deleted the job.');
      await tx.update(jobs).set({ deletedAt: new Date() }).where(eq(jobs.id, id));
      await rebuildShelves(tx, caller.shopId, await partsTouched(tx, id));
    });
  }

  /** @throws NotFoundException when it was never deleted, or thirty days are over */
  async bringBack(caller: Caller, id: string): Promise<void> {
    await this.database.inShop(caller.shopId, async (tx) => {
      const back = await tx
        .update(jobs)
        .set({ deletedAt: null })
        .where(and(eq(jobs.id, id), gt(jobs.deletedAt, daysAgo(UNDO_DAYS))))
        .returning({ id: jobs.id });
      if (back.length === 0) throw new NotFoundException('There is no such job to bring back.');
      await this.store.note(tx, caller.shopId, id, caller.name, 'Brought the job back.');
      await rebuildShelves(tx, caller.shopId, await partsTouched(tx, id));
    });
  }

  async deleted(caller: Caller): Promise<DeletedJob[]> {
    const rows = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .select({
          id: jobs.id,
          number: jobs.number,
          title: jobs.title,
          vehicle: jobs.vehicleLabel,
          deletedAt: jobs.deletedAt,
        })
        .from(jobs)
        .where(gt(jobs.deletedAt, daysAgo(UNDO_DAYS)))
        .orderBy(desc(jobs.deletedAt))
        .limit(200),
    );
    return rows.map((row) => ({ ...row, deletedAt: row.deletedAt!.toISOString() }));
  }

  read(caller: Caller, id: string, withChannels: boolean): Promise<StoredJob> {
    return this.database.inShop(caller.shopId, (tx) => this.store.read(tx, id, withChannels));
  }

  /** A job without its samples that is being read, for work that can begin with something else. */
  beingRead(caller: Caller, id: string): JobBeingRead {
    return { rowId: id, job: this.read(caller, id, false).then(({ job }) => job) };
  }

  create(caller: Caller, body: NewJob): Promise<string> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const job: Job = {
        ...newJob('', body.title),
        openedAt: new Date().toISOString(),
        ...(body.timeZone ? { timeZone: body.timeZone } : {}),
        ...(body.day ? { day: await this.#dayWith(tx, USUAL_DAY, body.day) } : {}),
        ...(body.method ? { method: { ...DEFAULT_METHOD, ...given(body.method) } } : {}),
        vehicle: { ...UNKNOWN_VEHICLE, ...given(body.vehicle) },
        bay: { ...UNKNOWN_BAY, ...given(body.bay) },
        question: { ...newJob('', '').question, ...given(body.question), windowRpm: body.question.windowRpm ?? null },
        setups: body.setups.map(asSetup),
      };
      checkQuestion(job);
      refuseImplausible(job);
      const onRollers = await onOwnRollers(tx, job);
      const bay = { ...onRollers.bay, prior: await this.history.priorFor(tx, caller.shopId, onRollers) };
      const numbered = { ...onRollers, bay, id: await nextNumber(tx, caller.shopId) };
      const links = await linksOf(tx, { vehicleId: body.vehicleId, customer: body.day?.customer });
      const gearing = links.vehicleId ? await gearsOfVehicle(tx, links.vehicleId) : undefined;
      const whole = gearing ? { ...numbered, gearing } : numbered;
      const id = await this.store.insert(tx, caller.shopId, whole, null, links);
      await this.store.note(tx, caller.shopId, id, caller.name, 'Opened the job.');
      return id;
    });
  }

  edit(
    caller: Caller,
    id: string,
    { version, title, vehicle, question, method, setups, removedSetups, day, amendment, calibration, ...more }: JobEdit,
  ): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const { job, links } = await this.store.read(tx, id, false);
      if (counted(job) && question?.extension === 'declared' && job.question.extension !== 'declared')
        throw new BadRequestException(
          'An extension is declared before the first counted pull; this job has counted pulls. Pulls that are added now are shown as not declared.',
        );
      const next = withDraw({
        ...job,
        vehicle: { ...job.vehicle, ...given(vehicle) },
        question: { ...job.question, ...given(question) },
        method: { ...job.method, ...given(method) },
        title: title ?? job.title,
        setups: setupsWith(job.setups, setups ?? [], removedSetups ?? []),
        ...(day ? { day: await this.#dayWith(tx, job.day ?? USUAL_DAY, day) } : {}),
        ...(calibration ? { bay: calibratedBay(job.bay, calibration) } : {}),
        ...roadWith(job, more),
        ...useWith(more),
      });
      checkQuestion(next);
      refuseImplausible(next);
      if (counted(job) && questionChanges(job.question, next.question) !== '' && !amendment?.trim())
        throw new BadRequestException(
          'The question froze at the first counted pull. Give a reason; the change is then shown as an amendment.',
        );
      const what = questionChanges(job.question, next.question);
      const amended = counted(job) && what ? amendedDay(next, caller.name, amendment!.trim(), what) : next.day;
      await this.store.bump(tx, id, version);
      await this.store.save(tx, caller.shopId, id, job, amended ? { ...next, day: amended } : next);
      if (calibration) await this.#calibrate(tx, caller, id, links.bayId, next.bay);
      const words = [
        ...changesInWords(job, next, counted(job), amendment?.trim() ?? ''),
        ...roadChanges(job, next),
        ...useChanges(job, next),
      ];
      for (const what of words) await this.store.note(tx, caller.shopId, id, caller.name, what);
      const corrected = calibrationChanges(job.bay, next.bay);
      if (calibration && corrected)
        await this.store.note(
          tx,
          caller.shopId,
          id,
          caller.name,
          `Corrected the calibration: ${corrected}; because: ${calibration.reason.trim()}`,
        );
    });
  }

  /** Adds a setup, also when the job's pulls have begun: it is then named as added on the day. */
  addSetup(caller: Caller, id: string, body: AddedSetup): Promise<string> {
    return this.database.inShop(caller.shopId, async (tx) => {
      await this.store.lock(tx, id);
      const { job } = await this.store.read(tx, id, false);
      const { next, setup } = withAddedSetup(job, body, new Date().toISOString());
      refuseImplausible(next);
      await this.store.save(tx, caller.shopId, id, job, next);
      await this.store.touch(tx, id);
      await this.store.note(tx, caller.shopId, id, caller.name, addedInWords(setup));
      return setup.id;
    });
  }

  /** Puts the job on another calibration. @throws ConflictException while its car is on the rollers */
  async #calibrate(tx: Transaction, caller: Caller, id: string, bayId: string | null, bay: Bay): Promise<void> {
    const [on] = await tx.select({ bay: bayRuns.bayId }).from(bayRuns).where(eq(bayRuns.jobId, id));
    if (on) throw new ConflictException('The car is on the rollers. Take it off, then correct the calibration.');
    const calibrationId = await calibrationOf(tx, caller.shopId, bayId, bay);
    const which = bayId && { bayId, epoch: bay.calibrationEpoch, exceptJob: id };
    const prior = which ? (await this.history.learned(tx, caller.shopId, which)).prior : null;
    await this.store.useCalibration(tx, id, calibrationId, prior);
  }

  async #dayWith(tx: Transaction, before: JobDay, edit: DayDto): Promise<JobDay> {
    const day = dayWith(before, edit);
    if (!edit.cardId) return day;
    const [card] = await RECORD_TABLES['model-card'].read(tx, [edit.cardId]);
    if (!card) throw new NotFoundException('This shop has no such model card.');
    return { ...day, modelCard: card.fields as unknown as JobDay['modelCard'] };
  }

  /** Counts a pull, calls it a settle pull, or sets it aside with a reason; nothing is deleted. */
  editPull(caller: Caller, id: string, pullKey: string, { version, status, reason, kind }: PullEdit): Promise<void> {
    if (status === 'set-aside' && !reason?.trim())
      throw new BadRequestException('Give a reason for setting the pull aside.');
    return this.database.inShop(caller.shopId, async (tx) => {
      await this.store.bump(tx, id, version);
      const changed = await tx
        .update(pulls)
        .set({ status, reason: status === 'set-aside' ? reason!.trim() : null, ...(kind ? { kind } : {}) })
        .where(and(eq(pulls.jobId, id), eq(pulls.pullKey, pullKey)))
        .returning({ id: pulls.id });
      if (changed.length === 0) throw new NotFoundException('This job has no such pull.');
      const what =
        status === 'set-aside'
          ? `Set pull ${pullKey} aside: ${reason!.trim()}`
          : `Made pull ${pullKey} a ${status} ${kind ?? 'pull'}.`;
      const event = status === 'set-aside' ? 'set-aside' : 'edit';
      await this.store.note(tx, caller.shopId, id, caller.name, what, event, await changedFacts(tx, id, pullKey));
    });
  }

  /** Words that follow at the desk: nothing in the log is changed, they are added to it. */
  note(caller: Caller, id: string, { about, words }: JobNote): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      await this.store.read(tx, id, false);
      const row = about === null ? null : (await evidenceOf(tx, id)).find((r) => r.n === about);
      if (row === undefined) throw new NotFoundException(`The log of this job has no row ${about}.`);
      const what = row === null ? `Note: ${words}` : `About row ${row.n} (${shortened(row.what)}): ${words}`;
      await this.store.note(tx, caller.shopId, id, caller.name, what, row === null ? 'note' : 'edit');
    });
  }

  /** The evidence log with the answer to whether its chain still holds. @throws NotFoundException when the shop has no such job */
  log(caller: Caller, id: string): Promise<{ rows: EvidenceRow[]; broken: { n: number; why: string } | null }> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [known] = await tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, id));
      if (!known) throw new NotFoundException('There is no such job.');
      const rows = await evidenceOf(tx, id);
      return { rows, broken: brokenRow(rows) };
    });
  }
}

/** An amendment is kept with the job, so that the question and the report show it. */
function amendedDay({ day }: Job, who: string, reason: string, what: string): JobDay {
  const amendment = { at: new Date().toISOString(), who, reason, what };
  return { ...(day ?? USUAL_DAY), amendments: [...(day?.amendments ?? []), amendment] };
}

/** From its first counted pull on a job's question is frozen. */
function counted(job: Job): boolean {
  return job.pulls.some((p) => p.status === 'counted');
}

/** Draws the order of the candidates where the day asks for it and none stands yet. One draw a question: nobody draws again. */
function withDraw(job: Job): Job {
  const { day, question } = job;
  if (day?.plan.order !== 'randomised' || drawStands(day.plan.drawn, question.candidateSetups)) return job;
  if (question.candidateSetups.length < 2)
    throw new BadRequestException('One candidate has no order to draw. Name a second one, or keep the order fixed.');
  if (counted(job))
    throw new BadRequestException('The order is drawn before the first counted pull; this job has counted pulls.');
  const drawn = drawOrder(question.candidateSetups, randomInt(2 ** 31));
  return {
    ...job,
    day: { ...day, plan: { ...day.plan, drawn } },
    question: { ...question, plan: inDrawnOrder(question.plan, drawn) },
  };
}

function shortened(what: string): string {
  return what.length > 60 ? `${what.slice(0, 57)}…` : what;
}

function jobRow(row: JobListed, known: KnownVerdicts): JobRow {
  const { id, number, title, vehicle, pulls, openedAt, updatedAt, lastPullAt, plannedAt } = row;
  return {
    ...{ id, number, title, vehicle, pulls },
    openedAt: openedAt?.toISOString() ?? null,
    updatedAt: updatedAt.toISOString(),
    dayAt: lastPullAt?.toISOString() ?? plannedAt,
    state: known.state,
    problem: known.state === 'not-judged' ? known.problem : null,
    verdicts: known.state === 'judged' ? known.verdicts.map((v) => ({ ...v })) : [],
  };
}

function asSetup(dto: SetupDto): Setup {
  const state = Object.fromEntries(
    STATE_FIELDS.flatMap((key) => (dto.state[key]?.trim() ? [[key, dto.state[key].trim()]] : [])),
  );
  return {
    ...newSetup(dto.id, dto.label, dto.parentId ?? null),
    returnsTo: dto.returnsTo ?? null,
    changes: dto.changes,
    declares: dto.declares ?? [],
    state,
    closedCourseOnly: dto.closedCourseOnly ?? false,
    remounted: dto.remounted ?? false,
  };
}

/** What would later keep the job from being judged is refused now. */
function refuseImplausible(job: Job): void {
  const problem = jobProblem({ ...job, pulls: [] });
  if (problem) throw new BadRequestException(problem.text);
  const problems = methodProblems(job.method);
  if (problems.length > 0) throw new BadRequestException(problems.join(' '));
}

function checkQuestion(job: Job): void {
  const ids = new Set(job.setups.map((s) => s.id));
  if (ids.size !== job.setups.length) throw new BadRequestException('Two setups bear the same letter.');
  for (const id of [job.question.baselineSetup, ...job.question.candidateSetups]) {
    if (!ids.has(id)) throw new BadRequestException(`The question names setup "${id}", which the job does not have.`);
  }
  if (job.question.candidateSetups.length === 0 && job.question.plan.length === 0)
    throw new BadRequestException(
      'Name at least one setup to compare. A reference round or a commissioning day compares nothing, but plans at least one round.',
    );
  for (const pull of job.pulls)
    if (!ids.has(pull.setupId))
      throw new BadRequestException(`Setup "${pull.setupId}" has pulls and cannot be taken away.`);
  const window = job.question.windowRpm;
  if (window && !(window.length === 2 && window[0] > 0 && window[1] > window[0]))
    throw new BadRequestException('The window must rise from a lower to a higher engine speed.');
}
