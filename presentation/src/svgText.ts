import { spread } from './geometry.ts';

/** Words that people typed, as they may stand inside a picture's markup. */
export function escaped(words: string): string {
  return words.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}

/** What stands at the right end of a line, at a height. */
export interface EndLabel {
  readonly y: number;
  readonly words: string;
  readonly fill: string;
}

/** Labels at the right ends of lines, pushed apart where they would touch. */
export function endLabels(
  labels: readonly EndLabel[],
  x: number,
  size: number,
  within: readonly [number, number],
): string[] {
  const heights = spread(
    labels.map((l) => l.y),
    size + 3,
    within,
  );
  return labels.map(
    (l, i) =>
      `<text x="${x.toFixed(1)}" y="${(heights[i]! + size * 0.36).toFixed(1)}" font-size="${size}" font-weight="650" fill="${l.fill}">${escaped(l.words)}</text>`,
  );
}
