import type { Random } from '../random.ts';

/** A bay as it really is: standard deviations in per cent, drift over 1.25 h. */
export interface World {
  readonly name: string;
  readonly pullPercent: number;
  /** Spread of the logarithm of the pull scatter between cars. */
  readonly carSpread: number;
  readonly mountPercent: number;
  readonly driftPercent: number;
  readonly badPulls: number;
  readonly turbo: boolean;
  /** False: what is measured does not follow the start temperature. */
  readonly heat: boolean;
  /** Scatter of pulls from Student's t on three degrees, with the same standard deviation. */
  readonly heavyTails: boolean;
}

const world = (name: string, pull: number, mount: number, drift: number, more: Partial<World> = {}): World => ({
  ...{ name, pullPercent: pull, mountPercent: mount, driftPercent: drift },
  ...{ carSpread: 0.25, badPulls: 0.03, turbo: false, heat: true, heavyTails: false },
  ...more,
});

/** Worlds made for the purpose: how calm and how wild bays are is judgement. */
export const WORLDS = {
  calm: world('calm', 0.25, 0.07, 0.1, { carSpread: 0.2, badPulls: 0.02 }),
  usual: world('usual', 0.37, 0.15, 0.28),
  turbo: world('usual, turbo', 0.37, 0.15, 0.28, { turbo: true }),
  heavyTails: world('heavy tails', 0.37, 0.15, 0.28, { heavyTails: true, badPulls: 0.05 }),
  wild: world('wild', 0.7, 0.3, 0.6, { carSpread: 0.35, badPulls: 0.05 }),
  quietDrifter: world('quiet drifter', 0.22, 0.12, 0.45),
} as const;

/** A counted pull of a simulated day. */
export interface WorldPull {
  readonly setup: number;
  readonly round: number;
  readonly hours: number;
  readonly startC: number;
}

export interface WorldDay {
  readonly pulls: readonly WorldPull[];
  /** 100·ln of the window's mean power. */
  readonly y: readonly number[];
}

const PULL_H = 5 / 60;
const SETTLE = 2;

/**
 * A day in a world: scatter that differs between cars, mounts, a drift that is a line, a walk or a hump on a third of the days each,
 * heat, and now and then a bad pull.
 *
 * @param plan rounds in order, as "A3 B3 A2"
 * @param gains true gain of B, C, … over A, log-percent
 */
export function worldDay(own: World, plan: string, gains: readonly number[], random: Random): WorldDay {
  const sigma = own.pullPercent * Math.exp(random.normal(own.carSpread));
  const usual = Math.max(0, own.turbo ? 0.14 + random.normal(0.06) : 0.09 + random.normal(0.05));
  const loss = own.heat ? usual : 0;
  const pulls: WorldPull[] = [];
  let hours = 0;
  plan.split(' ').forEach((step, round) => {
    const setup = step.charCodeAt(0) - 'A'.charCodeAt(0);
    const counted = Number(step.slice(1));
    if (round > 0) hours += (40 + 35 * random.uniform()) / 60;
    const start = 11 + random.normal(1.5);
    for (let k = 0; k < SETTLE + counted; k += 1) {
      if (k >= SETTLE) pulls.push({ setup, round, hours, startC: start + (own.turbo ? 3 : 2) * k });
      hours += PULL_H;
    }
  });
  const drift = driftOf(own.driftPercent, random);
  const mounts = new Map<number, number>();
  const y = pulls.map(({ setup, round, hours: at, startC }) => {
    if (!mounts.has(round)) mounts.set(round, random.normal(own.mountPercent));
    const bad = random.uniform() < own.badPulls ? badPull(random) : 0;
    return (
      500 +
      (setup === 0 ? 0 : gains[setup - 1]!) -
      loss * startC +
      drift(at) +
      mounts.get(round)! +
      scatter(sigma, own, random) +
      bad
    );
  });
  return { pulls, y };
}

/** Five of six bad pulls read low by 1–4 %, one high by 1–3 %. */
function badPull(random: Random): number {
  return random.uniform() < 5 / 6 ? -(1 + 3 * random.uniform()) : 1 + 2 * random.uniform();
}

function scatter(sigma: number, { heavyTails }: World, random: Random): number {
  if (!heavyTails) return random.normal(sigma);
  const squares = random.normal() ** 2 + random.normal() ** 2 + random.normal() ** 2;
  // Student's t on 3 has variance 3: scaled back to σ.
  return (sigma * random.normal()) / Math.sqrt(squares / 3) / Math.sqrt(3);
}

/** The day's own course, log-percent: its change over 1.25 h has the standard deviation given. */
function driftOf(sd: number, random: Random): (hours: number) => number {
  const kind = Math.floor(3 * random.uniform());
  if (kind === 0) {
    const slope = random.normal(sd / 1.25);
    return (hours) => slope * hours;
  }
  if (kind === 1) {
    const step = 1 / 60;
    const walk = [0];
    return (hours) => {
      const at = Math.round(hours / step);
      while (walk.length <= at) walk.push(walk.at(-1)! + random.normal(sd * Math.sqrt(step / 1.25)));
      return walk[at]!;
    };
  }
  const period = 5 + 4 * random.uniform();
  const phase = 2 * Math.PI * random.uniform();
  // The difference of a sine of amplitude a over a lag has standard deviation a·√2·|sin(π·lag/period)| over random phases.
  const amplitude = random.normal(sd) / (Math.SQRT2 * Math.sin((Math.PI * 1.25) / period));
  return (hours) => amplitude * Math.sin((2 * Math.PI * hours) / period + phase);
}
