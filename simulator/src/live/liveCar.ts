import { channelValues, type Air } from '@prandel/core';
import { simulatePull } from '../day/pullPhysics.ts';
import type { DaySpec, Mishap } from '../day/spec.ts';
import { Random } from '../random.ts';

/** What the instruments could read off the car and the bay at one moment. */
export interface LiveMoment {
  readonly atMs: number;
  readonly engineRpm: number;
  readonly rollerRadS: number;
  readonly throttle: number;
  readonly intakeC: number;
  readonly coolantC: number;
  readonly oilC: number;
  readonly chargeC: number;
  readonly exhaustC: number;
  readonly oilBar: number;
  /** Null on an engine without a compressor. */
  readonly manifoldKpa: number | null;
  readonly air: Air;
}

export type FanPlace = 'on' | 'moved' | 'off';

/** Intake air above the bay once everything has settled, °C, by what the fan does. */
const RESTING_ABOVE_AIR_C: Record<FanPlace, number> = { on: 6, moved: 14, off: 24 };
const SOAK_PER_PULL_C: Record<FanPlace, number> = { on: 5.5, moved: 7, off: 8 };
const SOAK_DECAY_S = 540;
const RESTING_DECAY_S = 240;
const DOOR_DECAY_S = 300;
/** How much colder it is outside the bay door. */
const OUTSIDE_COLDER_C = 7;
const ROLL_UP_S = 2;
const COAST_DECAY_S = 3.5;
/** A car that stood this long starts cold again, and flatters on its first pulls. */
const COLD_AFTER_S = 25 * 60;

type Phase =
  { kind: 'rest' } | { kind: 'roll-up'; for: number } | { kind: 'sweep'; pull: Sweep; at: number } | { kind: 'coast' };
interface Sweep {
  readonly channels: ReadonlyMap<string, Float64Array>;
  readonly samples: number;
}

/**
 * A car on rollers that can be driven: the same physics as the simulated days, told moment by moment. Heat soaks in with
 * every pull and leaves between them, the day drifts, the door lets the weather in. Seeded; the truth is its spec's.
 */
export class LiveCar {
  readonly #spec: DaySpec;
  readonly #random: Random;
  readonly #startMs: number;
  readonly #drift: number;
  readonly #warming: number;
  #atMs: number;
  #phase: Phase = { kind: 'rest' };
  #omega = 0;
  #soak = 0;
  #resting = RESTING_ABOVE_AIR_C.on;
  #door = 0;
  #fan: FanPlace = 'on';
  #doorOpen = false;
  #weather = { airC: 0, pressureHpa: 0 };
  #setup = 'A';
  #roundOffset: number;
  #sinceChange = 0;
  #sinceRest = 0;
  #lastPullMs: number;
  #learning = 0;
  #slipNext = false;
  #carry = 0;

  constructor(spec: DaySpec, startMs: number) {
    this.#spec = spec;
    this.#random = new Random(spec.seed);
    this.#startMs = startMs;
    this.#atMs = startMs;
    this.#lastPullMs = startMs - 3_600_000;
    this.#drift = this.#random.normal(spec.driftPercentPerHour);
    this.#warming = 2.2 + 0.8 * this.#random.uniform();
    this.#roundOffset = this.#random.normal(0.12);
  }

