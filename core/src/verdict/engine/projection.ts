import type { EngineModel } from './model.ts';

/**
 * P = Q·(QᵀVQ)⁻¹·Qᵀ with V = K + σ²I, at every node of mount τ, drift s and scatter σ: what the values of the pulls say once the means
 * of setups and blocks are taken out. Q: an orthonormal basis of what those means leave over. Nodes are counted as in `nodeAt`.
 */
export interface Projection {
  /** N − number of independent means. */
  readonly degrees: number;
  /** −½·ln det QᵀVQ of every node. */
  readonly halfLogWeights: Float64Array;
  /** P_ii, at node·N + i: how firmly the others hold pull i. */
  readonly firm: Float64Array;
  /**
   * P·v of several nodes, in the order of the list; those of one pair of mount and drift should stand together.
   * @param vector v of a pair, N values
   * @param each gets P·v, which holds until the next call
   */
  through(
    nodes: readonly number[],
    vector: (pair: number) => Float64Array,
    each: (projected: Float64Array, node: number, place: number) => void,
  ): void;
}

/** Pairs of mount and drift nodes, at index mount·drifts + drift. */
export function mountDriftPairs(model: EngineModel): { readonly mount: number; readonly drift: number }[] {
  return model.mountNodes.flatMap((mount) => model.driftNodes.map((drift) => ({ mount, drift })));
}

/** Every node, in order. */
export function allNodes(model: EngineModel): number[] {
  const count = model.mountNodes.length * model.driftNodes.length * model.scatterNodes.length;
  return Array.from({ length: count }, (_, node) => node);
}
