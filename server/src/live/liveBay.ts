import { Logger } from '@nestjs/common';
import {
  armedLimits,
  crossedWords,
  judgePrepared,
  limitsCrossed,
  modelRange,
  pressureFitsElevation,
  preparePulls,
  PullDetector,
  roundProgress,
  type InstrumentStatus,
  type Job,
  type Judgement,
  type LiveSheet,
  type ModelRange,
  type PreparedPull,
} from '@prandel/core';
import type { RollerSample } from '@prandel/formats';
import { eq } from 'drizzle-orm';
import { seenPeaks } from '../baseline/seenPeaks.ts';
import type { Database, Transaction } from '../database/database.ts';
import type { Bay, BayInstruments, BayRun, RecordingPaper } from '../database/papers.ts';
import { bayRuns, jobs, recordings } from '../database/schema.ts';
import { record, type EvidenceEvent } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import { LiveFeed } from './liveFeed.ts';
import type { Link } from './links/link.ts';
import { AuxLink, BusLink, RollersLink, WeatherLink } from './links/links.ts';
import { pullPaper } from './pullPaper.ts';
import { Readings } from './readings.ts';
import { interrupted, recordedChannels, Recording } from './recorder.ts';
import { COOLING_KEYS, Recovery } from './recovery.ts';
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
/** Samples kept from before full throttle. */
const BEFORE_S = 0.6;
const READING_MIN = 10;
const STORE_AGAIN_MS = 500;

/**
 * One bay, live: hears the instruments, finds the pulls, writes every sample before a screen sees it, and works out what
 * the run sheet says. Everything that must survive a restart is in the database; the rest is heard again.
 */
export class LiveBay {
  readonly feed = new LiveFeed();
  readonly #links: Link[] = [];
  readonly #readings = new Readings();
  readonly #detector = new PullDetector();
  readonly #recovery = new Recovery();
  readonly #log = new Logger('Bay');
  #rollerNames: readonly string[] = [];
  #recent: { seconds: number; row: readonly number[] }[] = [];
  #recording: Recording | null = null;
  #pending: number[][] = [];
  #flushing = false;
  #work: Promise<unknown> = Promise.resolve();
  #clock: { atMs: number; heard: number } | null = null;
  #run: BayRun | null = null;
  #jobRow: { id: string; version: number } | null = null;
  #job: Job | null = null;
  #judgement: Judgement | null = null;
  #prepared = new Map<string, PreparedPull>();
  /** What cars of this model have shown in this bay. */
  #range: { readonly jobId: string; readonly range: ModelRange | null } | null = null;
  #review: { pullId: string; until: number } | null = null;
  #gate: GateNow | null = null;
  #lastReadingMs = 0;
  #timers: NodeJS.Timeout[] = [];
  #started = false;
  #stopped = false;
  /** Why samples wait in memory; null while everything is stored. */
  #trouble: string | null = null;

  constructor(
    readonly row: BayRow,
    readonly database: Database,
    private readonly store: JobStore,
  ) {}

  /** Whether this process listens to the bay; another one may lead it. */
  get started(): boolean {
    return this.#started;
  }

  async start(): Promise<void> {
    this.#started = true;
    await this.#work;
    await this.restore();
    const { rollers, weather, bus, aux, registers } = this.row.instruments;
    const heard = (values: Readonly<Record<string, number>>) => this.#hear(values);
    const elevation = this.row.paper.elevationM;
    // A pressure that fits sea level but not this bay's height was reduced to sea level.
    const reduced = (p: number) => elevation !== null && elevation > 400 && !pressureFitsElevation(p, elevation);
    if (rollers)
      this.#links.push(
        new RollersLink(
          rollers,
          (s) => this.#onSamples(s),
          () => this.#onRollersLost(),
        ),
      );
    if (weather) this.#links.push(new WeatherLink(weather, heard, reduced));
    if (bus) this.#links.push(new BusLink(bus, heard));
    if (aux) this.#links.push(new AuxLink(aux, registers, heard));
    for (const link of this.#links) link.open();
    this.#timers = [setInterval(() => this.#tick(), TICK_MS), setInterval(() => this.#flush(), FLUSH_MS)];
  }

