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
