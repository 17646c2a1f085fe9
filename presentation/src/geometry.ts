/** A panel's plot area in pixels and what its vertical axis spans. */
export interface Panel {
  readonly top: number;
  readonly height: number;
  readonly min: number;
  readonly max: number;
  readonly step: number;
}

/** Everything placed by hand: panels that share one rpm axis. */
export interface Geometry {
  readonly width: number;
  readonly height: number;
  readonly left: number;
  readonly right: number;
  readonly rpmFrom: number;
  readonly rpmTo: number;
  readonly power: Panel;
  readonly torque: Panel;
  readonly ribbon: Panel;
  readonly strip: { readonly top: number; readonly height: number };
}

export const LEFT_GUTTER = 40;
export const RIGHT_GUTTER = 104;

export function xOf(g: Geometry, rpm: number): number {
  return g.left + ((rpm - g.rpmFrom) / (g.rpmTo - g.rpmFrom)) * (g.width - g.left - g.right);
}

export function rpmAt(g: Geometry, x: number): number {
  return g.rpmFrom + ((x - g.left) / (g.width - g.left - g.right)) * (g.rpmTo - g.rpmFrom);
}

export function yOf(panel: Panel, value: number): number {
  return panel.top + panel.height * (1 - (value - panel.min) / (panel.max - panel.min));
}

/** A round axis over values: 1, 2, 2.5 or 5 times a power of ten, about `ticks` of them. */
export function axisOver(low: number, high: number, ticks: number): { min: number; max: number; step: number } {
  if (!Number.isFinite(low) || !Number.isFinite(high)) return { min: 0, max: 1, step: 1 };
  // Where the values are so large that a step would vanish beside them, the step grows with them.
  const span = Math.max(high - low, 1e-9, 1e-6 * Math.max(Math.abs(low), Math.abs(high)));
  const rough = span / ticks;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 2.5, 5, 10].map((m) => m * power).find((s) => s >= rough) ?? rough;
  return { min: Math.floor(low / step) * step, max: Math.ceil(high / step) * step, step };
}

/** The ticks of an axis, zero exactly zero, and the digits that tell each from its neighbours. */
export function ticksOf({ min, max, step }: { readonly min: number; readonly max: number; readonly step: number }): {
  readonly values: readonly number[];
  readonly digits: number;
} {
  let digits = 0;
  while (digits < 9 && Math.abs(Math.round(step * 10 ** digits) / (step * 10 ** digits) - 1) > 1e-6) digits += 1;
  const first = Math.round(min / step);
  const count = Math.round((max - min) / step) + 1;
  return { values: Array.from({ length: count }, (_, i) => (first + i) * step), digits };
}

/**
 * Labels at wanted heights, pushed apart to a pitch, kept together around their middle and between two heights; where there
 * is no room for the pitch they stand as far apart as there is.
 */
export function spread(wanted: readonly number[], pitch: number, within: readonly [number, number]): number[] {
  const [top, bottom] = within;
  const room = Math.min(pitch, wanted.length > 1 ? (bottom - top) / (wanted.length - 1) : pitch);
  const apart = pushedApart(wanted, room);
  const order = apart.map((_, i) => i).sort((a, b) => apart[a]! - apart[b]! || wanted[a]! - wanted[b]! || a - b);
  let least = top;
  for (const i of order) {
    apart[i] = Math.max(apart[i]!, least);
    least = apart[i] + room;
  }
  let most = bottom;
  for (const i of order.toReversed()) {
    apart[i] = Math.min(apart[i]!, most);
    most = apart[i] - room;
  }
  return apart;
}

function pushedApart(wanted: readonly number[], pitch: number): number[] {
  const order = wanted.map((y, i) => ({ y, i })).sort((a, b) => a.y - b.y);
  const placed = order.map(({ y }) => y);
  for (let pass = 0; pass < 20; pass += 1) {
    for (let k = 1; k < placed.length; k += 1) {
      const lack = pitch - (placed[k]! - placed[k - 1]!);
      if (lack > 0.01) {
        placed[k]! += lack / 2;
        placed[k - 1]! -= lack / 2;
      }
    }
  }
  const out = new Array<number>(wanted.length).fill(0);
  order.forEach(({ i }, k) => (out[i] = placed[k]!));
  return out;
}
