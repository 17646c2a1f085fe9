import {
  armedLimits,
  crossedWords,
  limitsCrossed,
  pressureFitsElevation,
  roundProgress,
  type InstrumentStatus,
  type Job,
  type Judgement,
  type LiveSheet,
} from '@prandel/core';
import type { RollerSample } from '@prandel/formats';
import { eq, inArray } from 'drizzle-orm';
import type { Database, Transaction } from '../database/database.ts';
import type { Bay, BayInstruments, BayRun, RecordingPaper } from '../database/papers.ts';
import { recordings } from '../database/schema.ts';
import { record, type EvidenceEvent } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import { LiveFeed } from './liveFeed.ts';
import { LiveJob } from './liveJob.ts';
import { LiveRun, type RunChange } from './liveRun.ts';
import type { Link } from './links/link.ts';
import { linksOf } from './links/links.ts';
import { PullCatcher } from './pullCatcher.ts';
import { conditionsOf, pullPaper } from './pullPaper.ts';
import { Readings } from './readings.ts';
import { closeRecording, marked, Recording } from './recorder.ts';
import { COOLING_KEYS, Recovery } from './recovery.ts';
import { StrayPulls } from './strayPulls.ts';
import { Turns } from './turns.ts';
import { UntilStored } from './untilStored.ts';
import { gateOf, sheetOf, type BayMoment, type GateNow } from './sheet.ts';

export interface BayRow {
  readonly id: string;
  readonly shopId: string;
  readonly label: string;
  readonly paper: Bay;
  readonly instruments: BayInstruments;
}

const TICK_MS = 250;
const FLUSH_MS = 40;
const REVIEW_MS = 10_000;
/** Rollers that say nothing for this long in the middle of a pull have lost their cable. */
const LOST_MS = 3000;
const READING_MIN = 10;

/**
 * One bay, live: hears the instruments, finds the pulls, writes every sample before a screen sees it, and works out what
 * the run sheet says. Everything that must survive a restart is in the database; the rest is heard again.
 */
