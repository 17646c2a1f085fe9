import type { LiveMessage, LiveSheet } from '@prandel/core';

type Listener = (message: LiveMessage) => void;
type NoSeq<T> = T extends unknown ? Omit<T, 'seq' | 'v'> : never;

const KEPT = 600;

/**
 * The messages of one bay, numbered. Somebody who lost the line names the last number seen and gets what came since; who
 * comes anew, or too late, gets the sheet and the whole pull that is being recorded.
 */
export class LiveFeed {
  readonly #listeners = new Set<Listener>();
  #kept: LiveMessage[] = [];
  #seq = 0;
  #sheet: LiveMessage | null = null;
  #pull: { id: string; names: readonly string[]; rows: (number | null)[][] } | null = null;

  listen(listener: Listener, since: number | null): () => void {
    for (const message of this.missed(since)) listener(message);
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** What a screen needs to catch up. */
  missed(since: number | null): LiveMessage[] {
    const first = this.#kept[0]?.seq ?? 0;
    if (since !== null && since <= this.#seq && since >= first - 1) return this.#kept.filter((m) => m.seq > since);
    const pull = this.#pull;
    const samples: LiveMessage[] = pull
      ? [
          {
            v: 1,
            seq: this.#seq,
            kind: 'samples',
            pullId: pull.id,
            from: 0,
            names: pull.names,
            rows: pull.rows,
            arrivedMs: Date.now(),
          },
        ]
      : [];
    // Everything up to now is sent, so both bear the newest number; an old one would have samples sent again.
    return [...samples, ...(this.#sheet ? [{ ...this.#sheet, seq: this.#seq }] : [])];
  }

  beginPull(id: string, names: readonly string[]): void {
    this.#pull = { id, names, rows: [] };
  }

  sheet(sheet: LiveSheet): void {
    this.#sheet = this.#send({ kind: 'sheet', sheet });
  }

  samples(
    pullId: string,
    from: number,
    names: readonly string[],
    rows: readonly (readonly number[])[],
    arrivedMs: number,
  ): void {
    if (rows.length === 0) return;
    const cells = rows.map((row) => row.map((v) => (Number.isFinite(v) ? v : null)));
    if (this.#pull?.id === pullId) this.#pull.rows.push(...cells);
    this.#send({ kind: 'samples', pullId, from, names, rows: cells, arrivedMs });
  }

  close(): void {
    this.#listeners.clear();
  }

  #send(body: NoSeq<LiveMessage>): LiveMessage {
    const message = { v: 1, seq: ++this.#seq, ...body } as LiveMessage;
    // A sheet replaces the one before it: only the newest is worth catching up with.
    if (body.kind === 'sheet') this.#kept = this.#kept.filter((m) => m.kind !== 'sheet');
    this.#kept.push(message);
    if (this.#kept.length > KEPT) this.#kept.splice(0, this.#kept.length - KEPT);
    for (const listener of this.#listeners) listener(message);
    return message;
  }
}
