import { STATE_LABELS } from '@prandel/core';

const GATE_NAMES: Readonly<Record<string, string>> = {
  intakeC: 'Intake air',
  coolantC: 'Coolant',
  oilC: 'Oil',
  interval: 'Pause after the pull before',
  air: 'Air in the bay',
  factor: 'Correction drift',
  altitude: 'Density altitude',
  rollers: 'Rollers without a signal',
  ...STATE_LABELS,
};

/** What a gate is called in a list of gates; a key of another program is shown as it is. */
export function gateName(key: string): string {
  return Object.hasOwn(GATE_NAMES, key) ? GATE_NAMES[key]! : key;
}
