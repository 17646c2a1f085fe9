import { newJob, newPull, newSetup } from '../job/defaults.ts';
import type { Job } from '../job/job.ts';
import { preparePulls } from '../pull/preparedPulls.ts';
import { judgementSteps } from './judge.ts';

/** Pulls of a made-up day, as many as an ordinary one has. */
const ROUNDS = ['A', 'B', 'A2'] as const;
const PULLS = 5;

/**
 * A made-up day of curves without noise to speak of, to run code on that is to be fast when a person asks; nobody sees it.
 * @example warmUpDay().pulls.length // 15
 */
export function warmUpDay(): Job {
  const rpm = Float64Array.from({ length: 400 }, (_, i) => 2500 + 10 * i);
  const pulls = ROUNDS.flatMap((setup, round) =>
    Array.from({ length: PULLS }, (_, k) => {
      const level = (setup === 'B' ? 1.02 : 1) * (1 + 0.002 * Math.sin(7 * round + 3 * k));
      return {
        ...newPull(`${setup}${k}`, setup, k + 1),
        startedAt: new Date(Date.UTC(2026, 0, 5, 9 + round, 5 * k)).toISOString(),
        intakeStartC: 20 + k / 3,
        airC: 19,
        pressureHpa: 1005,
        relativeHumidity: 0.5,
        channels: [
          { name: 'engine_rpm', values: rpm },
          { name: 'wheel_power_w', values: rpm.map((n) => level * n * (15 - ((n - 5000) / 2500) ** 2)) },
        ],
      };
    }),
  );
  const job = newJob('warm-up', 'warm-up');
  return {
    ...job,
    setups: [newSetup('A', 'a'), newSetup('B', 'b', 'A'), { ...newSetup('A2', 'a', 'A'), returnsTo: 'A' }],
    question: { ...job.question, candidateSetups: ['B'], windowRpm: [3000, 6000] },
    pulls,
  };
}

/** Samples of a made-up raw pull: half a minute at 100 Hz. */
const RAW_SAMPLES = 3000;

/**
 * Pulls as a bay records them, for code that prepares pulls from rollers and reads their channels; nobody sees them.
 * @example rawWarmUpDay().pulls.length // 4
 */
export function rawWarmUpDay(): Job {
  const job = warmUpDay();
  const timeS = Float64Array.from({ length: RAW_SAMPLES }, (_, i) => i / 100);
  const ripple = (i: number, k: number) => 1 + 0.001 * Math.sin(0.7 * i + k);
  const pulls = job.pulls.slice(0, 4).map((pull, k) => {
    // Cruising, the pull, and coasting down again, in rad/s.
    const roller = timeS.map((t, i) => ripple(i, k) * (t < 8 ? 60 : t < 20 ? 60 + 8 * (t - 8) : 156 - 6 * (t - 20)));
    const warm = (from: number) => timeS.map((t, i) => (from + 0.2 * t) * ripple(i, k));
    const channels = [
      { name: 'time_s', values: timeS },
      { name: 'roller_rad_s', values: roller },
      { name: 'engine_rpm', values: roller.map((w) => 42 * w) },
      { name: 'throttle_fraction', values: timeS.map((t) => (t >= 8 && t < 20 ? 1 : 0.1)) },
      ...['intake_c', 'coolant_c', 'oil_c'].map((name, c) => ({ name, values: warm(30 * (c + 1)) })),
    ];
    return { ...pull, channels };
  });
  const bay = { ...job.bay, kind: 'inertia' as const, rollerInertiaKgM2: 40 };
  return { ...job, bay, vehicle: { ...job.vehicle, engineToRollerRatio: 4.4 }, pulls };
}

/**
 * Judges a made-up day step by step, so that a person's first question is answered by code that has run before: compiled code is
 * several times as fast as code that is read for the first time. Between two steps the caller may look for something better to do.
 * @example [...warmUp()].length // 6
 */
export function* warmUp(): Generator<void, void> {
  const job = warmUpDay();
  for (const averagingWidthRpm of [200, 100]) {
    const changed = { ...job, method: { ...job.method, averagingWidthRpm } };
    for (const _ of judgementSteps(changed, preparePulls(job.pulls, job.bay, job.vehicle))) yield;
  }
}
