import { pressureFitsElevation, type InstrumentStatus, type Job, type Judgement, type LiveSheet } from '@prandel/core';
import { registerMapProblem, type RollerSample } from '@prandel/formats';
import type { Database, Transaction } from '../database/database.ts';
import type { BayRow } from '../bays/bayStore.ts';
import type { BayRun } from '../database/shapes.ts';
import type { EventDetail, EvidenceEvent } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import type { ProjectionsService } from '../projections/projections.service.ts';
import { BayPublisher } from './bayPublisher.ts';
import { BayRecorder } from './bayRecorder.ts';
import { BayTime } from './bayTime.ts';
import { LimitWatch } from './limitWatch.ts';
import type { LiveFeed } from './liveFeed.ts';
import { LiveJob } from './liveJob.ts';
import { LiveRun, type RunChange } from './liveRun.ts';
import type { Link } from './links/link.ts';
import { linksOf } from './links/links.ts';
import { conditionsOf } from './pullDraft.ts';
import { PullSegmenter } from './pullSegmenter.ts';
import { PullKeeper } from './pullKeeper.ts';
import { countQuarantined } from './quarantine.ts';
import { Readings } from './readings.ts';
import { COOLING_KEYS, Recovery } from './recovery.ts';
import { closeCutRecordings } from './restoreBay.ts';
import { RollersTrace } from './rollersTrace.ts';
import { UnclaimedPulls } from './unclaimedPulls.ts';
import { guardedTimer } from './guardedTimer.ts';
import { SerialQueue } from './serialQueue.ts';
import { UntilStored } from './untilStored.ts';
import type { SampleWriter } from './sampleWriter.ts';
import type { GateNow } from './sheet.ts';
import { WeatherLog } from './weatherLog.ts';
import { takeWhole, type WholePull, type WholeTaken } from './wholePull.ts';

const TICK_MS = 250;
const FLUSH_MS = 40;
/** Rollers from which no byte came for this long in the middle of a pull have lost their cable. */
const SILENT_MS = 3000;
/** Bytes that make no sample for this long are as good as none. */
const NO_SAMPLE_MS = 10_000;

/**
 * One bay, live: hears the instruments, finds the pulls and takes its pull state from one to the next. The recorder writes every
 * sample before a screen sees it, the publisher works out what the run sheet says. What must survive a restart is in the database.
 */
