import { pullsInOrder, type Job, type PullStatus } from '../job/job.ts';
import { plannedRoundsLeft } from '../plan/drawnOrder.ts';
import { planRequestOf } from '../plan/dayPlan.ts';
import { USUAL_DAY } from './jobDay.ts';
import { stepOf } from './roundProgress.ts';

/** One block of the day: a round, or work on the car; done, running, or still planned. Times in milliseconds since 1970. */
export interface TrackBlock {
  readonly kind: 'pulls' | 'fitting';
  readonly setup: string;
  readonly fromMs: number;
  readonly toMs: number;
  readonly planned: boolean;
  readonly pulls: readonly { readonly atMs: number; readonly status: PullStatus }[];
}

export interface BayTrack {
  readonly nowMs: number;
  readonly blocks: readonly TrackBlock[];
}

const MINUTE = 60_000;
/** Pulls from before this belong to another day of the job. */
const DAY_MS = 14 * 60 * MINUTE;

/** What runs in the bay right now, as far as the track needs it. */
interface Running {
  readonly phase: 'round' | 'fitting' | 'between';
  readonly setup: string;
  readonly round: number;
}

/**
 * The day of a job as blocks: rounds and fittings as they were, the running one up to where the plan ends it, and the rest of the
 * plan behind it with the job's own minutes for a pull and a fitting.
 * @example bayTrack(newJob('1', 'x'), { setup: 'A', round: 1, phase: 'round' }, 0).blocks.length // 1
 */
export function bayTrack(job: Job, running: Running, nowMs: number): BayTrack {
  const { minutesPerPull, fittingMinutes, coolDownMinutes } = planRequestOf(job);
  const rounds = roundsOf(job, nowMs);
  if (running.phase === 'round') {
    // The running round lasts until now, pause and all.
    const key = keyOf(running.setup, running.round);
    const known = rounds.get(key);
    if (known) rounds.set(key, { ...known, toMs: Math.max(known.toMs, nowMs) });
  }
  const done = [...rounds.values(), ...fittingsOf(job, nowMs)].sort((a, b) => a.fromMs - b.fromMs);
  const blocks: TrackBlock[] = [...done];
  let end = Math.max(nowMs, ...done.map((b) => b.toMs));
  let betweenMin = Math.max(fittingMinutes, coolDownMinutes);
  if (running.phase === 'round') {
    const { settle, counted } = stepOf(job, running.setup, running.round);
    const made = job.pulls.filter(
      (p) => p.setupId === running.setup && p.round === running.round && p.status !== 'set-aside',
    ).length;
    const toMs = nowMs + Math.max(0, settle + counted - made) * minutesPerPull * MINUTE;
    if (toMs > nowMs)
      blocks.push({ kind: 'pulls', setup: running.setup, fromMs: nowMs, toMs, planned: true, pulls: [] });
    end = toMs;
  } else if (running.phase === 'fitting') {
    const begun = done.findLast((b) => b.kind === 'fitting');
    const left = betweenMin * MINUTE - (nowMs - (begun?.fromMs ?? nowMs));
    end = nowMs + Math.max(0, left);
    if (left > 0)
      blocks.push({ kind: 'fitting', setup: running.setup, fromMs: nowMs, toMs: end, planned: true, pulls: [] });
    betweenMin = 0;
  } else if (done.length === 0 || done.at(-1)!.kind === 'fitting') betweenMin = 0;
  let before = running.setup;
  // A round that was begun but has no pull yet is the running one, not one to come.
  const left = plannedRoundsLeft(job);
  const started = running.phase === 'round' && !job.pulls.some((p) => isOf(p, running));
  for (const step of started && left[0]?.setup === running.setup ? left.slice(1) : left) {
    const gap = betweenMin * MINUTE;
    if (gap > 0 && step.setup !== before)
      blocks.push({ kind: 'fitting', setup: step.setup, fromMs: end, toMs: end + gap, planned: true, pulls: [] });
    const fromMs = end + gap;
    end = fromMs + (step.settle + step.counted) * minutesPerPull * MINUTE;
    blocks.push({ kind: 'pulls', setup: step.setup, fromMs, toMs: end, planned: true, pulls: [] });
    before = step.setup;
    betweenMin = Math.max(fittingMinutes, coolDownMinutes);
  }
  return { nowMs, blocks };
}

function isOf(pull: { setupId: string; round: number }, { setup, round }: Running): boolean {
  return pull.setupId === setup && pull.round === round;
}

const keyOf = (setup: string, round: number) => `${setup}#${round}`;

function roundsOf(job: Job, nowMs: number): Map<string, TrackBlock> {
  const rounds = new Map<string, TrackBlock>();
  for (const { setupId, round, startedAt, status } of pullsInOrder(job.pulls)) {
    // A pull of no round was made before the job was on the bay: the day had not begun.
    if (round < 1) continue;
    const atMs = startedAt ? Date.parse(startedAt) : NaN;
    if (!(nowMs - atMs < DAY_MS)) continue;
    const key = keyOf(setupId, round);
    const known = rounds.get(key);
    const toMs = Math.min(Math.max(nowMs, atMs), atMs + MINUTE);
    rounds.set(key, {
      kind: 'pulls',
      setup: setupId,
      fromMs: known?.fromMs ?? atMs,
      toMs,
      planned: false,
      pulls: [...(known?.pulls ?? []), { atMs, status }],
    });
  }
  return rounds;
}

function fittingsOf(job: Job, nowMs: number): TrackBlock[] {
  return (job.day ?? USUAL_DAY).fittings.flatMap((f) => {
    const fromMs = Date.parse(f.startedAt);
    const toMs = f.stoppedAt ? Date.parse(f.stoppedAt) : nowMs;
    if (!(nowMs - fromMs < DAY_MS) || toMs < fromMs) return [];
    return [{ kind: 'fitting', setup: f.setup, fromMs, toMs, planned: false, pulls: [] }];
  });
}
