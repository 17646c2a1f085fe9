/** Rows of the first segment, which a short pull may leave half empty, and of every other. */
const FIRST = 512;
const SEGMENT = 4096;

/** Columns of numbers that grow row by row without ever being copied as a whole. */
export class GrowingColumns {
  readonly #segments: Float64Array[][];
  readonly #lines: Uint32Array[] = [];
  #last: Float64Array[] = [];
  #lastLines = new Uint32Array();
  /** Rows in the last segment. */
  #used = 0;
  #rows = 0;

  constructor(private readonly width: number) {
    this.#segments = Array.from({ length: width }, () => []);
  }

  get rows(): number {
    return this.#rows;
  }

  push(values: Float64Array, line: number): void {
    if (this.#used === this.#lastLines.length) this.#grow();
    const k = this.#used;
    const last = this.#last;
    for (let c = 0; c < last.length; c += 1) last[c]![k] = values[c]!;
    this.#lastLines[k] = line;
    this.#used += 1;
    this.#rows += 1;
  }

  #grow(): void {
    const size = this.#rows === 0 ? FIRST : SEGMENT;
    this.#last = Array.from({ length: this.width }, () => new Float64Array(size));
    this.#last.forEach((segment, c) => this.#segments[c]!.push(segment));
    this.#lastLines = new Uint32Array(size);
    this.#lines.push(this.#lastLines);
    this.#used = 0;
  }

  /** The columns and the line of every row; the segments are given up on the way. */
  finish(): { columns: Float64Array[]; lines: Uint32Array } {
    this.#last = [];
    const columns = this.#segments.map((segments) => joined(segments, new Float64Array(this.#rows)));
    return { columns, lines: joined(this.#lines, new Uint32Array(this.#rows)) };
  }
}

function joined<T extends Float64Array | Uint32Array>(segments: T[], whole: T): T {
  let at = 0;
  while (segments.length > 0) {
    const segment = segments.shift()!;
    whole.set(segment.subarray(0, whole.length - at), at);
    at += segment.length;
  }
  return whole;
}