  /** Stops listening. A pull that is being recorded stays open in the database; the next start closes it. */
  async stop(): Promise<void> {
    this.#stopped = true;
    for (const timer of this.#timers) clearInterval(timer);
    for (const link of this.#links) link.close();
    this.feed.close();
    await this.#work;
  }

  get run(): BayRun | null {
    return this.#run;
  }

  get job(): Job | null {
    return this.#job;
  }

  get judgement(): Judgement | null {
    return this.#judgement;
  }

  get jobRowId(): string | null {
    return this.#jobRow?.id ?? null;
  }

  /** The bay's clock: the rollers' own, or this machine's where they carry none. */
  get atMs(): number {
    return this.#clock?.atMs ?? Date.now();
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
      for (const { id, jobId, paper } of open)
        await this.#close(tx, jobId, id, paper, 'The server stopped in the middle of this pull.');
      const [run] = await tx.select().from(bayRuns).where(eq(bayRuns.bayId, this.row.id));
      this.#run = run?.run ?? null;
      this.#jobRow = run ? { id: run.jobId, version: -1 } : null;
    });
    if (this.#run?.lastPullEndedAt) this.#recovery.begin(Date.parse(this.#run.lastPullEndedAt));
    await this.reload();
  }

  /** Reads the job again when somebody changed it. */
  async reload(): Promise<void> {
    const at = this.#jobRow;
    if (!at) {
      this.#job = null;
      this.#judgement = null;
      return;
    }
    const read = await this.database.inShop(this.row.shopId, async (tx) => {
      const [row] = await tx.select({ version: jobs.version }).from(jobs).where(eq(jobs.id, at.id));
      const stored = row && row.version !== at.version ? await this.store.read(tx, at.id, true) : null;
      // Other cars do not change while this one is on the rollers: they are looked at once.
      if (stored && this.#range?.jobId !== at.id)
        this.#range = { jobId: at.id, range: modelRange(await seenPeaks(tx, this.store, stored.job, at.id)) };
      return stored;
    });
    if (!read) return;
    this.#jobRow = { id: read.rowId, version: read.version };
    this.#job = read.job;
    const known = this.#prepared;
    this.#prepared = new Map(
      read.job.pulls.map((pull) => {
        const before = known.get(pull.id);
        return [
          pull.id,
          before ? { pull, usable: before.usable } : preparePulls([pull], read.job.bay, read.job.vehicle)[0]!,
        ] as const;
      }),
    );
    this.#judgement = judgePrepared(read.job, [...this.#prepared.values()]);
  }

  /** Stores a change of the run, with what it means for the job's log, and shows it. `null` clears the bay. */
  async change(
    next: BayRun | null,
    jobId: string,
    event: Omit<EvidenceEvent, 'at'> | null,
    more: (tx: Transaction) => Promise<void> = () => Promise.resolve(),
  ): Promise<void> {
    await this.#queue(async () => {
      await this.database.inShop(this.row.shopId, async (tx) => {
        await more(tx);
        if (next)
          await tx
            .insert(bayRuns)
            .values({ bayId: this.row.id, shopId: this.row.shopId, jobId, run: next })
            .onConflictDoUpdate({ target: bayRuns.bayId, set: { jobId, run: next } });
        else await tx.delete(bayRuns).where(eq(bayRuns.bayId, this.row.id));
        if (event) await record(tx, this.row.shopId, jobId, { ...event, at: new Date(this.atMs) });
      });
      this.#run = next;
      if (!next) this.#jobRow = null;
      else if (this.#jobRow?.id !== jobId) {
        this.#jobRow = { id: jobId, version: -1 };
        this.#prepared.clear();
      }
      await this.reload();
    });
    this.#show();
  }

  /** Ends the review: the pull counts as the method says, and its figures may be seen. */
  endReview(): void {
    if (!this.#review) return;
    this.#review = null;
    const run = this.#run;
    const job = this.#job;
    if (run?.phase === 'round' && job && roundProgress(job, run.setup, run.round, run.extraSettle).complete)
      void this.change({ ...run, phase: 'between' }, this.#jobRow!.id, null);
    this.#show();
  }

  get reviewing(): string | null {
    return this.#review?.pullId ?? null;
  }

  #queue<T>(work: () => Promise<T>): Promise<T> {
    const next = this.#work.then(() => (this.#stopped ? (undefined as T) : work()));
    this.#work = next.catch((error: Error) => this.#log.error(error.stack ?? error.message));
    return next;
  }

  /**
   * Stores until it is stored: a full disk or a database that is away costs time, never a sample. What has not been written
   * waits in memory, and the sheet says so.
   */
  async #stored(work: () => Promise<void>): Promise<void> {
    for (;;) {
      try {
        await work();
        this.#trouble = null;
        return;
      } catch (error) {
        if (this.#stopped) throw error;
        this.#trouble ??= (error as Error).message.split('\n')[0]!;
        this.#log.warn(`Not stored yet, tried again: ${this.#trouble}`);
        this.#show();
        await new Promise((again) => setTimeout(again, STORE_AGAIN_MS));
      }
    }
  }

  #moment(): BayMoment {
    const now = performance.now();
    const recording = this.#recording;
    return {
      atMs: this.atMs,
      job: this.#job,
      jobRow: this.#jobRow,
      judgement: this.#judgement,
      range: this.#range?.range ?? null,
      run: this.#run,
      values: this.#readings.aged(),
      instruments: this.instruments,
      recovery: this.#recovery,
      waiting: this.#trouble === null ? 0 : this.#pending.length,
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
    for (const { atMs, channels } of samples) {
      const now = atMs ?? Date.now();
      this.#clock = { atMs: now, heard: performance.now() };
      if (Object.keys(channels).length !== this.#rollerNames.length && !this.#recording)
        this.#rollerNames = Object.keys(channels);
      const row = this.#rollerNames.map((name) => channels[name] ?? NaN);
      const event = this.#detector.push({
        seconds: now / 1000,
        engineRpm: channels.engine_rpm ?? NaN,
        rollerRadS: channels.roller_rad_s ?? NaN,
        throttle: channels.throttle_fraction ?? NaN,
      });
      if (event === 'start') this.#begin(now);
      if (this.#recording) this.#pending.push(this.#fullRow(now, row));
      this.#recent.push({ seconds: now / 1000, row });
      while (now / 1000 - this.#recent[0]!.seconds > BEFORE_S) this.#recent.shift();
      if (event === 'end') this.#finish(null);
    }
    this.#readings.hear(samples.at(-1)!.channels);
    this.#watchLimits();
  }

  #fullRow(nowMs: number, row: readonly number[]): number[] {
    const { channels, startMs } = this.#recording!.paper;
    const held = channels.slice(1 + this.#rollerNames.length);
    return [(nowMs - startMs) / 1000, ...row, ...held.map((name) => this.#readings.now(name) ?? NaN)];
  }

  #begin(nowMs: number): void {
    const job = this.#job;
    const run = this.#run;
    if (!job || !run || !this.#jobRow) return;
    this.endReview();
    const pull = pullPaper(job, run, this.#readings, this.#gate?.verdict ?? null);
    // Held between their own readings, and recorded with every sample of the rollers.
    const held = this.#readings.channels().filter((name) => !this.#rollerNames.includes(name));
    const before = this.#recent;
    const startMs = Math.round((before[0]?.seconds ?? nowMs / 1000) * 1000);
    const paper: RecordingPaper = {
      pull: { ...pull, startedAt: new Date(startMs).toISOString() },
      channels: ['time_s', ...this.#rollerNames, ...held],
      startMs,
    };
    const recording = new Recording(paper);
    this.#recording = recording;
    this.feed.beginPull(pull.id, paper.channels);
    this.#pending = before.map(({ seconds, row }) => this.#fullRow(seconds * 1000, row));
    const jobId = this.#jobRow.id;
    void this.#queue(() => this.#stored(() => recording.begin(this.database, this.row.shopId, this.row.id, jobId)));
    this.#show();
  }

  #flush(): void {
    const recording = this.#recording;
    if (!recording || this.#flushing || this.#pending.length === 0) {
      if (recording && this.#clock && performance.now() - this.#clock.heard > LOST_MS) this.#onRollersLost();
      return;
    }
    const rows = this.#pending;
    this.#pending = [];
    this.#flushing = true;
    void this.#queue(async () => {
      const arrivedMs = Date.now();
      const from = recording.samples;
      await this.#stored(() => recording.write(this.database, this.row.shopId, rows));
      this.feed.samples(recording.paper.pull.id, from, recording.paper.channels, rows, arrivedMs);
    }).finally(() => {
      this.#flushing = false;
    });
  }

  #onRollersLost(): void {
    this.#detector.reset();
    this.#recent = [];
    if (this.#recording) this.#finish('The rollers’ cable was lost in the middle of this pull.');
    this.#show();
  }

  /** Closes the recording: the pull is stored with its samples, its findings are worked out, and review begins. */
  #finish(cut: string | null): void {
    const recording = this.#recording;
    const run = this.#run;
    const jobId = this.#jobRow?.id;
    if (!recording || !run || !jobId) return;
    const rest = this.#pending;
    this.#pending = [];
    this.#recording = null;
    const endMs = this.atMs;
    this.#recovery.begin(endMs);
    void this.#queue(async () => {
      const from = recording.samples;
      await this.#stored(() => recording.write(this.database, this.row.shopId, rest));
      this.feed.samples(recording.paper.pull.id, from, recording.paper.channels, rest, Date.now());
      const now = this.#run ?? run;
      const next: BayRun = {
        ...now,
        override: null,
        lastPullId: recording.paper.pull.id,
        lastPullRound: `${recording.paper.pull.setupId}#${recording.paper.pull.round}`,
        lastPullEndedAt: new Date(endMs).toISOString(),
      };
      await this.#stored(() =>
        this.database.inShop(this.row.shopId, async (tx) => {
          await this.#close(tx, jobId, recording.id, recording.paper, cut);
          await tx.update(bayRuns).set({ run: next }).where(eq(bayRuns.bayId, this.row.id));
        }),
      );
      this.#run = next;
      await this.reload();
      this.#review = { pullId: recording.paper.pull.id, until: performance.now() + REVIEW_MS };
    }).finally(() => {
      this.#gate = gateOf(this.#moment());
      this.#show();
    });
  }

  /** Makes a pull of a recording, in one transaction with its evidence. */
  async #close(tx: Transaction, jobId: string, id: string, paper: RecordingPaper, cut: string | null): Promise<void> {
    const channels = await recordedChannels(tx, id, paper.channels);
    const pull = cut ? interrupted(paper.pull, cut) : paper.pull;
    await this.store.addPulls(tx, this.row.shopId, jobId, [{ ...pull, channels }], null);
    await this.store.touch(tx, jobId);
    const samples = channels[0]?.values.length ?? 0;
    const note = pull.marks?.length ? ` ${pull.marks.join(' ')}` : '';
    await record(tx, this.row.shopId, jobId, {
      person: 'the bay',
      kind: 'pull',
      what: `Recorded pull ${pull.id} as ${pull.status}, ${samples} samples.${note}`,
      detail: { pull: pull.id, intakeStartC: pull.intakeStartC, airC: pull.airC, pressureHpa: pull.pressureHpa },
      at: new Date(Date.parse(pull.startedAt!)),
    });
    await tx.delete(recordings).where(eq(recordings.id, id));
  }

  #watchLimits(): void {
    const run = this.#run;
    const limits = this.#job ? armedLimits(this.#job) : [];
    if (!run || run.stop || limits.length === 0) return;
    const stop = limitsCrossed(limits, this.#readings.fresh()).find((c) => c.level === 'stop');
    if (!stop) return;
    const words = crossedWords(stop);
    const next: BayRun = { ...run, stop: { words, at: new Date(this.atMs).toISOString() } };
    this.#run = next;
    void this.change(next, this.#jobRow!.id, { person: 'the bay', kind: 'alarm', what: `STOP: ${words}` });
  }

  #tick(): void {
    if (this.#review && performance.now() > this.#review.until) this.endReview();
    if (!this.#recording) this.#gate = gateOf(this.#moment(), this.#gate);
    this.#show();
    this.#keepReading();
    if (this.#jobRow && !this.#flushing) void this.#queue(() => this.reload());
  }

  /** Writes the bay's weather into the job every ten minutes of bay time. */
  #keepReading(): void {
    const jobId = this.#jobRow?.id;
    const [airC, pressureHpa] = [this.#readings.now('airC'), this.#readings.now('pressureHpa')];
    if (!jobId || airC === null || pressureHpa === null || this.#recording) return;
    if (this.atMs - this.#lastReadingMs < READING_MIN * 60_000 && this.atMs >= this.#lastReadingMs) return;
    this.#lastReadingMs = this.atMs;
    const at = new Date(this.atMs);
    const relativeHumidity = this.#readings.now('relativeHumidity');
    const reading = { at: at.toISOString(), pressureHpa, airC, relativeHumidity };
    void this.#queue(() =>
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
