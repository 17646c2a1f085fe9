import { roundProgress } from '@prandel/core';
import { crossedWords } from '@prandel/presentation';
import type { BayRun, RecordingDraft } from '../database/shapes.ts';
import type { BayPublisher } from './bayPublisher.ts';
import type { BayRecorder } from './bayRecorder.ts';
import type { BayTime } from './bayTime.ts';
import type { Insist } from './limitWatch.ts';
import type { LiveJob } from './liveJob.ts';
import type { LiveRun } from './liveRun.ts';
import { conditionsOf, pullDraft } from './pullDraft.ts';
import { nextPullState, reviewOver, type PullEvent, type PullState } from './pullState.ts';
import type { Readings } from './readings.ts';
import { interrupted, Recording } from './recorder.ts';
import type { Recovery } from './recovery.ts';
import type { UnclaimedPulls } from './unclaimedPulls.ts';
import type { UntilStored } from './untilStored.ts';

const REVIEW_MS = 10_000;

/** What a pull on its way through the bay touches. */
export interface PullSurroundings {
  readonly on: LiveJob;
  readonly run: LiveRun;
  readonly time: BayTime;
  readonly readings: Readings;
  readonly recovery: Recovery;
  readonly unclaimed: UnclaimedPulls;
  readonly storing: UntilStored;
  readonly recorder: BayRecorder;
  readonly publisher: BayPublisher;
  readonly insist: Insist;
  readonly countQuarantined: () => Promise<void>;
}

/** Takes a pull through the states of the bay: begun, ended, stored, reviewed. */
export class PullKeeper {
  #state: PullState = { name: 'waiting' };
  /** The override that let the last pull through; it lets no second one through, also before that is stored. */
  #usedOverride: BayRun['override'] = null;

  constructor(private readonly bay: PullSurroundings) {}

  get state(): PullState {
    return this.#state;
  }

  /** The pull that may still be set aside before its figures are seen. */
  get reviewing(): string | null {
    return this.#state.name === 'review' ? this.#state.pullId : null;
  }

  begin({ channels, startMs }: Pick<RecordingDraft, 'channels' | 'startMs'>, whole: boolean): void {
    const { on, run: runs, readings, unclaimed, recorder, publisher } = this.bay;
    const { job } = on;
    const run = runs.now;
    const jobId = on.row?.id;
    if (!job || !run || jobId === undefined) {
      recorder.begin(this.#marked(unclaimed.begin(conditionsOf(readings), { startMs, channels })), null);
      return;
    }
    this.endReview();
    const override = run.override === this.#usedOverride ? null : run.override;
    this.#usedOverride = run.override;
    const start = {
      run: { ...run, override },
      startMs,
      conditions: conditionsOf(readings),
      gate: publisher.gate?.verdict ?? null,
      heldS: publisher.holds.take(startMs),
    };
    // By the time the database answers, an earlier pull may have taken the place that is free now.
    const draft = () => {
      const pull = pullDraft(on.job ?? job, start);
      return whole ? pull : interrupted(pull, 'The bay began to listen in the middle of this pull.');
    };
    recorder.begin(this.#marked(new Recording({ channels, startMs }, draft)), jobId);
    this.#happened({ name: 'begun' });
    publisher.show();
  }

  /** Closes the recording: the pull is stored with its samples, its findings are worked out, and review begins. */
  end(cut: string | null): void {
    const { on, run: runs, time, recovery, recorder, storing, publisher } = this.bay;
    recorder.endUnclaimed();
    const { recording } = recorder;
    const run = runs.now;
    const jobId = on.row?.id;
    if (!recording || !run || !jobId) return;
    const endMs = time.atMs;
    // A limit that was crossed while the samples came belongs to this pull, whatever became of it.
    if (run.stop !== null && Date.parse(run.stop.at) >= recording.startMs)
      recording.mark(`STOP: ${crossedWords(run.stop.crossed)}`);
    recovery.begin(endMs);
    const { setup, round } = run;
    this.#happened({ name: 'ended' });
    recorder.end({
      jobId,
      cut,
      arrivedMs: time.arrivedMs,
      keep: (pullKey) => ({
        ...(runs.now ?? run),
        // One that was given meanwhile is for the pull that comes.
        override: runs.now?.override === this.#usedOverride ? null : (runs.now?.override ?? null),
        ...(pullKey === null ? {} : { lastPullId: pullKey }),
        lastPullRound: `${setup}#${round}`,
        lastPullEndedAt: new Date(endMs).toISOString(),
      }),
      store: (tx, next) => runs.keep(tx, next),
      stored: async (next, pullKey) => {
        runs.show(next);
        if (pullKey === null) await this.bay.countQuarantined().catch(() => undefined);
        await storing.run(() => on.reload());
        const untilMs = performance.now() + REVIEW_MS;
        this.#happened(pullKey === null ? { name: 'refused' } : { name: 'stored', pullId: pullKey, untilMs });
        publisher.lookAnew();
      },
    });
  }

  /** A pull that came whole is stored already: its review begins. */
  tookWhole(pullId: string): void {
    this.endReview();
    this.#happened({ name: 'begun' });
    this.#happened({ name: 'ended' });
    this.#happened({ name: 'stored', pullId, untilMs: performance.now() + REVIEW_MS });
    // What held before it is not what holds the next one.
    this.bay.publisher.holds.take(this.bay.time.atMs);
    this.bay.publisher.lookAnew();
  }

  /** Ends the review: the pull counts as the method says, and its figures may be seen. */
  endReview(): void {
    if (this.#state.name !== 'review') return;
    this.#happened({ name: 'reviewed' });
    const run = this.bay.run.now;
    const { job } = this.bay.on;
    if (run?.phase === 'round' && job && roundProgress(job, run.setup, run.round, run.extraSettle).complete)
      this.bay.insist((now) => ({ ...now, phase: 'between' }), null);
    this.bay.publisher.show();
  }

  /** Ends a review whose time is over. */
  tick(): void {
    if (reviewOver(this.#state, performance.now())) this.endReview();
  }

  /** A car that left takes with it what was still to be judged of its last pull: it counts as the method says. */
  carLeft(): void {
    this.#happened({ name: 'car-left' });
  }

  #happened(event: PullEvent): void {
    this.#state = nextPullState(this.#state, event);
  }

  #marked(recording: Recording): Recording {
    const mark = this.bay.time.markFor(recording.startMs);
    if (mark !== null) recording.mark(mark);
    return recording;
  }
}
