import { newJob, newPull, newSetup } from '../job/defaults.ts';
import type { Job, Pull } from '../job/job.ts';
import { judgeJob } from '../verdict/judge.ts';

// A day in the bay as curves, with a known gain and next to no scatter.
export const RPM = Float64Array.from({ length: 51 }, (_, i) => 2500 + 100 * i);
export const shape = (rpm: number) => 60_000 + 40_000 * Math.sin((rpm - 2000) / 2600);

export interface Change {
  pull?: Partial<Pull>;
  level?: number;
  shape?: (rpm: number) => number;
  rpm?: Float64Array;
}
function pull(
  setup: string,
  n: number,
  minute: number,
  { pull: more = {}, level = 1, shape: own = shape, rpm = RPM }: Change = {},
): Pull {
  const wobble = 1 + 0.002 * Math.sin(7.3 * n + setup.length * 2.1 + (setup === 'B' ? 1 : setup === 'R' ? 0.01 : 0));
  return {
    ...newPull(`${setup}${n}`, setup, n),
    startedAt: new Date(Date.UTC(2026, 4, 2, 8) + minute * 60_000).toISOString(),
    gear: '4',
    pressureHpa: 990,
    airC: 25,
    relativeHumidity: 0,
    intakeStartC: 35 + n,
    status: n <= 1 ? 'settle' : 'counted',
    channels: [
      { name: 'engine_rpm', values: rpm },
      { name: 'wheel_power_w', values: rpm.map((r) => own(r) * level * wobble) },
    ],
    ...more,
  };
}

/** A 1 + 3, B 1 + 3, return check R 1 + 2, with B better by `gain` per cent; `change` edits single pulls by id. */
export function day(gain: number, change: Record<string, Change> = {}, more: Partial<Job> = {}): Job {
  const round = (setup: string, from: number, count: number) =>
    Array.from({ length: count }, (_, i) =>
      pull(setup, i + 1, from + 5 * i, {
        level: setup === 'B' ? 1 + gain / 100 : 1,
        ...change['*'],
        ...change[setup],
        ...change[`${setup}${i + 1}`],
      }),
    );
  return {
    ...newJob('j', 'Does the part help?'),
    setups: [newSetup('A', 'as arrived'), newSetup('B', 'part', 'A'), { ...newSetup('R', 'return'), returnsTo: 'A' }],
    pulls: [...round('A', 0, 4), ...round('B', 75, 4), ...round('R', 150, 3)],
    ...more,
    question: { ...newJob('', '').question, windowRpm: [3000, 7000], ...more.question },
  };
}
export const verdictOf = (job: Job) => judgeJob(job).verdicts[0]!;
