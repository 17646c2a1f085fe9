import type { InstrumentStatus, LiveSheet } from '@prandel/core';
import type { BayRecorder } from './bayRecorder.ts';
import type { BayTime } from './bayTime.ts';
import { HoldClock } from './holdClock.ts';
import { LiveFeed } from './liveFeed.ts';
import type { LiveJob } from './liveJob.ts';
import type { LiveRun } from './liveRun.ts';
import type { PullState } from './pullState.ts';
import type { Readings } from './readings.ts';
import type { Recovery } from './recovery.ts';
import { gateOf, sheetOf, type BayMoment, type GateNow } from './sheet.ts';
import type { UnclaimedPulls } from './unclaimedPulls.ts';

/** What the publisher reads of its bay. */
export interface PublishedBay {
  readonly on: LiveJob;
  readonly run: LiveRun;
  readonly readings: Readings;
  readonly recovery: Recovery;
  readonly unclaimed: UnclaimedPulls;
  readonly time: BayTime;
  readonly recorder: () => BayRecorder;
  readonly state: () => PullState;
  readonly instruments: () => InstrumentStatus[];
  readonly waitingSamples: () => number;
  readonly quarantined: () => number;
}

/** Works out the gate and the run sheet of a bay, and gives the sheet to its screens. */
export class BayPublisher {
  readonly feed = new LiveFeed();
  /** What keeps the next pull of the open round waiting. */
  readonly holds = new HoldClock();
  #gate: GateNow | null = null;

  constructor(private readonly bay: PublishedBay) {}

  /** The gate of the next pull as it was worked out last. */
  get gate(): GateNow | null {
    return this.#gate;
  }

  sheet(): LiveSheet {
    return sheetOf(this.#moment(), this.#gate);
  }

  show(): void {
    this.feed.sheet(this.sheet());
  }

  /** Works the gate out again; one that was open gets its slack. */
  look(): void {
    this.#found(gateOf(this.#moment(), this.#gate));
  }

  /** Works the gate out as for a round that was just left: nothing was open before. */
  lookAnew(): void {
    this.#found(gateOf(this.#moment()));
  }

  #found(gate: GateNow | null): void {
    this.#gate = gate;
    const { run, time } = this.bay;
    this.holds.look(time.atMs, run.now?.phase === 'round' ? (gate?.verdict ?? null) : null);
  }

  #moment(): BayMoment {
    const { on, run, readings, recovery, unclaimed, time } = this.bay;
    const { recording } = this.bay.recorder();
    const state = this.bay.state();
    return {
      atMs: time.atMs,
      job: on.job,
      jobRow: on.row,
      judgement: on.judgement,
      range: on.range,
      run: run.now,
      unclaimed: unclaimed.waiting(time.atMs),
      values: readings.aged(),
      instruments: this.bay.instruments(),
      recovery,
      waiting: this.bay.waitingSamples(),
      quarantined: this.bay.quarantined(),
      recording: recording ? { pullId: recording.pull?.id ?? '', samples: recording.samples } : null,
      review:
        state.name === 'review'
          ? { pullId: state.pullId, leftS: Math.max(0, (state.untilMs - performance.now()) / 1000) }
          : null,
    };
  }
}
