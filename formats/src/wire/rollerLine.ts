import { plausibleInstantMs } from '@prandel/core';

/** One sample of the rollers as a line of JSON: their clock, and channels named `quantity_unit`. */
export interface RollerSample {
  /** Milliseconds since 1970 on the rollers' clock; null when the line carries none. */
  readonly atMs: number | null;
  readonly channels: Readonly<Record<string, number>>;
}

const NAME = /^[a-z][a-z0-9_]{0,60}$/;
const MOST_CHANNELS = 64;
export const LONGEST_LINE = 8192;

/** A line that is no sample, and why. */
export class SampleError extends Error {}

/**
 * Reads `{"at":"2026-05-02T09:10:11.230Z","engine_rpm":3012,"roller_rad_s":60.1,"throttle_fraction":1}`. Null is a missing
 * value. @throws SampleError naming what is wrong
 */
export function rollerSample(line: string): RollerSample {
  if (line.length > LONGEST_LINE) throw new SampleError(`a line of ${line.length} characters`);
  let parsed: unknown;
  try {
    parsed = JSON.parse(line);
  } catch {
    throw new SampleError('not JSON');
  }
  if (typeof parsed !== 'object' || parsed === null || Array.isArray(parsed)) throw new SampleError('not an object');
  const { at, ...rest } = parsed as Record<string, unknown>;
  const instant = typeof at === 'string' ? at : JSON.stringify(at);
  const atMs = at === undefined ? null : Date.parse(instant);
  if (atMs !== null && !plausibleInstantMs(atMs))
    throw new SampleError(`"at" is no instant between 1990 and 2100: ${instant.slice(0, 40)}`);
  const entries = Object.entries(rest);
  if (entries.length > MOST_CHANNELS) throw new SampleError(`${entries.length} channels, ${MOST_CHANNELS} at most`);
  const channels: Record<string, number> = {};
  for (const [name, value] of entries) {
    if (name === 'time_s') throw new SampleError('time_s is the bay’s own');
    if (!NAME.test(name)) throw new SampleError(`a channel named "${name.slice(0, 40)}"`);
    if (value === null) channels[name] = NaN;
    else if (typeof value === 'number' && Number.isFinite(value)) channels[name] = value;
    else throw new SampleError(`${name} is no number`);
  }
  return { atMs, channels };
}

export function rollerLine(atMs: number, channels: Readonly<Record<string, number>>): string {
  const entries = Object.entries(channels).map(([name, value]) => [name, Number.isFinite(value) ? value : null]);
  return JSON.stringify({ at: new Date(atMs).toISOString(), ...Object.fromEntries(entries) });
}

/** Splits a byte stream into lines; a line that never ends is given up, not kept for ever. */
export class LineSplitter {
  #rest = '';
  #dropping = false;

  push(chunk: string): string[] {
    const parts = (this.#rest + chunk).split(/\r\n|[\n\r>]/);
    this.#rest = parts.pop()!;
    const lines = parts.filter((line, i) => line !== '' && !(i === 0 && this.#dropping));
    if (parts.length > 0) this.#dropping = false;
    if (this.#rest.length > LONGEST_LINE) {
      this.#rest = '';
      this.#dropping = true;
    }
    return lines;
  }
}
