import type { Bay } from '@prandel/core';
import type { Schemas } from '../../api/client.ts';

/** Kinds of rollers by what they are called. */
export const ROLLER_KINDS = [
  ['inertia', 'inertia rollers'],
  ['braked', 'braked rollers'],
  ['linked', 'linked axles'],
  ['split', 'split axles'],
  ['hub', 'hub'],
] as const;

/** What is typed about rollers; numbers stay text until they are sent. */
export interface RollerFields {
  kind: string;
  inertia: string;
  c0: string;
  c1: string;
  c2: string;
  scale: string;
  elevation: string;
  epoch: string;
}

export function rollerFieldsOf(rollers: Bay | undefined): RollerFields {
  const [c0, c1, c2] = rollers?.lossTorqueNm ?? ['', '', ''];
  return {
    kind: rollers ? (rollers.kind ?? '') : 'inertia',
    inertia: String(rollers?.rollerInertiaKgM2 ?? ''),
    ...{ c0: String(c0), c1: String(c1), c2: String(c2) },
    scale: String(rollers?.readoutScale ?? 1),
    elevation: String(rollers?.elevationM ?? ''),
    epoch: rollers?.calibrationEpoch ?? '',
  };
}

/** The facts of the fields that were changed, as the server takes them. */
export function changedRollers(
  v: RollerFields,
  changed: (names: readonly (keyof RollerFields)[]) => boolean,
): Schemas['RollersDto'] {
  return {
    ...(changed(['kind']) ? { kind: (v.kind || null) as Schemas['RollersDto']['kind'] & (string | null) } : {}),
    ...(changed(['inertia']) ? { rollerInertiaKgM2: number(v.inertia) } : {}),
    ...(changed(['c0', 'c1', 'c2']) ? { lossTorqueNm: lossOf(v) } : {}),
    ...(changed(['scale']) ? { readoutScale: number(v.scale) ?? 1 } : {}),
    ...(changed(['elevation']) ? { elevationM: number(v.elevation) } : {}),
    ...(changed(['epoch']) ? { calibrationEpoch: v.epoch.trim() || null } : {}),
  };
}

/** What is wrong with the fields together; null: nothing. */
export function rollersWrong({ c0, c1, c2 }: RollerFields): string | null {
  const loss = [c0, c1, c2].filter((c) => c.trim() !== '').length;
  return loss !== 0 && loss !== 3 ? 'A loss curve has three coefficients, or none.' : null;
}

export function number(text: string): number | null {
  const value = Number(text.replace(',', '.'));
  return text.trim() === '' || !Number.isFinite(value) ? null : value;
}

function lossOf({ c0, c1, c2 }: RollerFields): [number, number, number] | null {
  const loss = [c0, c1, c2].map(number);
  return loss.every((c) => c !== null) ? (loss as [number, number, number]) : null;
}
