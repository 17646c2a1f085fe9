interface SetupName {
  readonly id: string;
  readonly returnsTo: string | null;
}

/** CSS variables of a setup's hue in the bay mood; a return check wears the hue of what it repeats, hollow. */
export function bayStyle(setups: readonly SetupName[], id: string): { line: string; on: string; hollow: boolean } {
  const setup = setups.find((s) => s.id === id);
  const own = setups.filter((s) => !s.returnsTo);
  const place = own.findIndex((s) => s.id === (setup?.returnsTo ?? id));
  const letter = 'abcdefg'[Math.max(0, place) % 7]!;
  return { line: `var(--${letter})`, on: `var(--${letter}-on)`, hollow: Boolean(setup?.returnsTo) };
}

/** Minutes and seconds, as on a stopwatch. */
export function stopwatch(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds));
  const hours = Math.floor(whole / 3600);
  const minutes = Math.floor((whole % 3600) / 60);
  const rest = String(whole % 60).padStart(2, '0');
  return hours > 0 ? `${hours}:${String(minutes).padStart(2, '0')}:${rest}` : `${minutes}:${rest}`;
}

export function inMinutes(seconds: number): string {
  return seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`;
}

export const SET_ASIDE_REASONS = [
  'Wheel slip',
  'Lifted early',
  'Wrong gear',
  'Fan was moved',
  'Knock heard',
  'Other, words at the desk',
];
export const OVERRIDE_REASONS = ['Sensor reads wrong', 'No time left', 'Cause is known', 'Other, words at the desk'];
export const CLOSE_REASONS = ['Heat', 'Time', 'Breakage'];
export const NOTES = [
  'Straps tightened',
  'Noise or smell',
  'Customer watched',
  'Fan checked',
  'Other, words at the desk',
];

/** Traction, stability and braking aids that were off for the rollers: asked before the car leaves. */
export const DRIVER_AIDS = ['Restored, it comes off', 'Not yet, it comes off'] as const;
