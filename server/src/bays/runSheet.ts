import { BadRequestException, ConflictException, Injectable } from '@nestjs/common';
import {
  changesText,
  extended,
  extensionOf,
  planComplete,
  plannedRoundsLeft,
  setAsBaseline,
  STATE_LABELS,
  stepOf,
  type Fitting,
  type Job,
  type PlanStep,
} from '@prandel/core';
import { crossedWords, reasonWords } from '@prandel/presentation';
import type { Transaction } from '../database/database.ts';
import type { BayRun } from '../database/shapes.ts';
import type { EvidenceKind } from '../evidence/evidence.ts';
import { addedInWords, withAddedSetup } from '../jobs/addedSetup.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { BayHistory } from './bayHistory.ts';
import type { LiveBay } from '../live/liveBay.ts';
import { LiveBays } from '../live/liveBays.ts';
import type { Caller } from '../people/caller.ts';
import type { SetAside, SetPointSet, SheetAction, StopFitting } from './sheetActions.dto.ts';

const LATE_MARK = 'set aside after seeing the result';

/** Carries out what is done on the run sheet: checks that it makes sense now, stores it, and writes the evidence. */
@Injectable()
export class RunSheet {
  constructor(
    private readonly bays: LiveBays,
    private readonly store: JobStore,
    private readonly history: BayHistory,
  ) {}

  async act(caller: Caller, bayId: string, asked: SheetAction): Promise<void> {
    const bay = this.bays.of(caller.shopId, bayId);
    if (asked.action === 'open-job') return this.#open(caller, bay, asked.job);
    const { run } = bay;
    const jobId = bay.jobRowId;
    if (!run || !jobId) throw new ConflictException('No job is in this bay.');
    const person = caller.name;
    const put = (change: Partial<BayRun>, kind: EvidenceKind, what: string) =>
      bay.change((now) => ({ ...now, ...change }), jobId, { person, kind, what });
    switch (asked.action) {
      case 'start-round':
        return this.#startRound(bay, run, jobId, person, asked.setup);
      case 'resume-round':
        return this.#resumeRound(bay, run, jobId, person);
      case 'extra-settle':
        mustBe(run, 'round');
        return put({ extraSettle: run.extraSettle + 1 }, 'round', `Asked for an extra settle pull on ${run.setup}.`);
      case 'override': {
        mustBe(run, 'round');
        const gate = bay.gate?.verdict;
        if (!gate || gate.state === 'ready') throw new ConflictException('The gate is open: nothing needs overriding.');
        const reason = asked.reason.trim();
        const what = `Overrode the gate for the next pull (${reason}): ${gate.reasons.map((r) => reasonWords(r)).join('; ')}`;
        return put({ override: { reason, person } }, 'override', what);
      }
      case 'withdraw-override':
        return put({ override: null }, 'override', 'Withdrew the override.');
      case 'keep':
        return bay.endReview();
      case 'set-aside':
        return this.#setAside(bay, run, jobId, person, asked);
      case 'close-round': {
        mustBe(run, 'round');
        const reason = asked.reason.trim();
        const what = `Closed round ${run.round} of ${run.setup} early: ${reason}`;
        return bay.change(
          (now) => ({ ...now, phase: 'between' }),
          jobId,
          { person, kind: 'round', what },
          (tx) =>
            this.store.changeDay(tx, jobId, (day) => ({
              ...day,
              closedEarly: { ...day.closedEarly, [`${run.setup}#${run.round}`]: reason },
            })),
        );
      }
      case 'extend':
        return this.#extend(bay, run, jobId, person);
      case 'set-point':
        return this.#setPoint(bay, run, jobId, person, asked.state);
      case 'start-fitting':
        return this.#startFitting(bay, run, jobId, person, asked.setup);
      case 'fit-new':
        return this.#fitNew(bay, run, jobId, person, asked.parent);
      case 'stop-fitting':
        return this.#stopFitting(bay, run, jobId, person, asked);
      case 'acknowledge-stop':
        if (!run.stop) throw new ConflictException('Nothing is stopped.');
        return put({ stop: null }, 'alarm', `Looked at the STOP (${crossedWords(run.stop.crossed)}) and went on.`);
      case 'note':
        return put({}, 'note', `Note: ${asked.reason.trim()}`);
      case 'leave':
        if (bay.pulling)
          throw new ConflictException('A pull is being recorded. Lift the throttle, then take the car off.');
        return bay.change(null, jobId, { person, kind: 'round', what: leaveWords(asked.driverAidsRestored) });
      default:
        return asked satisfies never;
    }
  }

