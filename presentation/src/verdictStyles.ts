import type { Verdict } from '@prandel/core';

/** How a verdict is named and drawn; a shape and a word, never a hue alone. */
export interface VerdictLook {
  readonly key: 'gain' | 'loss' | 'none' | 'open' | 'nocmp';
  readonly word: string;
  readonly short: string;
  readonly colour: string;
  readonly tint: string;
}

export const VERDICT_STYLES: Record<Verdict, VerdictLook> = {
  'verified-gain': { key: 'gain', word: 'Verified gain', short: 'Gain', colour: '#12694A', tint: '#E6F1EB' },
  'verified-loss': { key: 'loss', word: 'Verified loss', short: 'Loss', colour: '#A8281C', tint: '#F8E8E4' },
  'no-meaningful-change': {
    key: 'none',
    word: 'No meaningful change',
    short: 'No change',
    colour: '#535D64',
    tint: '#EEEDE8',
  },
  'not-resolved': { key: 'open', word: 'Not resolved', short: 'Not resolved', colour: '#735600', tint: '#F6EFDA' },
  'not-comparable': {
    key: 'nocmp',
    word: 'Not comparable',
    short: 'Not comparable',
    colour: '#5A5270',
    tint: '#EEECF3',
  },
};

/** SVG inside a 16 × 16 box, in `currentColor`. */
export const VERDICT_SHAPES: Record<VerdictLook['key'], string> = {
  gain: '<path d="M8 1.5 15 14.5 1 14.5Z" fill="currentColor"/>',
  loss: '<path d="M8 14.5 1 1.5 15 1.5Z" fill="currentColor"/>',
  none: '<rect x="1" y="3.4" width="14" height="3.6" rx=".6" fill="currentColor"/><rect x="1" y="9" width="14" height="3.6" rx=".6" fill="currentColor"/>',
  open: '<path d="M8 1 15 8 8 15 1 8Z" fill="none" stroke="currentColor" stroke-width="1.8"/><path d="M8 1.2V14.8L1.2 8Z" fill="currentColor"/>',
  nocmp:
    '<circle cx="8" cy="8" r="6.2" fill="none" stroke="currentColor" stroke-width="1.9"/><path d="M3.6 12.4 12.4 3.6" stroke="currentColor" stroke-width="1.9"/>',
};
