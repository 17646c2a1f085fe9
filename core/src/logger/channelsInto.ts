import type { Channel } from '../job/job.ts';
import { WIDEST_GAP_S } from './evenSamples.ts';

/** Channels of a logger by which it is laid or which the pull has as its own axes; they are not added. */
const AXES = ['time_s', 'engine_rpm', 'roller_rad_s', 'wheel_power_w', 'wheel_torque_nm', 'brake_nm'];

/**
 * Channels of a record that can be added to pulls.
 * @example addableChannels([{ name: 'time_s', values: Float64Array.of(0) }, { name: 'oil_c', values: Float64Array.of(90) }]).map((c) => c.name) // ['oil_c']
 */
export function addableChannels(record: readonly Channel[]): Channel[] {
  return record.filter((c) => !AXES.includes(c.name) && c.values.some((v) => Number.isFinite(v)));
}

/**
 * The name that a logger's channel bears in pulls: its own, or with `logger_` before it where a pull recorded one of that name.
 * @example nameBeside('charge_c', ['charge_c']) // 'logger_charge_c'
 */
export function nameBeside(name: string, taken: readonly string[]): string {
  let own = name;
  while (taken.includes(own)) own = `logger_${own}`;
  return own;
}

/**
 * A logger's channel at the times of a pull, straight between its samples; NaN outside the record and in a gap.
 * @param timeS of the pull
 * @param atS second 0 of the pull in the logger's clock
 * @param rate how much faster the logger's clock runs, a share
 * @example channelInto(Float64Array.of(0, 1), Float64Array.of(10, 12), Float64Array.of(50, 54), 10.5, 0) // Float64Array.of(51, 53)
 */
export function channelInto(
  timeS: Float64Array,
  loggerS: Float64Array,
  values: Float64Array,
  atS: number,
  rate: number,
): Float64Array {
  const known = [...loggerS.keys()].filter((i) => Number.isFinite(values[i]) && Number.isFinite(loggerS[i]));
  const out = new Float64Array(timeS.length).fill(NaN);
  if (known.length < 2) return out;
  let k = 0;
  for (let i = 0; i < timeS.length; i += 1) {
    const at = atS + (1 + rate) * timeS[i]!;
    if (!(at >= loggerS[known[0]!]! && at <= loggerS[known.at(-1)!]!)) continue;
    if (at < loggerS[known[k]!]!) k = 0;
    while (k + 2 < known.length && loggerS[known[k + 1]!]! < at) k += 1;
    const [a, b] = [known[k]!, known[k + 1]!];
    const width = loggerS[b]! - loggerS[a]!;
    if (width > 0 && width <= WIDEST_GAP_S)
      out[i] = values[a]! + ((at - loggerS[a]!) / width) * (values[b]! - values[a]!);
  }
  return out;
}
