import { newJob, newPull, newSetup } from '../job/defaults.ts';
import type { Change } from '../job/changes.ts';
import type { Job, Setup } from '../job/job.ts';
import { RPM, shape } from './curveDays.ts';

/** A setup of a made-up day: how much more power it has than the baseline, a share of it, and what is on the car. */
export interface Runs {
  readonly level: number | ((rpm: number) => number);
  readonly setup?: Partial<Setup>;
  readonly pulls?: number;
}

/** The order of the day: setups one after the other, the baseline first, in the middle and last; small known scatter. */
export function shootoutDay(parts: Readonly<Record<string, Runs>>, more: Partial<Job> = {}, scatter = 0.001): Job {
  const ids = Object.keys(parts);
  const middle = Math.ceil(ids.length / 2);
  const order = ['A', ...ids.slice(0, middle), 'A2', ...ids.slice(middle), ...(ids.length > middle ? ['A3'] : [])];
  const pulls = order.flatMap((id, r) => {
    const { level = 0, pulls: count = 3 } = parts[id] ?? {};
    return Array.from({ length: count }, (_, k) => {
      // Sines of numbers that have nothing in common stand for scatter, so that the day is the same every time.
      const off = 1 + scatter * Math.sin(12.9898 * (7 * r + k) + 78.233);
      const gain = (rpm: number) => 1 + (typeof level === 'number' ? level : level(rpm));
      return {
        ...newPull(`${id}${k + 1}`, id, k + 1),
        startedAt: new Date(Date.UTC(2026, 4, 4, 8, 60 * r + 5 * k)).toISOString(),
        ...{ intakeStartC: 24 + k, airC: 20, pressureHpa: 1005, relativeHumidity: 0.5 },
        channels: [
          { name: 'engine_rpm', values: RPM },
          { name: 'wheel_power_w', values: RPM.map((n) => shape(n) * gain(n) * off) },
        ],
      };
    });
  });
  const base = newJob('S1', 'which part');
  return {
    ...base,
    setups: [
      newSetup('A', 'as arrived'),
      ...ids.map((id) => ({
        ...newSetup(id, `part ${id}`, 'A'),
        changes: [part(`part ${id}`)],
        ...parts[id]!.setup,
      })),
      ...order.filter((id) => /^A\d/.test(id)).map((id) => ({ ...newSetup(id, 'check', 'A'), returnsTo: 'A' })),
    ],
    question: { ...base.question, candidateSetups: ids, windowRpm: [3000, 7000] },
    pulls,
    ...more,
  };
}

export const part = (name: string): Change => ({ kind: 'part-fitted', part: name, text: `part fitted: ${name}` });
