import { newJob, newPull, newSetup, type Change, type Job, type Setup } from '@prandel/core';

const RPM = Float64Array.from({ length: 46 }, (_, i) => 2500 + 100 * i);
const power = (rpm: number) => 60_000 + 40_000 * Math.sin((rpm - 2000) / 2600);
const fitted = (name: string): Change => ({ kind: 'part-fitted', part: name, text: `part fitted: ${name}` });

/** A part of the day: its share of power, and what its setup is. */
export type Part = Partial<Setup> & { readonly gain: number | ((rpm: number) => number) };

/** A made-up day of parts one after the other, the baseline between them, with 0.1 % of scatter that is the same every time. */
export function partsDay(parts: Readonly<Record<string, Part>>): Job {
  const ids = Object.keys(parts);
  const order = ['A', ...ids.flatMap((id, i) => [id, ...(i % 2 === 1 ? [`A${1 + (i + 1) / 2}`] : [])])];
  const base = newJob('S1', 'which part');
  return {
    ...base,
    money: { currency: 'EUR', hourlyRate: 80 },
    question: { ...base.question, windowRpm: [3000, 6500], candidateSetups: ids },
    setups: [
      newSetup('A', 'as arrived'),
      ...ids.map((id): Setup => {
        const { gain: _, ...more } = parts[id]!;
        return { ...newSetup(id, `part ${id}`, 'A'), changes: [fitted(`part ${id}`)], ...more };
      }),
      ...order.filter((id) => /^A\d/.test(id)).map((id) => ({ ...newSetup(id, 'check', 'A'), returnsTo: 'A' })),
    ],
    pulls: order.flatMap((id, r) =>
      Array.from({ length: 3 }, (_, k) => {
        const gain = parts[id]?.gain ?? 0;
        const scatter = 1 + 0.001 * Math.sin(12.9898 * (7 * r + k) + 78.233);
        const share = (n: number) => 1 + (typeof gain === 'number' ? gain : gain(n));
        return {
          ...newPull(`${id}${k + 1}`, id, k + 1),
          startedAt: new Date(Date.UTC(2026, 4, 4, 8, 60 * r + 5 * k)).toISOString(),
          ...{ intakeStartC: 24 + k, airC: 20, pressureHpa: 1005, relativeHumidity: 0.5 },
          channels: [
            { name: 'engine_rpm', values: RPM },
            { name: 'wheel_power_w', values: RPM.map((n) => power(n) * share(n) * scatter) },
          ],
        };
      }),
    ),
  };
}
