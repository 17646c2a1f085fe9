import { UnreadableError } from '../problem.ts';

export type Json = Record<string, unknown>;

/** A member as an object; anything else is an empty one. */
export const part = (value: unknown): Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Json) : {};

/** A path inside the package. @throws UnreadableError when it climbs out of its folder */
export function safePath(path: string): string {
  const plain = path.replace(/\\/g, '/').replace(/^\.\//, '');
  if (plain.startsWith('/') || /^[a-z]+:/i.test(plain) || plain.split('/').includes('..'))
    throw new UnreadableError(`The package names a file outside its own folder ("${path}"). It was refused.`);
  return plain;
}