export class LiveBay {
  readonly unclaimed = new UnclaimedPulls();
  readonly #links: Link[] = [];
  readonly #readings = new Readings();
  readonly #recovery = new Recovery();
  readonly #queue = new SerialQueue();
  readonly #segmenter = new PullSegmenter(this.#readings, {
    begin: (recorded, whole) => this.#pulls.begin(recorded, whole),
    row: (row) => this.#recorder.open?.push(row),
    end: () => this.#pulls.end(null),
  });
  /** A look at whether somebody changed the job is on its way. */
  #looking = false;
  readonly #time = new BayTime();
  readonly #rollers = new RollersTrace();
  readonly #on: LiveJob;
  readonly #run: LiveRun;
  readonly #recorder: BayRecorder;
  readonly #publisher: BayPublisher;
  readonly #limits: LimitWatch;
  readonly #weather: WeatherLog;
  readonly #pulls: PullKeeper;
  #timers: NodeJS.Timeout[] = [];
  #started = false;
  #quarantined = 0;
  readonly #storing = new UntilStored(() => this.#show());

  constructor(
    readonly row: BayRow,
    readonly database: Database,
    private readonly store: JobStore,
    projections: ProjectionsService,
    writer: SampleWriter,
  ) {
    this.#on = new LiveJob(database, store, projections, row.shopId);
    this.#run = new LiveRun(database, row, this.#on);
    this.#weather = new WeatherLog(database, store, row.shopId, this.#readings);
    this.#limits = new LimitWatch(this.#on, this.#run, this.#readings, (next, event) => this.#insist(next, event));
    this.#publisher = new BayPublisher({
      ...{ on: this.#on, run: this.#run, readings: this.#readings, recovery: this.#recovery },
      ...{ unclaimed: this.unclaimed, time: this.#time, recorder: () => this.#recorder },
      state: () => this.#pulls.state,
      instruments: () => this.instruments,
      waitingSamples: () => this.waitingSamples,
      quarantined: () => this.#quarantined,
    });
    this.#recorder = new BayRecorder({
      id: row.id,
      shopId: row.shopId,
      ...{ database, store, writer },
      queue: this.#queue,
      storing: this.#storing,
      feed: this.feed,
      unclaimed: this.unclaimed,
    });
    this.#pulls = new PullKeeper({
      ...{ on: this.#on, run: this.#run, time: this.#time, readings: this.#readings, recovery: this.#recovery },
      ...{ unclaimed: this.unclaimed, storing: this.#storing, recorder: this.#recorder, publisher: this.#publisher },
      insist: (next, event) => this.#insist(next, event),
      countQuarantined: () => this.countQuarantined(),
    });
  }

  /** What its screens are sent. */
  get feed(): LiveFeed {
    return this.#publisher.feed;
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
          samples: (batch) => this.#onSamples(batch),
          lost: () => this.#onRollersLost(),
          values: (message) => this.#hear(message),
          reduced,
        }),
      );
    for (const link of this.#links) link.open();
    this.#timers = [guardedTimer(TICK_MS, () => this.#tick()), guardedTimer(FLUSH_MS, () => this.#flush())];
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
    return this.#publisher.gate;
  }

  sheet(): LiveSheet {
    return this.#publisher.sheet();
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
    more: (tx: Transaction) => Promise<EventDetail | void> = () => Promise.resolve(),
  ): Promise<void> {
    const at = new Date(this.atMs);
    await this.#queue.take(async () => {
      await this.#run.store(next, jobId, event && { ...event, at }, more);
      if (!this.#run.now) this.#pulls.carLeft();
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
    this.#pulls.endReview();
  }

  get reviewing(): string | null {
    return this.#pulls.reviewing;
  }

  /** What a pull that begins now starts under, as the bay's instruments say. */
  get conditions(): ReturnType<typeof conditionsOf> {
    return conditionsOf(this.#readings);
  }

  /** Takes a pull that came whole, in a file, as the next one of the open round. */
  takeWhole(whole: WholePull): Promise<WholeTaken> {
    const { database, store, row, atMs } = this;
    const around = {
      database,
      store,
      shopId: row.shopId,
      on: this.#on,
      run: this.#run,
      recovery: this.#recovery,
      pulls: this.#pulls,
      atMs,
    };
    return this.#queue
      .take(() => takeWhole(around, whole, this.#recorder.recording !== null))
      .finally(() => this.#show());
  }

  #later(work: () => Promise<void>): void {
    this.#queue.later(work, () => this.#show());
  }

  #hear(values: Readonly<Record<string, number>>): void {
    this.#readings.hear(values);
    for (const key of COOLING_KEYS)
      if (values[key] !== undefined && !this.#recorder.recording) this.#recovery.push(key, this.atMs, values[key]);
    this.#limits.look(this.atMs);
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
    this.#limits.look(this.atMs);
  }

  #flush(): void {
    if (this.#recorder.flush(this.#time.arrivedMs) || !this.pulling || !this.#time.heard) return;
    const rollers = this.#links.find((link) => link.kind === 'rollers');
    if ((rollers?.silentMs ?? 0) > SILENT_MS || this.#time.withoutSampleMs > NO_SAMPLE_MS) this.#onRollersLost();
  }

  #onRollersLost(): void {
    if (this.#recorder.recording) this.#pulls.end('The rollers’ cable was lost in the middle of this pull.');
    this.#segmenter.lost();
    this.#show();
  }

  #tick(): void {
    this.#pulls.tick();
    if (!this.#recorder.recording) this.#publisher.look();
    this.#show();
    this.#keepWeather();
    if (!this.#on.row || this.#recorder.flushing || this.#looking) return;
    this.#looking = true;
    const done = () => void (this.#looking = false);
    this.#queue.later(() => this.#on.reload(), done);
  }

  #keepWeather(): void {
    const jobId = this.#on.row?.id;
    if (!jobId || this.#recorder.recording) return;
    const work = this.#weather.due(jobId, this.atMs);
    if (work) this.#later(work);
  }

  #show(): void {
    this.#publisher.show();
  }
}
