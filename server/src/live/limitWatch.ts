import { armedLimits, limitsCrossed } from '@prandel/core';
import { crossedWords } from '@prandel/presentation';
import type { BayRun } from '../database/shapes.ts';
import type { EvidenceEvent } from '../evidence/evidence.ts';
import type { LiveJob } from './liveJob.ts';
import type { LiveRun } from './liveRun.ts';
import type { Readings } from './readings.ts';

/** Stores a change of the run that the bay itself found, as soon as anything can be stored. */
export type Insist = (next: (now: BayRun) => BayRun, event: Omit<EvidenceEvent, 'at'> | null) => void;

/** Watches the abort limits: the first that is crossed stops the bay, shown before it is stored. */
export class LimitWatch {
  constructor(
    private readonly on: LiveJob,
    private readonly run: LiveRun,
    private readonly readings: Readings,
    private readonly insist: Insist,
  ) {}

  look(atMs: number): void {
    const run = this.run.now;
    const limits = this.on.job ? armedLimits(this.on.job) : [];
    if (!run || run.stop || limits.length === 0) return;
    const crossed = limitsCrossed(limits, this.readings.fresh()).find((c) => c.level === 'stop');
    if (!crossed) return;
    const stop = { crossed, at: new Date(atMs).toISOString() };
    this.run.show({ ...run, stop });
    this.insist((now) => ({ ...now, stop }), {
      person: 'the bay',
      kind: 'alarm',
      what: `STOP: ${crossedWords(crossed)}`,
    });
  }
}