  async #open(caller: Caller, bay: LiveBay, jobId: string): Promise<void> {
    if (bay.run) throw new ConflictException('Another job is in this bay. Take its car off the rollers first.');
    if (bay.pulling)
      throw new ConflictException('A pull is being recorded. Let it end, then open the job: it keeps the pull.');
    const elsewhere = this.bays.with(caller.shopId, jobId);
    if (elsewhere) throw new ConflictException(`This job is on ${elsewhere.row.label} already.`);
    let baseline = 'A';
    const run = (setup: string): BayRun => ({
      phase: 'between',
      setup,
      round: 1,
      extraSettle: 0,
      lastPullEndedAt: null,
      lastPullId: null,
      lastPullRound: null,
      override: null,
      stop: null,
    });
    const which = { bayId: bay.row.id, epoch: bay.row.rollers.calibrationEpoch, exceptJob: jobId };
    const prepare = async (tx: Transaction) => {
      const { job, links } = await this.store.read(tx, jobId, false);
      const { calibrationId, id } = bay.row;
      if (job.pulls.length > 0 && links.bayId !== id)
        throw new ConflictException(
          `This job's pulls were made on ${job.bay.label || 'another bay'}; pulls of two bays are never compared.`,
        );
      if (job.pulls.length > 0 && job.bay.calibrationEpoch !== bay.row.rollers.calibrationEpoch)
        throw new ConflictException(
          `${bay.row.label} was calibrated anew since this job's pulls were made; pulls of two calibrations are never compared.`,
        );
      baseline = job.question.baselineSetup;
      // What the bay has learned of itself by now is copied: later days do not rewrite this one. A job that has pulls keeps its own.
      const known = job.pulls.some((p) => p.status === 'counted') ? job.bay.prior : null;
      const prior = known ?? (await this.history.learned(tx, caller.shopId, which)).prior;
      await this.store.useCalibration(tx, jobId, calibrationId, prior);
      await this.store.changeDay(tx, jobId, (day) => day);
    };
    await bay.database.inShop(caller.shopId, prepare);
    const what = `Put the car on the rollers of ${bay.row.label}.`;
    await bay.change(run(baseline), jobId, { person: caller.name, kind: 'round', what }, async (tx) => {
      const unclaimed = await bay.unclaimed.claim(tx, bay.atMs, jobId, baseline);
      if (unclaimed.length === 0) return;
      const digests = await this.store.addPulls(tx, caller.shopId, jobId, unclaimed);
      await this.store.touch(tx, jobId);
      const ids = unclaimed.map((p) => p.id).join(', ');
      await this.store.note(
        tx,
        caller.shopId,
        jobId,
        'the bay',
        `Kept ${ids}, pulled before the job was put on this bay; set aside.`,
        'pull',
        { digests },
      );
    });
    bay.unclaimed.claimed();
  }

  async #startRound(bay: LiveBay, run: BayRun, jobId: string, person: string, named?: string): Promise<void> {
    if (run.phase === 'fitting') throw new ConflictException('The fitting clock runs. Stop it first.');
    const job = bay.job!;
    const setup = named ?? run.setup;
    if (!job.setups.some((s) => s.id === setup)) throw new BadRequestException(`This job has no setup "${setup}".`);
    const round = nextRound(job, setup);
    const next = (now: BayRun): BayRun => ({ ...now, phase: 'round', setup, round, extraSettle: 0, override: null });
    const what = `Started round ${round} of ${setup}, said that straps, extraction, fans, pickup and ground were checked.`;
    const beyond = planComplete(job) && !plannedRoundsLeft(job).some((step) => step.setup === setup);
    await bay.change(next, jobId, { person, kind: 'round', what }, (tx) =>
      beyond ? this.#goOn(tx, bay, jobId, person, [stepOf(job, setup, 1)]) : Promise.resolve(),
    );
  }

  /** Goes on with the round that was just pulled: a pull was set aside, or it was closed by mistake. */
  async #resumeRound(bay: LiveBay, run: BayRun, jobId: string, person: string): Promise<void> {
    mustBe(run, 'between');
    const key = `${run.setup}#${run.round}`;
    if (run.lastPullRound !== key)
      throw new ConflictException('The car was touched since the last pull: only a new round is possible.');
    const what = `Went on with round ${run.round} of ${run.setup}.`;
    await bay.change(
      (now) => ({ ...now, phase: 'round' }),
      jobId,
      { person, kind: 'round', what },
      (tx) =>
        this.store.changeDay(tx, jobId, (day) => {
          const { [key]: _, ...closedEarly } = day.closedEarly ?? {};
          return { ...day, closedEarly };
        }),
    );
  }

  /** Adds the rounds that would settle what is open; they are then the plan. */
  async #extend(bay: LiveBay, run: BayRun, jobId: string, person: string): Promise<void> {
    mustBe(run, 'between');
    const { job, judgement } = bay;
    if (!job || !judgement || !planComplete(job))
      throw new ConflictException(
        'The planned pulls come first: an extension follows a plan that left the question open.',
      );
    const extension = extensionOf(job, judgement);
    if (!extension) throw new ConflictException('No rounds within reach would settle this: steadier conditions would.');
    await bay.change(
      (now) => now,
      jobId,
      null,
      (tx) => this.#goOn(tx, bay, jobId, person, extension.rounds),
    );
  }

  /** The plan goes on after the result could be seen: as declared, or as the report will say it was not. */
  async #goOn(
    tx: Transaction,
    bay: LiveBay,
    jobId: string,
    person: string,
    rounds: readonly PlanStep[],
  ): Promise<void> {
    const at = new Date(bay.atMs);
    const { job } = await this.store.read(tx, jobId, false);
    const longer = extended(job, rounds, at.toISOString());
    await this.store.save(tx, bay.row.shopId, jobId, job, longer);
    await this.store.touch(tx, jobId);
    const words = rounds.map((r) => `${r.counted} of ${r.setup}`).join(', then ');
    const what =
      longer.question.extension === 'declared'
        ? `Went on with the declared extension: ${words}.`
        : `Added pulls after the result could be seen, without having declared it: ${words}.`;
    await this.store.note(tx, bay.row.shopId, jobId, person, what);
  }

  async #setPoint(bay: LiveBay, run: BayRun, jobId: string, person: string, key: SetPointSet['state']): Promise<void> {
    const label = STATE_LABELS[key];
    const { job } = bay;
    const wantedState = job?.setups.find((s) => s.id === job.question.baselineSetup)?.state[key];
    if (!job || wantedState === undefined)
      throw new ConflictException(`Nobody recorded ${label.toLowerCase()} for the baseline.`);
    const what = `Said that ${label.toLowerCase()} is set to ${wantedState} on ${run.setup} now, as for the baseline.`;
    await bay.change(
      (now) => now,
      jobId,
      { person, kind: 'edit', what },
      async (tx) => {
        const { job: now } = await this.store.read(tx, jobId, false);
        await this.store.keepSetups(tx, bay.row.shopId, jobId, setAsBaseline(now, run.setup, key).setups);
        await this.store.touch(tx, jobId);
      },
    );
  }

  async #setAside(bay: LiveBay, run: BayRun, jobId: string, person: string, asked: SetAside): Promise<void> {
    const id = asked.pull ?? run.lastPullId;
    const pull = bay.job?.pulls.find((p) => p.id === id);
    if (!pull) throw new BadRequestException('There is no such pull to set aside.');
    if (pull.status === 'set-aside') throw new ConflictException('This pull is set aside already.');
    const reason = asked.reason.trim();
    const late = bay.reviewing !== pull.id;
    const what = `Set pull ${pull.id} aside${late ? ' after seeing its result' : ''}: ${reason}`;
    await bay.change(
      (now) => now,
      jobId,
      { person, kind: 'set-aside', what },
      (tx) => this.store.setAside(tx, jobId, pull.id, reason, late ? LATE_MARK : null),
    );
    bay.endReview();
  }

  async #startFitting(bay: LiveBay, run: BayRun, jobId: string, person: string, setup: string): Promise<void> {
    mustBe(run, 'between');
    const job = bay.job!;
    if (!job.setups.some((s) => s.id === setup)) throw new BadRequestException(`This job has no setup "${setup}".`);
    const fitting: Fitting = {
      setup,
      who: person,
      startedAt: new Date(bay.atMs).toISOString(),
      stoppedAt: null,
      changed: changesText(job.setups.find((s) => s.id === setup)!.changes),
      disturbed: '',
      parts: '',
      cost: null,
      notes: '',
    };
    const what = `Started the fitting clock for ${setup}.`;
    await bay.change(
      (now) => ({ ...now, phase: 'fitting', setup, round: nextRound(job, setup) }),
      jobId,
      { person, kind: 'fitting', what },
      (tx) => this.store.changeFittings(tx, jobId, (list) => [...list, fitting]),
    );
  }

  /** Something new goes on the car in the middle of the day: a setup with the next letter, its words follow at the desk. */
  async #fitNew(bay: LiveBay, run: BayRun, jobId: string, person: string, parent: string): Promise<void> {
    mustBe(run, 'between');
    const at = new Date(bay.atMs).toISOString();
    const { setup } = withAddedSetup(bay.job!, { parentId: parent, changes: [] }, at);
    await bay.change(
      (now) => now,
      jobId,
      { person, kind: 'edit', what: addedInWords(setup) },
      async (tx) => {
        const { job } = await this.store.read(tx, jobId, false);
        const { next } = withAddedSetup(job, { parentId: parent, id: setup.id, changes: [] }, at);
        await this.store.save(tx, bay.row.shopId, jobId, job, next);
        await this.store.touch(tx, jobId);
      },
    );
    const now = bay.run;
    if (now) await this.#startFitting(bay, now, jobId, person, setup.id);
  }

  async #stopFitting(bay: LiveBay, run: BayRun, jobId: string, person: string, asked: StopFitting): Promise<void> {
    mustBe(run, 'fitting');
    const last = bay.job!.day?.fittings.at(-1);
    if (!last) throw new ConflictException('No fitting was started.');
    const stoppedAt = new Date(bay.atMs).toISOString();
    const words: Partial<Fitting> = Object.fromEntries(
      Object.entries(asked.fitting ?? {}).filter(([, v]) => v !== undefined && v !== ''),
    );
    const disturbed = words.disturbed ?? last.disturbed;
    const minutes = Math.round((Date.parse(stoppedAt) - Date.parse(last.startedAt)) / 60_000);
    const what = `Stopped the fitting clock for ${last.setup} after ${minutes} min${disturbed ? `; also disturbed: ${disturbed}` : ''}.`;
    await bay.change(
      (now) => ({ ...now, phase: 'between' }),
      jobId,
      { person, kind: 'fitting', what },
      (tx) =>
        this.store.changeFittings(tx, jobId, (list) =>
          list.map((f) => (f.startedAt === last.startedAt ? { ...f, ...words, stoppedAt } : f)),
        ),
    );
  }
}

/** The number that the next round of a setup bears. */
function nextRound(job: Job, setup: string): number {
  return Math.max(0, ...job.pulls.filter((p) => p.setupId === setup).map((p) => p.round)) + 1;
}

function mustBe(run: BayRun, phase: BayRun['phase']): void {
  const words = {
    round: 'in a round',
    fitting: 'while the fitting clock runs',
    between: 'between rounds',
  };
  if (run.phase !== phase) throw new ConflictException(`That is only possible ${words[phase]}.`);
}

function leaveWords(restored: boolean | undefined): string {
  const aids =
    restored === undefined
      ? 'nobody said whether driver aids are restored'
      : `driver aids ${restored ? 'restored' : 'not restored yet'}`;
  return `Took the car off the rollers; ${aids}.`;
}
