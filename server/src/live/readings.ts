import type { LiveValue } from '@prandel/core';
import { hearingMs } from './hearingClock.ts';

/** A value that was not heard again for this long is not used any more. */
const STALE_MS = 30_000;

/** The newest value of everything a bay hears, by the name it is heard under, and how long ago that was. */
export class Readings {
  readonly #values = new Map<string, { value: number; at: number }>();

  hear(values: Readonly<Record<string, number>>): void {
    const at = hearingMs();
    for (const [key, value] of Object.entries(values)) this.#values.set(key, { value, at });
  }

  /** Null when it was never heard, or not for half a minute. */
  now(key: string): number | null {
    const known = this.#values.get(key);
    return known && hearingMs() - known.at < STALE_MS ? known.value : null;
  }

  /** Everything that was heard within the last half minute. */
  fresh(): Record<string, number> {
    const known = [...this.#values.keys()].flatMap((key) => {
      const value = this.now(key);
      return value === null ? [] : [[key, value] as const];
    });
    return Object.fromEntries(known);
  }

  /** Channels by their recorded names (`charge_c`); gates have names of their own (`intakeC`). */
  channels(): string[] {
    return [...this.#values.keys()].filter((key) => key.includes('_')).sort();
  }

  /** Everything with its age, for a screen. */
  aged(): Record<string, LiveValue> {
    const now = hearingMs();
    return Object.fromEntries(
      [...this.#values].map(([key, { value, at }]) => [key, { value, ageS: (now - at) / 1000 }]),
    );
  }
}
