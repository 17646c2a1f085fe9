/** "2026-09-14T10:20:05" on the clock of a zone. */
export function wallOf(ms: number, timeZone: string): string {
  const parts = new Intl.DateTimeFormat('en-CA', {
    ...{ timeZone, hourCycle: 'h23', year: 'numeric', month: '2-digit', day: '2-digit' },
    ...{ hour: '2-digit', minute: '2-digit', second: '2-digit' },
  }).formatToParts(ms);
  const of = (type: string) => parts.find((p) => p.type === type)!.value;
  return `${of('year')}-${of('month')}-${of('day')}T${of('hour')}:${of('minute')}:${of('second')}`;
}

/** The instant of a clock's reading in a zone, ms; null for what is no date with a time. An hour that comes twice is the first of the two. */
export function instantIn(wall: string, timeZone: string): number | null {
  const whole = wall.length === 16 ? `${wall}:00` : wall;
  const utc = Date.parse(`${whole}Z`);
  if (Number.isNaN(utc)) return null;
  let ms = utc;
  // The distance from UTC may be another one on the other side of a change.
  for (let k = 0; k < 2; k += 1) ms = utc - (Date.parse(`${wallOf(ms, timeZone)}Z`) - ms);
  return ms;
}
