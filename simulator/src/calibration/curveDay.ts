import { DEFAULT_QUESTION, newJob, newPull, newSetup, type Job, type Pull } from '@prandel/core';
import { Random } from '../random.ts';

/** What a calibration day is made of. */
export interface CurveDaySpec {
  readonly seed: number;
  /** Rounds in order, such as [['A', 3], ['B', 3], ['A2', 2]]. */
  readonly rounds: readonly (readonly [string, number])[];
  /** What the part really adds, per cent over the whole range. */
  readonly truePercent: number;
  /** Share of pulls that go bad: a dip of some per cent over a stretch. */
  readonly badShare?: number;
}

/**
 * A quick day of curve-only pulls with known truth, for calibration: start temperature rises through a round and
 * varies between rounds, the car loses power with heat by a coefficient of its own, the day drifts, rounds and pulls scatter,
 * and a few pulls go bad. The sizes are those the verdict's priors expect; judgement, no published source.
 */
export function curveDay(spec: CurveDaySpec): Job {
  const random = new Random(spec.seed);
  const heat = Math.max(0, 0.1 + random.normal(0.05));
  const drift = random.normal(0.3);
  const hump = random.normal(0.25);
  const scatter = 0.3 + 0.35 * random.uniform();
  const rise = 2 + 2 * random.uniform();
  const pulls: Pull[] = [];
  let minute = 0;
  const settle = 2;
  const rpm = Float64Array.from({ length: 101 }, (_, i) => 2500 + 50 * i);
  for (const [setup, counted] of spec.rounds) {
    const roundOffset = random.normal(0.12);
    const roundStart = random.normal(1);
    for (let k = 0; k < settle + counted; k += 1) {
      const startAbove = 10 + roundStart + rise * k + random.normal(0.5);
      const hours = minute / 60;
      const part = setup.startsWith('A') ? 0 : spec.truePercent;
      const bad =
        random.uniform() < (spec.badShare ?? 0.03)
          ? { at: 3000 + 3500 * random.uniform(), size: 3 + 4 * random.uniform() }
          : null;
      const level =
        part -
        heat * (startAbove - 15) +
        drift * hours +
        hump * Math.sin((Math.PI * hours) / 4) +
        roundOffset +
        random.normal(scatter);
      const tilt = random.normal(0.25);
      const power = rpm.map((n) => {
        const base = 60_000 + 50_000 * Math.sin(((n - 2000) / 6200) * Math.PI * 0.75);
        const dip = bad ? -bad.size * Math.exp(-(((n - bad.at) / 350) ** 2)) : 0;
        return base * (1 + (level + tilt * ((n - 5000) / 2500) + dip + random.normal(0.25)) / 100);
      });
      pulls.push({
        ...newPull(`${setup}-${k + 1}`, setup, k + 1),
        status: k < settle ? 'settle' : 'counted',
        startedAt: new Date(Date.UTC(2026, 0, 5, 8) + minute * 60_000).toISOString(),
        gear: '4',
        pressureHpa: 1000,
        airC: 20,
        relativeHumidity: 0.4,
        intakeStartC: 20 + startAbove,
        channels: [
          { name: 'engine_rpm', values: rpm },
          { name: 'wheel_power_w', values: power },
        ],
      });
      minute += 5;
    }
    minute += 50;
  }
  const ids = [...new Set(spec.rounds.map(([id]) => id))];
  return {
    ...newJob(`day-${spec.seed}`, 'calibration day'),
    question: { ...DEFAULT_QUESTION, baselineSetup: 'A', candidateSetups: ['B'], windowRpm: [3000, 7000] },
    setups: ids.map((id) => ({
      ...newSetup(id, id, id === 'A' ? null : 'A'),
      returnsTo: id.length > 1 ? id[0]! : null,
    })),
    pulls,
  };
}
