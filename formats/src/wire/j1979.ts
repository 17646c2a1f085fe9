/** A quantity of SAE J1979 service 01: its PID, bytes of data, and scaling. */
interface Pid {
  readonly pid: number;
  readonly bytes: number;
  readonly decode: (a: number, b: number) => number;
  readonly encode: (value: number) => readonly number[];
}

const byte = (value: number) => Math.min(255, Math.max(0, Math.round(value)));
const offset40: Pick<Pid, 'bytes' | 'decode' | 'encode'> = {
  bytes: 1,
  decode: (a) => a - 40,
  encode: (v) => [byte(v + 40)],
};

/**
 * Channels read over the vehicle bus, by name. Scalings of SAE J1979: 0x0C (256A + B)/4 rpm; 0x0F, 0x05, 0x5C A − 40 °C;
 * 0x0B A kPa, ending at 255; 0x11 A·100/255 per cent, here 0–1. 0x5C and 0x11 are values from memory.
 */
export const PIDS = {
  engine_rpm: {
    pid: 0x0c,
    bytes: 2,
    decode: (a, b) => (256 * a + b) / 4,
    encode: (v) => {
      const quarters = Math.min(65535, Math.max(0, Math.round(v * 4)));
      return [quarters >> 8, quarters & 255];
    },
  },
  intake_c: { pid: 0x0f, ...offset40 },
  coolant_c: { pid: 0x05, ...offset40 },
  oil_c: { pid: 0x5c, ...offset40 },
  manifold_kpa: { pid: 0x0b, bytes: 1, decode: (a) => a, encode: (v) => [byte(v)] },
  throttle_fraction: { pid: 0x11, bytes: 1, decode: (a) => a / 255, encode: (v) => [byte(v * 255)] },
} as const satisfies Record<string, Pid>;
export type BusChannel = keyof typeof PIDS;

const hex = (value: number) => value.toString(16).toUpperCase().padStart(2, '0');

/** One request as a hex line, for instance `010C`. The framing (one message a line, hex without spaces) is Prandel's own. */
export function busRequest(channel: BusChannel): string {
  return `01${hex(PIDS[channel].pid)}`;
}

/** The channel asked for by a request line; null when this line asks for something else. */
export function busRequested(line: string): BusChannel | null {
  const match = /^01([0-9A-F]{2})$/i.exec(line.trim().replaceAll(' ', ''));
  const pid = match ? Number.parseInt(match[1]!, 16) : -1;
  return (Object.keys(PIDS) as BusChannel[]).find((key) => PIDS[key].pid === pid) ?? null;
}

export function busAnswer(channel: BusChannel, value: number): string {
  return `41${hex(PIDS[channel].pid)}${PIDS[channel].encode(value).map(hex).join('')}`;
}

/** What a vehicle without that sensor answers. */
export const NO_DATA = 'NO DATA';

/** The channel and value of an answer line; null for "no data" and for anything that is no answer to service 01. */
export function busAnswered(line: string): { channel: BusChannel; value: number } | null {
  const text = line.trim().replaceAll(' ', '');
  if (!/^41([0-9A-F]{2})+$/i.test(text)) return null;
  const bytes = Array.from({ length: text.length / 2 }, (_, i) => Number.parseInt(text.slice(2 * i, 2 * i + 2), 16));
  const channel = (Object.keys(PIDS) as BusChannel[]).find((key) => PIDS[key].pid === bytes[1]);
  if (!channel || bytes.length !== 2 + PIDS[channel].bytes) return null;
  return { channel, value: PIDS[channel].decode(bytes[2]!, bytes[3] ?? 0) };
}
