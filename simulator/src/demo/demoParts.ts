import { declared, newSetup, UNKNOWN_VEHICLE, type Setup } from '@prandel/core';
import { DEMO_STATE, ROLLERS } from './demoCars.ts';

/** What the demo's days have in common. */
export function setup(id: string, label: string, changes: string, more: Partial<Setup> = {}): Setup {
  return { ...newSetup(id, label, id === 'A' ? null : 'A'), ...declared(changes), state: DEMO_STATE, ...more };
}

export const returnOf = (id: string, label = 'return check'): Setup => ({ ...setup(id, label, ''), returnsTo: 'A' });

export const common = {
  bay: ROLLERS,
  heatPercentPerC: 0.11,
  pullSd: 0.28,
  driftPercentPerHour: 0.12,
  sampleHz: 50,
  pressureHpa: 1003.9,
  morningC: 21.4,
} as const;
export const naturally = { ...UNKNOWN_VEHICLE, aspiration: 'natural', transmission: 'manual' } as const;
