import type { GateVerdict } from '@prandel/core';

/** The key under which silent rollers hold a pull up. */
const ROLLERS = 'rollers';

/**
 * How long each closed gate keeps the next pull of a round from starting, in bay time. What a look found holds until the next look;
 * gates that are closed at once count each for itself. A restart of the bay's process begins anew.
 */
export class HoldClock {
  readonly #seconds = new Map<string, number>();
  #last: { readonly atMs: number; readonly closed: readonly string[] } | null = null;

  /** Takes what a look at the gate found. @param gate null: no pull is waited for */
  look(atMs: number, gate: GateVerdict | null): void {
    this.#count(atMs);
    if (gate === null) this.#seconds.clear();
    this.#last = { atMs, closed: gate === null || gate.state === 'ready' ? [] : gate.reasons.map(keyOf) };
  }

  /** A pull begins: whole seconds by the gate's key, of gates that held it for at least half of one. The clock starts again. */
  take(atMs: number): Record<string, number> {
    this.#count(atMs);
    const held = [...this.#seconds].map(([key, s]) => [key, Math.round(s)] as const).filter(([, s]) => s > 0);
    this.#seconds.clear();
    this.#last = null;
    return Object.fromEntries(held.sort(([a], [b]) => (a < b ? -1 : 1)));
  }

  #count(atMs: number): void {
    const seconds = (atMs - (this.#last?.atMs ?? atMs)) / 1000;
    if (!(seconds > 0)) return;
    for (const key of this.#last!.closed) this.#seconds.set(key, (this.#seconds.get(key) ?? 0) + seconds);
  }
}

function keyOf(reason: GateVerdict['reasons'][number]): string {
  return reason.kind === 'condition' ? reason.key : ROLLERS;
}
