/** Pieces of work waiting, one of every shop in turn: one shop's hundred files keep no other waiting. Within a shop the order stays. */
export class FairQueue<T> {
  readonly #shops = new Map<string, T[]>();

  push(shop: string, piece: T): void {
    const own = this.#shops.get(shop);
    if (own) own.push(piece);
    else this.#shops.set(shop, [piece]);
  }

  shift(): T | undefined {
    const [next] = this.#shops;
    if (!next) return undefined;
    const [shop, own] = next;
    const piece = own.shift();
    // A shop that was served goes to the end of the row.
    this.#shops.delete(shop);
    if (own.length > 0) this.#shops.set(shop, own);
    return piece;
  }

  remove(shop: string, piece: T): boolean {
    const own = this.#shops.get(shop);
    const at = own?.indexOf(piece) ?? -1;
    if (!own || at < 0) return false;
    own.splice(at, 1);
    if (own.length === 0) this.#shops.delete(shop);
    return true;
  }
}
