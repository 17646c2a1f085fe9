/** Time of day in the job's own zone. */
export function clock(at: string, zone: string | null): string {
  return new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: zone ?? 'UTC' }).format(
    new Date(at),
  );
}

/** A date in words, in the job's own zone. */
export function day(at: string, zone: string | null): string {
  return new Intl.DateTimeFormat('en-GB', {
    day: 'numeric',
    month: 'long',
    year: 'numeric',
    timeZone: zone ?? 'UTC',
  }).format(new Date(at));
}