  get bench() {
    return {
      atMs: this.#atMs,
      setup: this.#setup,
      fan: this.#fan,
      doorOpen: this.#doorOpen,
      pulling: this.#phase.kind === 'sweep' || this.#phase.kind === 'roll-up',
      weather: { ...this.#weather },
      slipNext: this.#slipNext,
    };
  }

  /** Presses the pedal: rolls up to the start speed and sweeps. @returns why not, or null */
  press(): string | null {
    if (this.#phase.kind === 'sweep' || this.#phase.kind === 'roll-up') return 'The pedal is down already.';
    if (this.#omega > 5) return 'The rollers still turn; let them run out first.';
    this.#phase = { kind: 'roll-up', for: 0 };
    return null;
  }

  release(): void {
    if (this.#phase.kind === 'sweep') this.#endSweep();
    else if (this.#phase.kind === 'roll-up') this.#phase = { kind: 'coast' };
  }

  moveFan(place: FanPlace): void {
    this.#fan = place;
  }

  openDoor(open: boolean): void {
    this.#doorOpen = open;
  }

  /** Shifts the weather by so many °C and hPa against the day's own course. */
  shiftWeather(airC: number, pressureHpa: number): void {
    this.#weather = { airC, pressureHpa };
  }

  /** Puts a setup's parts on the car; a new round scatters anew, and a boosted engine hunts on its next pull. */
  fit(setup: string): void {
    this.#setup = setup;
    this.#sinceChange = 0;
    this.#roundOffset = this.#random.normal(0.12);
  }

  /** Forgets what the controller had learned: it comes back over the next pulls. */
  resetController(): void {
    this.#learning = -0.9;
  }

  slipOnNextPull(): void {
    this.#slipNext = true;
  }

  /** Lets time pass; every sample of a sweep comes out, and the last moment of whatever else happened. */
  advance(seconds: number): LiveMoment[] {
    const moments: LiveMoment[] = [];
    const interval = 1 / this.#spec.sampleHz;
    let left = seconds + this.#carry;
    this.#carry = 0;
    while (left > 1e-9) {
      const sampling = this.#phase.kind !== 'rest';
      // Samples keep their even spacing: what is left of a step waits for the next call.
      if (sampling && left < interval - 1e-9) {
        this.#carry = left;
        break;
      }
      const step = sampling ? interval : Math.min(left, 1);
      left -= step;
      this.#step(step);
      if (sampling) moments.push(this.moment());
    }
    if (moments.length === 0) moments.push(this.moment());
    return moments;
  }

  moment(): LiveMoment {
    const air = this.#air();
    const rpmOf = (omega: number) => (omega * (this.#spec.vehicle.engineToRollerRatio ?? 5) * 30) / Math.PI;
    const still = {
      atMs: Math.round(this.#atMs),
      air,
      engineRpm: Math.max(this.#spec.engine.idleRpm, rpmOf(this.#omega)),
      rollerRadS: this.#omega,
      throttle: this.#phase.kind === 'roll-up' ? 0.2 : 0.02,
      intakeC: air.airC + this.#resting + this.#soak,
      coolantC: 88 + 0.5 * this.#soak,
      oilC: 90 + 0.9 * this.#soak,
      chargeC: air.airC + this.#resting + 1.2 * this.#soak,
      exhaustC: 320 + 25 * this.#soak,
      oilBar: 2.1 + (3 * rpmOf(this.#omega)) / 7000,
      manifoldKpa: this.#spec.boosted ? 0.4 * (air.pressureHpa / 10) : null,
    };
    if (this.#phase.kind !== 'sweep') return still;
    const { pull, at } = this.#phase;
    const value = (name: string) => pull.channels.get(name)?.[Math.min(at, pull.samples - 1)] ?? NaN;
    return {
      ...still,
      engineRpm: value('engine_rpm'),
      rollerRadS: value('roller_rad_s'),
      throttle: value('throttle_fraction'),
      intakeC: value('intake_c'),
      coolantC: value('coolant_c'),
      oilC: value('oil_c'),
      manifoldKpa: this.#spec.boosted ? value('manifold_kpa') : null,
      exhaustC: still.exhaustC + at * 0.3,
    };
  }

  #step(dt: number): void {
    this.#atMs += dt * 1000;
    this.#soak *= Math.exp(-dt / SOAK_DECAY_S);
    this.#resting += (RESTING_ABOVE_AIR_C[this.#fan] - this.#resting) * (1 - Math.exp(-dt / RESTING_DECAY_S));
    this.#door += ((this.#doorOpen ? -OUTSIDE_COLDER_C : 0) - this.#door) * (1 - Math.exp(-dt / DOOR_DECAY_S));
    const phase = this.#phase;
    if (phase.kind === 'roll-up') {
      const start = (this.#spec.engine.startRpm * Math.PI) / 30 / (this.#spec.vehicle.engineToRollerRatio ?? 5);
      phase.for += dt;
      this.#omega = start * Math.min(1, phase.for / ROLL_UP_S);
      if (phase.for >= ROLL_UP_S) this.#phase = { kind: 'sweep', pull: this.#sweep(), at: 0 };
    } else if (phase.kind === 'sweep') {
      phase.at += 1;
      if (phase.at >= phase.pull.samples) this.#endSweep();
    } else if (phase.kind === 'coast') {
      this.#omega *= Math.exp(-dt / COAST_DECAY_S);
      if (this.#omega < 1) {
        this.#omega = 0;
        this.#phase = { kind: 'rest' };
      }
    }
  }

  #endSweep(): void {
    this.#omega = this.moment().rollerRadS;
    this.#soak += SOAK_PER_PULL_C[this.#fan];
    this.#lastPullMs = this.#atMs;
    this.#sinceChange += 1;
    this.#sinceRest += 1;
    this.#learning *= 0.5;
    this.#slipNext = false;
    this.#phase = { kind: 'coast' };
  }

  #air(): Air {
    const minutes = (this.#atMs - this.#startMs) / 60_000;
    const airC =
      this.#spec.morningC +
      this.#warming * Math.sin((Math.PI / 2) * Math.min(1, minutes / 480)) +
      this.#door +
      this.#weather.airC;
    return {
      airC,
      pressureHpa: this.#spec.pressureHpa - 0.3 * (minutes / 60) + this.#weather.pressureHpa,
      relativeHumidity: Math.min(0.95, Math.max(0.2, 0.52 - 0.012 * (airC - this.#spec.morningC))),
    };
  }

  /** The whole sweep that the pedal now starts, computed ahead and told sample by sample. */
  #sweep(): Sweep {
    const air = this.#air();
    if (this.#atMs - this.#lastPullMs > COLD_AFTER_S * 1000) this.#sinceRest = 0;
    const cold = this.#sinceRest === 0 ? 1.1 : this.#sinceRest === 1 ? 0.35 : 0;
    const hunts = this.#spec.boosted === true && this.#sinceChange === 0;
    const mishap: Mishap['kind'] | null = this.#slipNext ? 'slip' : hunts ? 'hunting' : null;
    const hours = (this.#atMs - this.#startMs) / 3_600_000;
    const channels = simulatePull(
      this.#spec,
      {
        air,
        startAboveAirC: this.#resting + this.#soak,
        coolantC: 88 + 0.5 * this.#soak,
        oilC: 90 + 0.9 * this.#soak,
        offsetPercent:
          this.#drift * hours + this.#roundOffset + this.#random.normal(this.#spec.pullSd) + cold + this.#learning,
        effect: this.#spec.effects[this.#setup] ?? (() => 0),
        mishap,
        cooler: null,
        vacuumKpa: null,
      },
      this.#random,
    );
    return {
      channels: new Map(channels.map((c) => [c.name, c.values])),
      samples: channelValues({ channels: channels }, 'time_s')!.length,
    };
  }
}
