import {
  armedLimits,
  limitsCrossed,
  pressureFitsElevation,
  roundProgress,
  type InstrumentStatus,
  type Job,
  type Judgement,
  type LiveSheet,
} from '@prandel/core';
import { crossedWords } from '@prandel/presentation';
import { registerMapProblem, type RollerSample } from '@prandel/formats';
import { Logger } from '@nestjs/common';
import { loggable } from '../database/faults.ts';
import type { Database, Transaction } from '../database/database.ts';
import type { BayRow } from '../bays/bayStore.ts';
import type { BayRun, RecordingDraft } from '../database/shapes.ts';
import { record, type EvidenceEvent } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import type { ProjectionsService } from '../projections/projections.service.ts';
import { BayRecorder } from './bayRecorder.ts';
import { BayTime } from './bayTime.ts';
import { LiveFeed } from './liveFeed.ts';
import { LiveJob } from './liveJob.ts';
import { LiveRun, type RunChange } from './liveRun.ts';
import type { Link } from './links/link.ts';
import { linksOf } from './links/links.ts';
import { PullSegmenter } from './pullSegmenter.ts';
import { conditionsOf, pullDraft } from './pullDraft.ts';
import { countQuarantined } from './quarantine.ts';
import { Readings } from './readings.ts';
import { interrupted, Recording } from './recorder.ts';
import { COOLING_KEYS, Recovery } from './recovery.ts';
import { closeCutRecordings } from './restoreBay.ts';
import { RollersTrace } from './rollersTrace.ts';
import { UnclaimedPulls } from './unclaimedPulls.ts';
import { SerialQueue } from './serialQueue.ts';
import { UntilStored } from './untilStored.ts';
import { gateOf, sheetOf, type BayMoment, type GateNow } from './sheet.ts';

const TICK_MS = 250;
const FLUSH_MS = 40;
const REVIEW_MS = 10_000;
/** Rollers from which no byte came for this long in the middle of a pull have lost their cable. */
const SILENT_MS = 3000;
/** Bytes that make no sample for this long are as good as none. */
const NO_SAMPLE_MS = 10_000;
const READING_MIN = 10;

/**
 * One bay, live: hears the instruments, finds the pulls, writes every sample before a screen sees it, and works out what
 * the run sheet says. Everything that must survive a restart is in the database; the rest is heard again.
 */
