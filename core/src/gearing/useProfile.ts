import type { UseProfile } from '../job/job.ts';

/** Width of a class of engine speed, rpm. */
export const USE_STEP_RPM = 500;

/** Shares by the hundredth from a first engine speed on. */
const shares = (fromRpm: number, ...hundredths: number[]): UseProfile['shares'] =>
  hundredths.map((h, i) => ({ fromRpm: fromRpm + i * USE_STEP_RPM, share: h / 100 }));

/** Shares of the time at full load by engine speed. Judgement: nobody published them; a log of the car itself is better. */
export const USE_PRESETS: Readonly<Record<'street' | 'tow' | 'circuit' | 'drag', UseProfile>> = {
  street: { name: 'Street', shares: shares(2000, 20, 22, 20, 15, 10, 7, 4, 2) },
  tow: { name: 'Towing', shares: shares(2000, 28, 30, 22, 12, 6, 2) },
  circuit: { name: 'Circuit', shares: shares(4000, 6, 12, 18, 22, 22, 20) },
  drag: { name: 'Drag', shares: shares(4500, 4, 10, 20, 30, 36) },
};

/**
 * Why a profile does not add up, in a sentence without a full stop; null: it does.
 * @example useProblem({ name: 'x', shares: [{ fromRpm: 3000, share: 0.5 }] }) // 'the shares of x add up to 50 %, not 100 %'
 */
export function useProblem({ name, shares: own }: UseProfile): string | null {
  if (own.length === 0) return `${name} has no shares`;
  const wrong = own.find(
    ({ fromRpm, share }) =>
      !(share >= 0 && share <= 1) || fromRpm % USE_STEP_RPM !== 0 || fromRpm < 0 || fromRpm > 30_000,
  );
  if (wrong) return `${(wrong.share * 100).toFixed(0)} % from ${wrong.fromRpm} rpm is no share of 500 rpm`;
  if (new Set(own.map((s) => s.fromRpm)).size < own.length) return `${name} names an engine speed twice`;
  const sum = own.reduce((a, s) => a + s.share, 0);
  return Math.abs(sum - 1) <= 0.005 ? null : `the shares of ${name} add up to ${(sum * 100).toFixed(0)} %, not 100 %`;
}

/**
 * A profile counted from a log: the share of the samples at full load in each class of engine speed.
 * @param throttle 0 to 1; null: every sample counts
 * @returns null where no sample is at full load
 * @example profileFromLog(Float64Array.of(3100, 3200, 3700, 900), null, 'log').shares.length // 3
 */
export function profileFromLog(
  rpm: ArrayLike<number>,
  throttle: ArrayLike<number> | null,
  name: string,
): UseProfile | null {
  const counts = new Map<number, number>();
  let all = 0;
  for (let i = 0; i < rpm.length; i += 1) {
    if (!(rpm[i]! > 0) || (throttle && !(throttle[i]! >= FULL_LOAD))) continue;
    const from = Math.floor(rpm[i]! / USE_STEP_RPM) * USE_STEP_RPM;
    counts.set(from, (counts.get(from) ?? 0) + 1);
    all += 1;
  }
  if (all === 0) return null;
  return {
    name,
    shares: [...counts].sort(([a], [b]) => a - b).map(([fromRpm, n]) => ({ fromRpm, share: n / all })),
  };
}

/** Throttle from which an engine is taken to be at full load. Judgement. */
const FULL_LOAD = 0.8;
