import { implausibleInstant, implausibleText, LIMITS } from './plausible.ts';

/** Says what is wrong with a value of unknown origin, beginning with the path of the wrong member; null: nothing. */
export type Check = (value: unknown, path: string) => string | null;

export const text =
  (most: number = LIMITS.textCharacters): Check =>
  (value, path) => {
    if (typeof value !== 'string') return `${path} is no text`;
    const wrong = implausibleText(value, most);
    return wrong && `${path} is ${wrong}`;
  };

export const number =
  (low: number, high: number): Check =>
  (value, path) =>
    typeof value === 'number' && value >= low && value <= high ? null : `${path} is no number from ${low} to ${high}`;

export const flag: Check = (value, path) => (typeof value === 'boolean' ? null : `${path} is neither true nor false`);

export const instant: Check = (value, path) => {
  const wrong = typeof value === 'string' ? implausibleInstant(value) : 'no text';
  return wrong && `${path}: ${wrong}`;
};

export const oneOf =
  (...choices: readonly string[]): Check =>
  (value, path) =>
    choices.includes(value as string) ? null : `${path} is none of ${choices.join(', ')}`;

/** Null or what the check wants. */
export const orNull =
  (check: Check): Check =>
  (value, path) =>
    value === null ? null : check(value, path);

/** Absent or what the check wants. */
export const maybe =
  (check: Check): Check =>
  (value, path) =>
    value === undefined ? null : check(value, path);

export const list =
  (check: Check, most: number): Check =>
  (value, path) => {
    if (!Array.isArray(value)) return `${path} is no list`;
    if (value.length > most) return `${path} has ${value.length} entries; at most ${most} are taken`;
    return first(value.map((entry, i) => () => check(entry, `${path}[${i}]`)));
  };

/** An object with these members; others are left alone. */
export const members =
  (checks: Readonly<Record<string, Check>>): Check =>
  (value, path) => {
    if (!isObject(value)) return `${path} is no object`;
    return first(
      Object.entries(checks).map(
        ([name, check]) =>
          () =>
            check(value[name], `${path}.${name}`),
      ),
    );
  };

/** An object whose members, whatever they are called, all hold the same kind of thing. */
export const table =
  (check: Check, most: number): Check =>
  (value, path) => {
    if (!isObject(value)) return `${path} is no object`;
    const entries = Object.entries(value);
    if (entries.length > most) return `${path} has ${entries.length} members; at most ${most} are taken`;
    return first(
      entries.map(
        ([name, entry]) =>
          () =>
            text(200)(name, path) ?? check(entry, `${path}.${name}`),
      ),
    );
  };

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function first(checks: readonly (() => string | null)[]): string | null {
  for (const check of checks) {
    const wrong = check();
    if (wrong) return wrong;
  }
  return null;
}
