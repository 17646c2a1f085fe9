import type { ChannelReading } from '../measures/channelReadings.ts';
import type { PullFinding } from './findings.ts';
import type { PullMoments } from './moments.ts';
import type { PullFrame } from './preparedPulls.ts';

/** Counts up when windows, findings or sums of the same samples come out otherwise; kept frames of another version are made anew. */
export const FRAME_VERSION = 4;

const FLOATS = ['raw', 'bridge', 'gap', 'sums'] as const;
/** Of a channel. */
const NUMBERS = ['start', 'end', 'peak', 'plateau', 'recoveryS', 'low', 'high', 'heard'] as const;
/** Under this name the seconds of the cells stand among the channels. */
const SECONDS = 'time_s';
const NOTHING = { start: NaN, end: NaN, peak: NaN, plateau: NaN, recoveryS: NaN, low: NaN, high: NaN, heard: 1 };

interface Head {
  readonly version: number;
  readonly rig: string;
  readonly fingerprint: string | null;
  readonly steps: readonly number[];
  readonly aloneFindings: readonly PullFinding[];
  /** Absent where they are the same as without the others of the setup. */
  readonly findings?: readonly PullFinding[];
  readonly first: number;
  readonly firstHalf: number;
  readonly lengths: readonly number[];
  /** Readings of the channels, null for what is no number, and how many cells each has. */
  readonly effectiveness: number | null;
  readonly pressureDropKpa: number | null;
  /** Samples of a roll-on, after the cells: seconds, then torque. */
  readonly rollOn: { readonly samples: number; readonly unsteady: boolean } | null;
  readonly channels: readonly (Readonly<Record<(typeof NUMBERS)[number], number | null>> & {
    readonly name: string;
    readonly first: number;
    readonly cells: number;
  })[];
}

/**
 * A frame as bytes: length of the head (uint32), the head as JSON, blanks up to a multiple of eight, then the sums as float64
 * and the cells of the channels as float32, all little-endian.
 * @example frameFrom(frameBytes([...(() => { const p = new PreparedPulls(); p.of({ pulls: [newPull('p', 'A', 1)], bay: UNKNOWN_BAY, vehicle: UNKNOWN_VEHICLE }); return p; })().frames.values()][0])).steps // []
 */
export function frameBytes(frame: PullFrame): Uint8Array<ArrayBuffer> {
  const { rig, fingerprint, steps, aloneFindings, findings, moments, readings } = frame;
  const { seconds } = readings;
  const kept = seconds ? [...readings.channels, { ...NOTHING, ...seconds, name: SECONDS }] : readings.channels;
  const head: Head = {
    ...{ version: FRAME_VERSION, rig, fingerprint, steps, aloneFindings },
    ...(findings === aloneFindings ? {} : { findings }),
    ...{ first: moments.first, firstHalf: moments.firstHalf },
    lengths: FLOATS.map((name) => moments[name].length),
    effectiveness: numberOrNull(readings.effectiveness),
    pressureDropKpa: numberOrNull(readings.pressureDropKpa),
    rollOn: readings.rollOn && { samples: readings.rollOn.timeS.length, unsteady: readings.rollOn.unsteady },
    channels: kept.map((c) => ({
      ...(Object.fromEntries(NUMBERS.map((key) => [key, numberOrNull(c[key])])) as Record<
        (typeof NUMBERS)[number],
        null
      >),
      ...{ name: c.name, first: c.first, cells: c.cells.length },
    })),
  };
  const plain = new TextEncoder().encode(JSON.stringify(head));
  const begins = Math.ceil((4 + plain.length) / 8) * 8;
  const bytes = new Uint8Array(begins + sizeOf(head)).fill(0x20, 4, begins);
  new DataView(bytes.buffer).setUint32(0, begins - 4, true);
  bytes.set(plain, 4);
  let at = begins;
  for (const name of FLOATS) {
    new Float64Array(bytes.buffer, at, moments[name].length).set(moments[name]);
    at += 8 * moments[name].length;
  }
  for (const { cells } of kept) {
    new Float32Array(bytes.buffer, at, cells.length).set(cells);
    at += 4 * cells.length;
  }
  for (const own of readings.rollOn ? [readings.rollOn.timeS, readings.rollOn.torqueNm] : []) {
    new Float32Array(bytes.buffer, at, own.length).set(own);
    at += 4 * own.length;
  }
  return bytes;
}

/** Bytes behind the head, a multiple of eight. */
function sizeOf({ lengths, channels, rollOn }: Pick<Head, 'lengths' | 'channels' | 'rollOn'>): number {
  const floats = lengths.reduce((a, b) => a + b, 0);
  const singles = channels.reduce((sum, c) => sum + c.cells, 0) + 2 * (rollOn?.samples ?? 0);
  return 8 * (floats + Math.ceil(singles / 2));
}

const numberOrNull = (value: number) => (Number.isFinite(value) ? value : null);

