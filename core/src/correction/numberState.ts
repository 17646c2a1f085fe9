import type { Air } from '../air/air.ts';
import type { NumberState } from '../job/job.ts';
import { correctionFactor, isCorrectionId } from './standards.ts';

/** What a person said of the numbers of files of one kind. `as-stated`: each file says its standard and its factor. */
export interface NumbersSaid {
  readonly state: 'uncorrected' | 'as-stated' | 'corrected' | 'scaled' | 'unknown';
  readonly standard: string | null;
  readonly factor: number | null;
}

/** What a file says of its own numbers. */
export interface FileSays {
  readonly kind: 'uncorrected' | 'corrected';
  readonly standard: string | null;
  readonly factor: number | null;
}

/**
 * Factor of a named standard; null for one that is not known here, or where the air is not.
 * @example namedFactor('din-70020', { pressureHpa: 1013.25, airC: 20, relativeHumidity: 0 }) // 1
 */
export function namedFactor(standard: string | null, air: Air | null): number | null {
  if (air === null || standard === null || !isCorrectionId(standard) || standard === 'iso-1585-ci') return null;
  return correctionFactor(standard, air).factor;
}

/**
 * The state of a pull's numbers from what was said of its kind of files, what its own file says, and its weather: where only the standard is
 * known, the factor is computed.
 * @returns null where that leaves it open
 * @example numberStateUnder({ state: 'scaled', standard: null, factor: 1.15 }, null, null) // { kind: 'scaled', factor: 1.15 }
 */
export function numberStateUnder(said: NumbersSaid, file: FileSays | null, air: Air | null): NumberState | null {
  const corrected = (standard: string | null, factor: number | null): NumberState | null =>
    factor === null ? null : { kind: 'corrected', standard: standard ?? 'unnamed', factor };
  switch (said.state) {
    case 'uncorrected':
    case 'unknown':
      return { kind: said.state };
    case 'scaled':
      return said.factor === null ? null : { kind: 'scaled', factor: said.factor };
    case 'corrected':
      return corrected(said.standard, said.factor ?? namedFactor(said.standard, air));
    case 'as-stated':
      if (file === null || file.kind === 'uncorrected') return file && { kind: 'uncorrected' };
      return corrected(file.standard, file.factor ?? namedFactor(file.standard, air));
  }
}
