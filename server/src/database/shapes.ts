import type { LimitCrossed, Pull, Setup } from '@prandel/core';
import type { RegisterMap } from '@prandel/formats';

/** What a package carried beyond a job; its unknown files are rows of `files`. */
export interface PackageExtrasRecord {
  readonly descriptor: Record<string, unknown>;
  readonly setupCells: Record<string, Record<string, string>>;
  readonly pullCells: Record<string, Record<string, string>>;
  readonly weatherCells: Record<string, string>[];
}

export const INSTRUMENT_KINDS = ['rollers', 'weather', 'bus', 'aux'] as const;
export type InstrumentKind = (typeof INSTRUMENT_KINDS)[number];

/** Where an instrument is reached; null: the bay has none of this kind. */
export interface InstrumentAddress {
  readonly host: string;
  readonly port: number;
}
export type BayInstruments = Readonly<Record<InstrumentKind, InstrumentAddress | null>> & {
  readonly registers: RegisterMap;
};

/** The state of a job in a bay. It survives a restart; live readings do not belong to it. */
export interface BayRun {
  readonly phase: 'round' | 'fitting' | 'between';
  readonly setup: Setup['id'];
  readonly round: number;
  readonly extraSettle: number;
  /** Bay time of the last pull's end, ISO; drives the interval and the cool-down. */
  readonly lastPullEndedAt: string | null;
  readonly lastPullId: string | null;
  /** Setup and round of the last pull. */
  readonly lastPullRound: string | null;
  /** A deliberate override of the closed gate for the next pull. */
  readonly override: { readonly reason: string; readonly person: string } | null;
  readonly stop: { readonly crossed: LimitCrossed; readonly at: string } | null;
}

/** A pull that is being recorded: what is known of it before its samples are. */
export interface RecordingDraft {
  readonly pull: Omit<Pull, 'channels'>;
  readonly channels: readonly string[];
  /** Bay time at which the recording began, milliseconds since 1970. */
  readonly startMs: number;
}