/**
 * A frame from its bytes.
 * @param bytes of one frame; copied when they do not begin on a multiple of eight
 * @returns null for a frame of another version, or bytes that are no frame
 * @example frameFrom(new Uint8Array(3)) // null
 */
export function frameFrom(bytes: Uint8Array): PullFrame | null {
  if (bytes.length < 8) return null;
  const aligned = bytes.byteOffset % 8 === 0 ? bytes : bytes.slice();
  const length = new DataView(aligned.buffer, aligned.byteOffset).getUint32(0, true);
  if (4 + length > aligned.length) return null;
  const head = headOf(aligned.subarray(4, 4 + length));
  if (!head) return null;
  if (4 + length + sizeOf(head) !== aligned.length) return null;
  let at = aligned.byteOffset + 4 + length;
  const floats = head.lengths.map((n) => {
    const values = new Float64Array(aligned.buffer as ArrayBuffer, at, n);
    at += 8 * n;
    return values;
  });
  const named = Object.fromEntries(FLOATS.map((name, i) => [name, floats[i]!])) as Record<
    (typeof FLOATS)[number],
    Float64Array
  >;
  const moments: PullMoments = { first: head.first, firstHalf: head.firstHalf, ...named };
  const channels = head.channels.map(({ name, first, cells, ...numbers }): ChannelReading => {
    const own = new Float32Array(aligned.buffer as ArrayBuffer, at, cells);
    at += 4 * cells;
    const read = Object.fromEntries(NUMBERS.map((key) => [key, numbers[key] ?? NaN]));
    return { ...(read as Record<(typeof NUMBERS)[number], number>), name, first, cells: own };
  });
  const singles = (n: number) => {
    const own = new Float32Array(aligned.buffer as ArrayBuffer, at, n);
    at += 4 * n;
    return own;
  };
  const rollOn = head.rollOn && {
    ...{ timeS: singles(head.rollOn.samples), torqueNm: singles(head.rollOn.samples) },
    unsteady: head.rollOn.unsteady,
  };
  const seconds = channels.find((c) => c.name === SECONDS);
  const readings = {
    channels: channels.filter((c) => c !== seconds),
    seconds: seconds ? { first: seconds.first, cells: seconds.cells } : null,
    ...{ effectiveness: head.effectiveness ?? NaN, pressureDropKpa: head.pressureDropKpa ?? NaN, rollOn },
  };
  const { rig, fingerprint, steps, aloneFindings } = head;
  return { rig, fingerprint, steps, aloneFindings, findings: head.findings ?? aloneFindings, moments, readings };
}

function headOf(bytes: Uint8Array): Head | null {
  try {
    const head = JSON.parse(new TextDecoder().decode(bytes)) as Head | null;
    const lengths: unknown = head?.lengths;
    const whole = Array.isArray(lengths) && lengths.length === FLOATS.length;
    if (!whole || !lengths.every((n) => Number.isSafeInteger(n) && n >= 0)) return null;
    if (head?.version !== FRAME_VERSION) return null;
    const channels: unknown = head.channels;
    const cells = Array.isArray(channels) ? (channels as Head['channels']).map((c) => c.cells) : [-1];
    const more = [...cells, head.rollOn?.samples ?? 0];
    return more.every((n) => Number.isSafeInteger(n) && n >= 0) ? head : null;
  } catch {
    return null;
  }
}

/**
 * The frames of a job as one document: length of the index (uint32, little-endian), the index `[{ pull, bytes }]` as JSON, blanks up to a
 * multiple of eight, then the frames in that order.
 * @example framesIn(framesDocument([]).buffer).size // 0
 */
export function framesDocument(frames: readonly (readonly [string, Uint8Array])[]): Uint8Array<ArrayBuffer> {
  const index = new TextEncoder().encode(JSON.stringify(frames.map(([pull, { length }]) => ({ pull, bytes: length }))));
  const begins = Math.ceil((4 + index.length) / 8) * 8;
  const document = new Uint8Array(begins + frames.reduce((sum, [, { length }]) => sum + length, 0)).fill(
    0x20,
    4,
    begins,
  );
  new DataView(document.buffer).setUint32(0, begins - 4, true);
  document.set(index, 4);
  let at = begins;
  for (const [, bytes] of frames) {
    document.set(bytes, at);
    at += bytes.length;
  }
  return document;
}

/**
 * The frames of a document by pull; what is no frame of this version is left out.
 * @example [...framesIn(framesDocument([['p', new Uint8Array(8)]]).buffer)] // []
 */
export function framesIn(document: ArrayBuffer): Map<string, PullFrame> {
  const length = new DataView(document).getUint32(0, true);
  const index = JSON.parse(new TextDecoder().decode(new Uint8Array(document, 4, length))) as {
    pull: string;
    bytes: number;
  }[];
  const frames = new Map<string, PullFrame>();
  let at = 4 + length;
  for (const { pull, bytes } of index) {
    const frame = frameFrom(new Uint8Array(document, at, bytes));
    if (frame) frames.set(pull, frame);
    at += bytes;
  }
  return frames;
}
