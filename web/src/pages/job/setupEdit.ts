import type { Setup } from '@prandel/core';
import type { Schemas } from '../../api/client.ts';

/** What was changed of a setup, named field by field; null where nothing was. What no form shows is never sent. */
export function setupEdit(before: Setup, after: Setup): Schemas['SetupEdit'] | null {
  const changed = Object.fromEntries(
    Object.entries(after).filter(
      ([name, value]) => name !== 'state' && JSON.stringify(value) !== JSON.stringify(before[name as keyof Setup]),
    ),
  );
  const state = Object.fromEntries(
    Object.entries({ ...Object.fromEntries(Object.keys(before.state).map((key) => [key, ''])), ...after.state }).filter(
      ([key, value]) => value !== ((before.state as Record<string, string>)[key] ?? ''),
    ),
  );
  if (Object.keys(changed).length === 0 && Object.keys(state).length === 0) return null;
  return { id: after.id, ...changed, ...(Object.keys(state).length > 0 ? { state } : {}) };
}