export class LiveBay {
  readonly feed = new LiveFeed();
  readonly strays = new StrayPulls();
  readonly #links: Link[] = [];
  readonly #readings = new Readings();
  readonly #recovery = new Recovery();
  readonly #turns = new Turns();
  readonly #catcher = new PullCatcher(this.#readings, {
    begin: (paper) => this.#begin(paper),
    row: (row) => this.#open?.push(row),
    end: () => this.#finish(null),
  });
  #recording: Recording | null = null;
  #flushing = false;
  /** Samples of pulls that have ended and are not stored yet. */
  #closing = 0;
  /** A look at whether somebody changed the job is on its way. */
  #looking = false;
  #clock: { atMs: number; heard: number; wallMs: number } | null = null;
  readonly #on: LiveJob;
  readonly #run: LiveRun;
  #review: { pullId: string; until: number } | null = null;
  #gate: GateNow | null = null;
  #lastReadingMs = 0;
  #timers: NodeJS.Timeout[] = [];
  #started = false;
  readonly #storing = new UntilStored(() => this.#show());

  constructor(
    readonly row: BayRow,
    readonly database: Database,
    private readonly store: JobStore,
  ) {
    this.#on = new LiveJob(database, store, row.shopId);
    this.#run = new LiveRun(database, row, this.#on);
  }

  /** Whether this process listens to the bay; another one may lead it. */
  get started(): boolean {
    return this.#started;
  }

  async start(): Promise<void> {
    this.#started = true;
    await this.#turns.done();
    await this.restore();
    const elevation = this.row.paper.elevationM;
    // A pressure that fits sea level but not this bay's height was reduced to sea level.
    const reduced = (p: number) => elevation !== null && elevation > 400 && !pressureFitsElevation(p, elevation);
    this.#links.push(
      ...linksOf(this.row.instruments, {
        samples: (told) => this.#onSamples(told),
        lost: () => this.#onRollersLost(),
        values: (told) => this.#hear(told),
        reduced,
      }),
    );
    for (const link of this.#links) link.open();
    this.#timers = [setInterval(() => this.#tick(), TICK_MS), setInterval(() => this.#flush(), FLUSH_MS)];
  }

  /** Stops listening. A pull that is being recorded stays open in the database; the next start closes it. */
  async stop(): Promise<void> {
    this.#turns.stop();
    this.#storing.stop();
    for (const timer of this.#timers) clearInterval(timer);
    for (const link of this.#links) link.close();
    this.feed.close();
    await this.#turns.done();
  }

  get run(): BayRun | null {
    return this.#run.now;
  }

  get job(): Job | null {
    return this.#on.job;
  }

  get judgement(): Judgement | null {
    return this.#on.judgement;
  }

  get jobRowId(): string | null {
    return this.#on.row?.id ?? null;
  }

  /** The bay's clock: the rollers' own, or this machine's where they carry none. */
  get atMs(): number {
    return this.#clock?.atMs ?? Date.now();
  }

  /** Whether a pull is being recorded right now, for a job or without one. */
  get pulling(): boolean {
    return this.#open !== null;
  }

  get #open(): Recording | null {
    return this.#recording ?? this.strays.open;
  }

  get instruments(): InstrumentStatus[] {
    return this.#links.map((link) => link.status);
  }

  get gate(): GateNow | null {
    return this.#gate;
  }

  sheet(): LiveSheet {
    return sheetOf(this.#moment(), this.#gate);
  }

  /** Reads the run and its job; a recording that was cut off by a stop of the server becomes a pull, set aside. */
  async restore(): Promise<void> {
    await this.database.inShop(this.row.shopId, async (tx) => {
      const open = await tx.select().from(recordings).where(eq(recordings.bayId, this.row.id));
      const cut = 'The server stopped in the middle of this pull.';
      for (const { id, jobId, paper } of open)
        if (jobId !== null) await closeRecording(tx, this.store, this.row.shopId, jobId, { id, paper, cut });
      this.strays.restore(open.filter(({ jobId }) => jobId === null));
      await this.#run.read(tx);
    });
    const ended = this.#run.now?.lastPullEndedAt;
    if (ended) this.#recovery.begin(Date.parse(ended));
    await this.#on.reload();
  }

  /**
   * Stores a change of the run, with what it means for the job's log, and shows it. `null` clears the bay; a function is given
   * the run as it is when its turn comes, so that nothing that happened meanwhile is undone.
   */
  async change(
    next: RunChange,
    jobId: string,
    event: Omit<EvidenceEvent, 'at'> | null,
    more: (tx: Transaction) => Promise<void> = () => Promise.resolve(),
  ): Promise<void> {
    const at = new Date(this.atMs);
    await this.#turns.take(async () => {
      await this.#run.store(next, jobId, event && { ...event, at }, more);
      // A car that left takes with it what was still to be judged of its last pull: it counts as the method says.
      if (!this.#run.now) this.#review = null;
      await this.#on.reload();
    });
    this.#show();
  }

  /** What the bay itself finds is stored as soon as anything can be. */
  #insist(next: (now: BayRun) => BayRun, event: Omit<EvidenceEvent, 'at'> | null): void {
    const jobId = this.#on.row?.id;
    if (jobId === undefined) return;
    const at = new Date(this.atMs);
    this.#later(async () => {
      // The car may have left before its turn came.
      if (this.#on.row?.id !== jobId) return;
      await this.#storing.run(() => this.#run.store(next, jobId, event && { ...event, at }));
      await this.#storing.run(() => this.#on.reload());
    });
  }

  /** Ends the review: the pull counts as the method says, and its figures may be seen. */
  endReview(): void {
    if (!this.#review) return;
    this.#review = null;
    const run = this.#run.now;
    const { job } = this.#on;
    if (run?.phase === 'round' && job && roundProgress(job, run.setup, run.round, run.extraSettle).complete)
      this.#insist((now) => ({ ...now, phase: 'between' }), null);
    this.#show();
  }

  get reviewing(): string | null {
    return this.#review?.pullId ?? null;
  }

  #later(work: () => Promise<void>): void {
    this.#turns.later(work, () => this.#show());
  }

  #moment(): BayMoment {
    const now = performance.now();
    const recording = this.#recording;
    return {
      atMs: this.atMs,
      job: this.#on.job,
      jobRow: this.#on.row,
      judgement: this.#on.judgement,
      range: this.#on.range,
      run: this.#run.now,
      strays: this.strays.waiting(this.atMs),
      values: this.#readings.aged(),
      instruments: this.instruments,
      recovery: this.#recovery,
      waiting: this.#storing.trouble === null ? 0 : (recording?.waiting ?? 0) + this.#closing,
      recording: recording ? { pullId: recording.paper.pull.id, samples: recording.samples } : null,
      review: this.#review
        ? { pullId: this.#review.pullId, leftS: Math.max(0, (this.#review.until - now) / 1000) }
        : null,
    };
  }

  #hear(values: Readonly<Record<string, number>>): void {
    this.#readings.hear(values);
    for (const key of COOLING_KEYS)
      if (values[key] !== undefined && !this.#recording) this.#recovery.push(key, this.atMs, values[key]);
    this.#watchLimits();
  }

  #onSamples(samples: readonly RollerSample[]): void {
    for (const sample of samples) {
      const atMs = sample.atMs ?? Date.now();
      this.#clock = { atMs, heard: performance.now(), wallMs: Date.now() };
      this.#catcher.push(sample, atMs);
    }
    this.#readings.hear(samples.at(-1)!.channels);
    this.#watchLimits();
  }

  #begin({ channels, startMs }: Pick<RecordingPaper, 'channels' | 'startMs'>): void {
    const { job } = this.#on;
    const run = this.#run.now;
    if (!job || !run || !this.#on.row) {
      this.#store(this.strays.begin(conditionsOf(this.#readings), { startMs, channels }), null);
      return;
    }
    this.endReview();
    const pull = pullPaper(job, run, this.#readings, this.#gate?.verdict ?? null);
    const paper = { pull: { ...pull, startedAt: new Date(startMs).toISOString() }, channels, startMs };
    const recording = new Recording(paper);
    this.#recording = recording;
    this.feed.beginPull(pull.id, channels);
    this.#store(recording, this.#on.row.id);
    this.#show();
  }

  #store(recording: Recording, jobId: string | null): void {
    this.#later(() => this.#storing.run(() => recording.begin(this.database, this.row.shopId, this.row.id, jobId)));
  }

  #flush(): void {
    const recording = this.#open;
    if (!recording || this.#flushing || recording.waiting === 0) {
      if (recording && this.#clock && performance.now() - this.#clock.heard > LOST_MS) this.#onRollersLost();
      return;
    }
    const rows = recording.take();
    const arrivedMs = this.#clock?.wallMs ?? Date.now();
    this.#flushing = true;
    this.#turns.later(
      async () => {
        const from = recording.samples;
        await this.#storing.run(() => recording.write(this.database, this.row.shopId, rows));
        // A pull without a job is on no screen.
        if (recording.paper.pull.setupId)
          this.feed.samples(recording.paper.pull.id, from, recording.paper.channels, rows, arrivedMs);
      },
      () => {
        this.#flushing = false;
      },
    );
  }

  #onRollersLost(): void {
    if (this.#recording) this.#finish('The rollers’ cable was lost in the middle of this pull.');
    this.#catcher.lost();
    this.#show();
  }

  /** Closes the recording: the pull is stored with its samples, its findings are worked out, and review begins. */
  #finish(cut: string | null): void {
    this.#finishStray();
    const recording = this.#recording;
    const run = this.#run.now;
    const jobId = this.#on.row?.id;
    if (!recording || !run || !jobId) return;
    const rest = recording.take();
    const arrivedMs = this.#clock?.wallMs ?? Date.now();
    this.#recording = null;
    const endMs = this.atMs;
    // A limit that was crossed while the samples came belongs to this pull, whatever became of it.
    const stopped = run.stop !== null && Date.parse(run.stop.at) >= recording.paper.startMs;
    const paper = stopped ? marked(recording.paper, `STOP: ${run.stop.words}`) : recording.paper;
    this.#recovery.begin(endMs);
    this.#closing += rest.length;
    this.#later(async () => {
      const from = recording.samples;
      await this.#storing.run(() => recording.write(this.database, this.row.shopId, rest));
      this.feed.samples(recording.paper.pull.id, from, recording.paper.channels, rest, arrivedMs);
      const now = this.#run.now ?? run;
      const next: BayRun = {
        ...now,
        override: null,
        lastPullId: recording.paper.pull.id,
        lastPullRound: `${recording.paper.pull.setupId}#${recording.paper.pull.round}`,
        lastPullEndedAt: new Date(endMs).toISOString(),
      };
      await this.#storing.run(() =>
        this.database.inShop(this.row.shopId, async (tx) => {
          await closeRecording(tx, this.store, this.row.shopId, jobId, { id: recording.id, paper, cut });
          await this.#run.keep(tx, next);
        }),
      );
      this.#run.show(next);
      this.#closing -= rest.length;
      await this.#storing.run(() => this.#on.reload());
      this.#review = { pullId: recording.paper.pull.id, until: performance.now() + REVIEW_MS };
      this.#gate = gateOf(this.#moment());
    });
  }

  #finishStray(): void {
    const stray = this.strays.end();
    if (!stray) return;
    const rest = stray.take();
    this.#later(async () => {
      await this.#storing.run(() => stray.write(this.database, this.row.shopId, rest));
      const tooMany = this.strays.keep(stray).map(({ id }) => id);
      if (tooMany.length === 0) return;
      await this.#storing.run(() =>
        this.database.inShop(this.row.shopId, async (tx) => {
          await tx.delete(recordings).where(inArray(recordings.id, tooMany));
        }),
      );
    });
  }

  #watchLimits(): void {
    const run = this.#run.now;
    const limits = this.#on.job ? armedLimits(this.#on.job) : [];
    if (!run || run.stop || limits.length === 0) return;
    const stop = limitsCrossed(limits, this.#readings.fresh()).find((c) => c.level === 'stop');
    if (!stop) return;
    const words = crossedWords(stop);
    const stopped = { words, at: new Date(this.atMs).toISOString() };
    this.#run.show({ ...run, stop: stopped });
    this.#insist((now) => ({ ...now, stop: stopped }), { person: 'the bay', kind: 'alarm', what: `STOP: ${words}` });
  }

  #tick(): void {
    if (this.#review && performance.now() > this.#review.until) this.endReview();
    if (!this.#recording) this.#gate = gateOf(this.#moment(), this.#gate);
    this.#show();
    this.#keepReading();
    if (this.#on.row && !this.#flushing && !this.#looking) {
      this.#looking = true;
      this.#turns.later(
        () => this.#on.reload(),
        () => {
          this.#looking = false;
        },
      );
    }
  }

  /** Writes the bay's weather into the job every ten minutes of bay time. */
  #keepReading(): void {
    const jobId = this.#on.row?.id;
    const [airC, pressureHpa] = [this.#readings.now('airC'), this.#readings.now('pressureHpa')];
    if (!jobId || airC === null || pressureHpa === null || this.#recording) return;
    if (this.atMs - this.#lastReadingMs < READING_MIN * 60_000 && this.atMs >= this.#lastReadingMs) return;
    this.#lastReadingMs = this.atMs;
    const at = new Date(this.atMs);
    const relativeHumidity = this.#readings.now('relativeHumidity');
    const reading = { at: at.toISOString(), pressureHpa, airC, relativeHumidity };
    this.#later(() =>
      this.database.inShop(this.row.shopId, async (tx) => {
        await this.store.addWeather(tx, jobId, reading);
        const what = `Weather: ${airC.toFixed(1)} °C, ${pressureHpa.toFixed(1)} hPa.`;
        await record(tx, this.row.shopId, jobId, { person: 'the bay', kind: 'reading', what, at, detail: reading });
      }),
    );
  }

  #show(): void {
    this.feed.sheet(this.sheet());
  }
}