export class LiveBay {
  readonly feed = new LiveFeed();
  readonly unclaimed = new UnclaimedPulls();
  readonly #log = new Logger('Bay');
  readonly #links: Link[] = [];
  readonly #readings = new Readings();
  readonly #recovery = new Recovery();
  readonly #queue = new SerialQueue();
  readonly #segmenter = new PullSegmenter(this.#readings, {
    begin: (recorded, whole) => this.#begin(recorded, whole),
    row: (row) => this.#recorder.open?.push(row),
    end: () => this.#finish(null),
  });
  /** A look at whether somebody changed the job is on its way. */
  #looking = false;
  readonly #time = new BayTime();
  readonly #rollers = new RollersTrace();
  readonly #on: LiveJob;
  readonly #run: LiveRun;
  readonly #recorder: BayRecorder;
  #review: { pullId: string; until: number } | null = null;
  #gate: GateNow | null = null;
  /** The override that let the last pull through; it lets no second one through, also before that is stored. */
  #usedOverride: BayRun['override'] = null;
  #lastReadingMs = 0;
  #timers: NodeJS.Timeout[] = [];
  #started = false;
  #quarantined = 0;
  readonly #storing = new UntilStored(() => this.#show());

  constructor(
    readonly row: BayRow,
    readonly database: Database,
    private readonly store: JobStore,
    projections: ProjectionsService,
  ) {
    this.#on = new LiveJob(database, store, projections, row.shopId);
    this.#run = new LiveRun(database, row, this.#on);
    this.#recorder = new BayRecorder({
      id: row.id,
      shopId: row.shopId,
      database,
      store,
      queue: this.#queue,
      storing: this.#storing,
      feed: this.feed,
      unclaimed: this.unclaimed,
    });
  }

  /** Whether this process listens to the bay; another one may lead it. */
  get started(): boolean {
    return this.#started;
  }

  /** Why the bay cannot listen to its instruments; null: it can. */
  get notConfigured(): string | null {
    const { aux, registers } = this.row.instruments;
    const problem = aux ? registerMapProblem(registers) : null;
    return (
      problem &&
      `The register map of the auxiliary channels is not usable: ${problem}. Save the bay with a correct one.`
    );
  }

  async start(): Promise<void> {
    await this.#queue.done();
    await this.restore();
    this.#started = true;
    const elevation = this.row.rollers.elevationM;
    // A pressure that fits sea level but not this bay's height was reduced to sea level.
    const reduced = (p: number) => elevation !== null && elevation > 400 && !pressureFitsElevation(p, elevation);
    if (this.notConfigured === null)
      this.#links.push(
        ...linksOf(this.row.instruments, {
          samples: (told) => this.#onSamples(told),
          lost: () => this.#onRollersLost(),
          values: (told) => this.#hear(told),
          reduced,
        }),
      );
    for (const link of this.#links) link.open();
    this.#timers = [this.#every(TICK_MS, () => this.#tick()), this.#every(FLUSH_MS, () => this.#flush())];
  }

  /** A timer whose work may fail without ending the process, and with it every other bay. */
  #every(ms: number, work: () => void): NodeJS.Timeout {
    return setInterval(() => {
      try {
        work();
      } catch (error) {
        this.#log.error(loggable(error));
      }
    }, ms);
  }

  /** Stops listening. A pull that is being recorded stays open in the database; the next start closes it. */
  async stop(): Promise<void> {
    this.#queue.stop();
    this.#storing.stop();
    for (const timer of this.#timers) clearInterval(timer);
    for (const link of this.#links) link.close();
    this.feed.close();
    await this.#queue.done();
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
    return this.#time.atMs;
  }

  /** Samples that nothing could store yet. */
  get waitingSamples(): number {
    return this.#storing.fault === null ? 0 : this.#recorder.waiting;
  }

  /** Recordings that wait for a person. */
  get quarantined(): number {
    return this.#quarantined;
  }

  /** Whether a pull is being recorded right now, for a job or without one. */
  get pulling(): boolean {
    return this.#recorder.open !== null;
  }

  get instruments(): InstrumentStatus[] {
    return this.#links.map((link) => link.status);
  }

  /** Roller speed of the last minutes. */
  rollersTrace(): { timeS: number[]; rollerRadS: number[] } {
    return this.#rollers.read();
  }

  get gate(): GateNow | null {
    return this.#gate;
  }

  sheet(): LiveSheet {
    return sheetOf(this.#moment(), this.#gate);
  }

  /** Reads the run and its job; a recording that was cut off by a stop of the server becomes a pull, set aside. */
  async restore(): Promise<void> {
    const { database, store, row } = this;
    this.unclaimed.restore(await closeCutRecordings({ database, store }, row, this.#run));
    await this.countQuarantined();
    const ended = this.#run.now?.lastPullEndedAt;
    if (ended) this.#recovery.begin(Date.parse(ended));
    await this.#on.reload();
  }

  /** Counts the recordings that wait for a person; asked for after one of them was dealt with. */
  async countQuarantined(): Promise<void> {
    this.#quarantined = await this.database.inShop(this.row.shopId, (tx) => countQuarantined(tx, this.row.id));
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
    await this.#queue.take(async () => {
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
    this.#queue.later(work, () => this.#show());
  }

  #moment(): BayMoment {
    const now = performance.now();
    const { recording } = this.#recorder;
    return {
      atMs: this.atMs,
      job: this.#on.job,
      jobRow: this.#on.row,
      judgement: this.#on.judgement,
      range: this.#on.range,
      run: this.#run.now,
      unclaimed: this.unclaimed.waiting(this.atMs),
      values: this.#readings.aged(),
      instruments: this.instruments,
      recovery: this.#recovery,
      waiting: this.waitingSamples,
      quarantined: this.#quarantined,
      recording: recording ? { pullId: recording.pull?.id ?? '', samples: recording.samples } : null,
      review: this.#review
        ? { pullId: this.#review.pullId, leftS: Math.max(0, (this.#review.until - now) / 1000) }
        : null,
    };
  }

  #hear(values: Readonly<Record<string, number>>): void {
    this.#readings.hear(values);
    for (const key of COOLING_KEYS)
      if (values[key] !== undefined && !this.#recorder.recording) this.#recovery.push(key, this.atMs, values[key]);
    this.#watchLimits();
  }

  #onSamples(samples: readonly RollerSample[]): void {
    const ended = this.#run.now?.lastPullEndedAt;
    const floorMs = ended ? Date.parse(ended) : null;
    for (const sample of samples) {
      const clockSet = this.#time.take(sample.atMs, this.pulling, floorMs);
      if (clockSet !== null) this.#recorder.open?.mark(clockSet);
      const speed = sample.channels.roller_rad_s;
      if (speed !== undefined) this.#rollers.push(this.#time.atMs, speed);
      this.#segmenter.push(sample, this.#time.atMs);
    }
    this.#readings.hear(samples.at(-1)!.channels);
    this.#watchLimits();
  }

  #begin({ channels, startMs }: Pick<RecordingDraft, 'channels' | 'startMs'>, whole: boolean): void {
    const { job } = this.#on;
    const run = this.#run.now;
    const jobId = this.#on.row?.id;
    if (!job || !run || jobId === undefined) {
      this.#recorder.begin(
        this.#marked(this.unclaimed.begin(conditionsOf(this.#readings), { startMs, channels })),
        null,
      );
      return;
    }
    this.endReview();
    const override = run.override === this.#usedOverride ? null : run.override;
    this.#usedOverride = run.override;
    const start = {
      run: { ...run, override },
      startMs,
      conditions: conditionsOf(this.#readings),
      gate: this.#gate?.verdict ?? null,
    };
    // By the time the database answers, an earlier pull may have taken the place that is free now.
    const draft = () => {
      const pull = pullDraft(this.#on.job ?? job, start);
      return whole ? pull : interrupted(pull, 'The bay began to listen in the middle of this pull.');
    };
    this.#recorder.begin(this.#marked(new Recording({ channels, startMs }, draft)), jobId);
    this.#show();
  }

  #marked(recording: Recording): Recording {
    const mark = this.#time.markFor(recording.startMs);
    if (mark !== null) recording.mark(mark);
    return recording;
  }

  #flush(): void {
    if (this.#recorder.flush(this.#time.arrivedMs) || !this.pulling || !this.#time.heard) return;
    const rollers = this.#links.find((link) => link.kind === 'rollers');
    if ((rollers?.silentMs ?? 0) > SILENT_MS || this.#time.withoutSampleMs > NO_SAMPLE_MS) this.#onRollersLost();
  }

  #onRollersLost(): void {
    if (this.#recorder.recording) this.#finish('The rollers’ cable was lost in the middle of this pull.');
    this.#segmenter.lost();
    this.#show();
  }

  /** Closes the recording: the pull is stored with its samples, its findings are worked out, and review begins. */
  #finish(cut: string | null): void {
    this.#recorder.endUnclaimed();
    const { recording } = this.#recorder;
    const run = this.#run.now;
    const jobId = this.#on.row?.id;
    if (!recording || !run || !jobId) return;
    const endMs = this.atMs;
    // A limit that was crossed while the samples came belongs to this pull, whatever became of it.
    if (run.stop !== null && Date.parse(run.stop.at) >= recording.startMs)
      recording.mark(`STOP: ${crossedWords(run.stop.crossed)}`);
    this.#recovery.begin(endMs);
    const { setup, round } = run;
    this.#recorder.end({
      jobId,
      cut,
      arrivedMs: this.#time.arrivedMs,
      keep: (pullKey) => ({
        ...(this.#run.now ?? run),
        // One that was given meanwhile is for the pull that comes.
        override: this.#run.now?.override === this.#usedOverride ? null : (this.#run.now?.override ?? null),
        ...(pullKey === null ? {} : { lastPullId: pullKey }),
        lastPullRound: `${setup}#${round}`,
        lastPullEndedAt: new Date(endMs).toISOString(),
      }),
      store: (tx, next) => this.#run.keep(tx, next),
      stored: async (next, pullKey) => {
        this.#run.show(next);
        if (pullKey === null) await this.countQuarantined().catch(() => undefined);
        await this.#storing.run(() => this.#on.reload());
        if (pullKey !== null) this.#review = { pullId: pullKey, until: performance.now() + REVIEW_MS };
        this.#gate = gateOf(this.#moment());
      },
    });
  }

  #watchLimits(): void {
    const run = this.#run.now;
    const limits = this.#on.job ? armedLimits(this.#on.job) : [];
    if (!run || run.stop || limits.length === 0) return;
    const crossed = limitsCrossed(limits, this.#readings.fresh()).find((c) => c.level === 'stop');
    if (!crossed) return;
    const stopped = { crossed, at: new Date(this.atMs).toISOString() };
    this.#run.show({ ...run, stop: stopped });
    this.#insist((now) => ({ ...now, stop: stopped }), {
      person: 'the bay',
      kind: 'alarm',
      what: `STOP: ${crossedWords(crossed)}`,
    });
  }

  #tick(): void {
    if (this.#review && performance.now() > this.#review.until) this.endReview();
    if (!this.#recorder.recording) this.#gate = gateOf(this.#moment(), this.#gate);
    this.#show();
    this.#keepReading();
    if (this.#on.row && !this.#recorder.flushing && !this.#looking) {
      this.#looking = true;
      this.#queue.later(
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
    if (!jobId || airC === null || pressureHpa === null || this.#recorder.recording) return;
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
