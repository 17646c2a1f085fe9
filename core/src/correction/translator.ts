import type { Air } from '../air/air.ts';
import {
  CORRECTION_IDS,
  correctionFactor,
  customFactor,
  type CompressionIgnition,
  type CorrectionId,
  type CustomStandard,
  type OutsideValidity,
} from './standards.ts';

/** A standard of the shop's own: a reference, or a factor that a sheet prints. */
export type OwnStandard =
  ({ readonly kind: 'reference' } & CustomStandard) | { readonly kind: 'factor'; readonly factor: number };

/** A standard by its id, or one of the shop's own. */
export type AnyStandard = CorrectionId | OwnStandard;

/** A number under one standard. */
export interface Translated<S> {
  readonly standard: S;
  /** Factor on the uncorrected number; null where what the standard needs is not known. */
  readonly factor: number | null;
  readonly value: number | null;
  /** Against the number as it was given, per cent. */
  readonly percent: number | null;
  readonly outside: readonly OutsideValidity[];
}

/**
 * The factor of a standard in some weather. An engine is asked for only by the standard for compression ignition; without one its factor is null.
 * @example factorOf({ kind: 'factor', factor: 1.02 }, { pressureHpa: 990, airC: 25, relativeHumidity: 0 }).factor // 1.02
 */
export function factorOf(
  standard: AnyStandard,
  air: Air,
  engine?: CompressionIgnition,
): { readonly factor: number | null; readonly outside: readonly OutsideValidity[] } {
  if (typeof standard === 'string')
    return standard === 'iso-1585-ci' && !engine
      ? { factor: null, outside: [] }
      : correctionFactor(standard, air, engine);
  return { factor: standard.kind === 'factor' ? standard.factor : customFactor(standard, air), outside: [] };
}

/**
 * "My sheet says X under standard S in weather W": the same under all others, and uncorrected. A printed factor is believed over the computed one.
 * @param value power or torque as the sheet has it, any unit
 * @param own the shop's own standards, which stand behind the published ones
 * @example translations(100, { from: 'none', printed: null, air: { pressureHpa: 1013.25, airC: 20, relativeHumidity: 0 } })[4].value // 100
 */
export function translations(
  value: number,
  {
    from,
    printed,
    air,
    engine,
    own = [],
  }: {
    readonly from: AnyStandard;
    readonly printed: number | null;
    readonly air: Air;
    readonly engine?: CompressionIgnition;
    readonly own?: readonly OwnStandard[];
  },
): Translated<AnyStandard>[] {
  const divided = printed ?? factorOf(from, air, engine).factor;
  return [...CORRECTION_IDS, ...own].map((standard) => {
    const { factor, outside } = factorOf(standard, air, engine);
    if (factor === null || divided === null) return { standard, factor, value: null, percent: null, outside };
    const ratio = factor / divided;
    return { standard, factor, value: value * ratio, percent: 100 * (ratio - 1), outside };
  });
}

/**
 * Least and greatest of translated numbers, and how far they are apart in per cent of the least; null without two.
 * @example spreadOf([{ value: 100 }, { value: 104 }]).percent // 4
 */
export function spreadOf(
  rows: readonly { readonly value: number | null }[],
): { low: number; high: number; percent: number } | null {
  const values = rows.flatMap(({ value }) => (value === null ? [] : [value]));
  if (values.length < 2) return null;
  const [low, high] = [Math.min(...values), Math.max(...values)];
  return { low, high, percent: 100 * (high / low - 1) };
}
