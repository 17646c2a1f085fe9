import type { Setup } from '@prandel/core';

/** Colours of the desk mood, as in tokens.css; charts need them as plain values. */
export const DESK = {
  sheet: '#FFFFFF',
  well: '#FBFAF6',
  rule: '#DAD6CC',
  ruleStrong: '#B9B3A5',
  faint: '#ECE9E1',
  ink: '#1E2429',
  ink2: '#4C555C',
  ink3: '#656D72',
  floor: '#EFECE3',
  floorEdge: '#B9B3A5',
} as const;

/** A setup's hue, its text-safe hue, the ink on its badge, and its dash. Colour belongs to a setup. */
export interface SetupLook {
  readonly line: string;
  readonly text: string;
  readonly on: string;
  readonly dash: 'solid' | number[];
  readonly hollow: boolean;
}

const HUES: readonly Omit<SetupLook, 'hollow'>[] = [
  { line: '#2E3A40', text: '#2E3A40', on: '#FFFFFF', dash: 'solid' },
  { line: '#C27F0E', text: '#875600', on: '#1E1400', dash: [15, 3] },
  { line: '#2A8EA4', text: '#176C80', on: '#02141A', dash: [10, 3, 3, 3] },
  { line: '#871F7B', text: '#871F7B', on: '#FFFFFF', dash: [5, 3.5] },
  { line: '#4A7842', text: '#3F6A38', on: '#FFFFFF', dash: [2, 3] },
  { line: '#5C64DA', text: '#4850C4', on: '#FFFFFF', dash: [16, 3, 2, 3, 2, 3] },
  { line: '#77280F', text: '#77280F', on: '#FFFFFF', dash: [7, 2, 7, 6] },
  { line: '#0F7B6C', text: '#0B6558', on: '#FFFFFF', dash: [12, 2, 2, 2, 2, 2] },
  { line: '#B0306A', text: '#9C285D', on: '#FFFFFF', dash: [20, 4] },
  { line: '#3E5C9A', text: '#3E5C9A', on: '#FFFFFF', dash: [3, 2, 8, 2] },
  { line: '#8A6D3B', text: '#6F5629', on: '#FFFFFF', dash: [6, 6] },
  { line: '#5B4B8A', text: '#5B4B8A', on: '#FFFFFF', dash: [1.5, 2, 9, 2] },
];

/** Looks by setup id; a return check wears the hue of what it repeats, hollow and dotted. */
export function setupStyles(setups: readonly Setup[]): Map<string, SetupLook> {
  const looks = new Map<string, SetupLook>();
  const own = setups.filter((s) => !s.returnsTo);
  own.forEach((s, i) => looks.set(s.id, { ...HUES[i % HUES.length]!, hollow: false }));
  for (const s of setups.filter((each) => each.returnsTo)) {
    looks.set(s.id, { ...(looks.get(s.returnsTo!) ?? HUES[0]!), dash: [1.5, 3.5], hollow: true });
  }
  return looks;
}
