/**
 * Works through a list in order with some of the work begun ahead, so that a thread always has something to do.
 * @param most pieces of work that are under way or done and not yet taken
 * @returns place, item and what came of it; throws what the first piece that failed threw
 */
export async function* ahead<T, R>(
  items: readonly T[],
  most: number,
  work: (item: T, place: number) => Promise<R>,
): AsyncGenerator<[place: number, item: T, result: R]> {
  const begun: Promise<PromiseSettledResult<R>>[] = [];
  for (const [k, item] of items.entries()) {
    while (begun.length < Math.min(items.length, k + most))
      begun.push(Promise.allSettled([work(items[begun.length]!, begun.length)]).then(([settled]) => settled));
    const settled = await begun[k]!;
    if (settled.status === 'rejected') throw settled.reason;
    yield [k, item, settled.value];
  }
}
