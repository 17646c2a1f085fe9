import type { PlanWarning } from '@prandel/core';
import { plain, temperatureStep, USUAL_UNITS, type ShownUnits } from './figures.ts';

/** What speaks against a plan, as a sentence. */
export function planWarningWords(w: PlanWarning, units: ShownUnits = USUAL_UNITS): string {
  const degrees = (c: number) => `${plain(temperatureStep(c, units.temperature), 1)} ${units.temperature}`;
  switch (w.code) {
    case 'before-opening':
      return `The first pull is before opening at ${clockOfDay(w.opensMin)}.`;
    case 'after-closing':
      return `The last pull ends at ${clockOfDay(w.endsMin)}, ${Math.round(w.endsMin - w.closesMin)} min after closing at ${clockOfDay(w.closesMin)}. Start earlier, shorten the plan, or take a second day with its own baseline.`;
    case 'several-days':
      return `The rounds take ${w.days} days; each later one begins with the baseline again, so that the days hold together.`;
    case 'day-without-anchor':
      return `Day ${w.days.join(' and ')} begins without the baseline: what its rounds say rests on the other days alone. Put a round of the baseline first.`;
    case 'round-beyond-closing':
      return `The round of ${w.setup} takes ${plain(w.minutes / 60, 1)} h with its fitting; the shop is open for ${plain(w.openMin / 60, 1)} h. Fit it the day before, open longer, or leave it for a day of its own.`;
    case 'cannot-come-off':
      return `${w.carries} cannot come off again; ${w.setups.join(', ')} would run after it with it on without being made from it. Run ${w.carries} last, or make them from ${w.carries}.`;
    case 'forecast-swings':
      return `The forecast swings by ${degrees(w.swingC)}; the gate allows ${degrees(w.allowedC)}. The honest plan is another day.`;
    case 'factor-swings':
      return `The forecast moves the correction factor by ${plain(w.swingPercent, 1)} %; the gate allows ${plain(w.allowedPercent, 1)} %. The honest plan is another day, or a shorter one.`;
    default:
      return w satisfies never;
  }
}

/** Minutes after midnight as "09:05". */
function clockOfDay(minutes: number): string {
  const whole = Math.round(minutes);
  const hours = Math.floor(whole / 60) % 24;
  return `${String(hours).padStart(2, '0')}:${String(whole % 60).padStart(2, '0')}`;
}
