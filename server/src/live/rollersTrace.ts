/** A coast-down is over within this; what is older is forgotten, milliseconds. */
const KEPT_MS = 180_000;
/** Twenty readings a second tell a coast-down. */
const EVERY_MS = 50;

/** The roller speed of the last minutes, from which the loss of empty rollers can be fitted. */
export class RollersTrace {
  #rows: { atMs: number; radS: number }[] = [];

  push(atMs: number, radS: number): void {
    const last = this.#rows.at(-1);
    if (!Number.isFinite(radS) || (last && atMs - last.atMs < EVERY_MS && atMs >= last.atMs)) return;
    // A clock that was set back begins another trace.
    if (last && atMs < last.atMs) this.#rows = [];
    this.#rows.push({ atMs, radS });
    if (this.#rows.length > (2 * KEPT_MS) / EVERY_MS) this.#rows = this.#rows.slice(-KEPT_MS / EVERY_MS);
  }

  read(): { timeS: number[]; rollerRadS: number[] } {
    const last = this.#rows.at(-1)?.atMs ?? 0;
    const rows = this.#rows.filter(({ atMs }) => last - atMs <= KEPT_MS);
    return {
      timeS: rows.map(({ atMs }) => (atMs - (rows[0]?.atMs ?? 0)) / 1000),
      rollerRadS: rows.map(({ radS }) => radS),
    };
  }
}
