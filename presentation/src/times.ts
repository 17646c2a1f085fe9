/** Times of day and dates in the job's own zone; UTC where a job names none. */
function format(options: Intl.DateTimeFormatOptions): (at: string, zone: string | null) => string {
  // To make one costs a hundred times what using it does.
  const known = new Map<string, Intl.DateTimeFormat>();
  return (at, zone) => {
    const timeZone = zone ?? 'UTC';
    const own = known.get(timeZone) ?? new Intl.DateTimeFormat('en-GB', { ...options, timeZone });
    known.set(timeZone, own);
    return own.format(new Date(at));
  };
}

/** "09:05" */
export const clock = format({ hour: '2-digit', minute: '2-digit' });
/** "14 September 2026" */
export const longDay = format({ day: 'numeric', month: 'long', year: 'numeric' });
/** "14 Sep" */
export const shortDay = format({ day: 'numeric', month: 'short' });

/** Whether instants lie on several days in that zone. */
export function spansDays(instants: readonly (string | null | undefined)[], zone: string | null): boolean {
  return new Set(instants.flatMap((at) => (at ? [shortDay(at, zone)] : []))).size > 1;
}

/** An instant among others of one job: the clock alone while they are of one day, else with the date. */
export function moment(at: string, zone: string | null, severalDays: boolean): string {
  return severalDays ? `${shortDay(at, zone)} ${clock(at, zone)}` : clock(at, zone);
}
