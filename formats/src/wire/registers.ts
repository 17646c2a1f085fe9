/** How one auxiliary channel lies in a device's holding registers (Modbus function 03). */
export interface RegisterChannel {
  readonly name: string;
  /** Offset from the map's base. */
  readonly register: number;
  /** 16-bit signed in one register, or 32-bit IEEE 754 in two. */
  readonly kind: 'int16' | 'float32';
  /** Engineering value = raw · scale. */
  readonly scale: number;
}

export interface RegisterMap {
  readonly unit: number;
  readonly base: number;
  /** Order of the two registers of a float: `big` is high word first. */
  readonly wordOrder: 'big' | 'little';
  readonly channels: readonly RegisterChannel[];
}

/** The map of the stand-in, and the one a new bay starts with. */
export const USUAL_REGISTERS: RegisterMap = {
  unit: 1,
  base: 100,
  wordOrder: 'big',
  channels: [
    { name: 'charge_c', register: 0, kind: 'int16', scale: 0.1 },
    { name: 'exhaust_c', register: 1, kind: 'int16', scale: 0.1 },
    { name: 'oil_bar', register: 2, kind: 'float32', scale: 1 },
  ],
};

/** Modbus reads at most so many holding registers at once (function 03). */
const MOST_REGISTERS = 125;
const MOST_REGISTER_CHANNELS = 32;
const CHANNEL_NAME = /^[a-z][a-z0-9_]{0,59}$/;

/** What keeps a value of unknown origin from being a register map; null: it is one. */
export function registerMapProblem(value: unknown): string | null {
  const map = value as Partial<RegisterMap> | null;
  const whole = (n: unknown, low: number, high: number) => Number.isInteger(n) && Number(n) >= low && Number(n) <= high;
  if (typeof map !== 'object' || map === null) return 'it is no object';
  if (!whole(map.unit, 0, 255)) return 'unit is no whole number from 0 to 255';
  if (!whole(map.base, 0, 65_535)) return 'base is no whole number from 0 to 65535';
  if (map.wordOrder !== 'big' && map.wordOrder !== 'little') return 'wordOrder is neither big nor little';
  const { channels } = map;
  if (!Array.isArray(channels) || channels.length === 0) return 'it names no channels';
  if (channels.length > MOST_REGISTER_CHANNELS) return `it names more than ${MOST_REGISTER_CHANNELS} channels`;
  for (const [i, channel] of (channels as unknown[]).entries()) {
    const { name, register, kind, scale } = (channel ?? {}) as Partial<RegisterChannel>;
    const words = kind === 'float32' ? 2 : 1;
    if (typeof name !== 'string' || !CHANNEL_NAME.test(name)) return `channel ${i + 1} has no name such as charge_c`;
    if (kind !== 'int16' && kind !== 'float32') return `${name} is neither int16 nor float32`;
    if (!whole(register, 0, MOST_REGISTERS - words))
      return `the register of ${name} is not from 0 to ${MOST_REGISTERS - words}`;
    if (typeof scale !== 'number' || !Number.isFinite(scale) || scale === 0)
      return `the scale of ${name} is no number other than 0`;
  }
  return null;
}

export function registersSpanned(map: RegisterMap): number {
  return Math.max(0, ...map.channels.map((c) => c.register + (c.kind === 'float32' ? 2 : 1)));
}

/** Values by channel from registers read at the map's base, two bytes each, high byte first (Modbus over TCP). */
export function valuesOfRegisters(map: RegisterMap, bytes: Buffer): Record<string, number> {
  const values: Record<string, number> = {};
  for (const { name, register, kind, scale } of map.channels) {
    const at = register * 2;
    if (kind === 'int16') values[name] = bytes.readInt16BE(at) * scale;
    else values[name] = floatOf(bytes.subarray(at, at + 4), map.wordOrder) * scale;
  }
  return values;
}

export function registersOfValues(map: RegisterMap, values: Readonly<Record<string, number>>): Buffer {
  const bytes = Buffer.alloc(registersSpanned(map) * 2);
  for (const { name, register, kind, scale } of map.channels) {
    const raw = (values[name] ?? 0) / scale;
    const at = register * 2;
    if (kind === 'int16') bytes.writeInt16BE(Math.min(32767, Math.max(-32768, Math.round(raw))), at);
    else {
      const words = Buffer.alloc(4);
      words.writeFloatBE(raw);
      (map.wordOrder === 'little' ? swapWords(words) : words).copy(bytes, at);
    }
  }
  return bytes;
}

function floatOf(words: Buffer, order: RegisterMap['wordOrder']): number {
  return (order === 'little' ? swapWords(words) : words).readFloatBE(0);
}

function swapWords(words: Buffer): Buffer {
  return Buffer.concat([words.subarray(2, 4), words.subarray(0, 2)]);
}
