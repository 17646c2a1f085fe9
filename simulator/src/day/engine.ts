import type { Engine } from './spec.ts';

/** Torque at an engine speed by a monotone-friendly cubic through the engine's points (Catmull–Rom on uneven knots). */
export function torqueOf({ points }: Engine, rpm: number): number {
  const last = points.length - 1;
  if (rpm <= points[0]![0]) return points[0]![1];
  if (rpm >= points[last]![0]) return points[last]![1];
  let i = 0;
  while (points[i + 1]![0] < rpm) i += 1;
  const [x1, y1] = points[i]!;
  const [x2, y2] = points[i + 1]!;
  const slope = (a: number, b: number) => (points[b]![1] - points[a]![1]) / (points[b]![0] - points[a]![0]);
  const m1 = slope(Math.max(0, i - 1), i + 1);
  const m2 = slope(i, Math.min(last, i + 2));
  const h = x2 - x1;
  const s = (rpm - x1) / h;
  return (
    (2 * s ** 3 - 3 * s ** 2 + 1) * y1 +
    (s ** 3 - 2 * s ** 2 + s) * h * m1 +
    (-2 * s ** 3 + 3 * s ** 2) * y2 +
    (s ** 3 - s ** 2) * h * m2
  );
}
