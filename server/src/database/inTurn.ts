/**
 * Runs the queries of one transaction one after the other: its connection answers one at a time, and asked for more at once it would
 * only queue them.
 */
export async function inTurn<Results extends readonly unknown[]>(
  ...queries: { readonly [K in keyof Results]: () => PromiseLike<Results[K]> }
): Promise<Results> {
  const results: unknown[] = [];
  for (const query of queries) results.push(await query());
  return results as unknown as Results;
}
