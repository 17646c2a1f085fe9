import { newPull, roundProgress, type GateVerdict, type Job, type Pull } from '@prandel/core';
import { reasonWords } from '@prandel/presentation';
import type { BayRun } from '../database/shapes.ts';
import type { Readings } from './readings.ts';
import { interrupted } from './recorder.ts';

/** What a pull that begins now starts under. */
export function conditionsOf(readings: Readings) {
  return {
    pressureHpa: readings.now('pressureHpa'),
    airC: readings.now('airC'),
    relativeHumidity: readings.now('relativeHumidity'),
    intakeStartC: readings.now('intakeC'),
    coolantStartC: readings.now('coolantC'),
    oilStartC: readings.now('oilC'),
  };
}

/** What was so at the moment in which a pull began; its place in the job is worked out later, when the database has been asked. */
export interface PullStart {
  readonly run: BayRun;
  readonly startMs: number;
  readonly conditions: ReturnType<typeof conditionsOf>;
  readonly gate: GateVerdict | null;
  /** What kept the pull waiting, seconds by gate. */
  readonly heldS: Readonly<Record<string, number>>;
}

/** The papers of a pull, without a key: its place after the pulls that the job has by now, its conditions, and whether the gate was open. */
export function pullDraft(job: Job, { run, startMs, conditions, gate, heldS }: PullStart): Omit<Pull, 'channels'> {
  const progress = roundProgress(job, run.setup, run.round, run.extraSettle);
  const { channels: _, ...blank } = newPull('', run.setup, progress.nextPosition);
  const pull: Omit<Pull, 'channels'> = {
    ...blank,
    round: run.round,
    status: progress.nextStatus,
    gear: job.setups.find((s) => s.id === run.setup)?.state.gear ?? job.day?.modelCard.gear ?? null,
    startedAt: new Date(startMs).toISOString(),
    ...conditions,
    ...(Object.keys(heldS).length > 0 ? { heldS } : {}),
  };
  if (run.phase !== 'round')
    return interrupted(
      pull,
      run.phase === 'fitting' ? 'Pulled while the fitting clock ran.' : 'Pulled outside a round.',
    );
  if (!gate || gate.state === 'ready') return pull;
  const closed = gate.reasons.map((reason) => reasonWords(reason)).join('; ');
  if (run.override) return { ...pull, marks: [`Gate overridden (${run.override.reason}): ${closed}`] };
  return interrupted(pull, `Started against a closed gate: ${closed}`);
}
