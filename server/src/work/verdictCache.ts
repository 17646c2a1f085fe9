import { Injectable, Logger, UnprocessableEntityException } from '@nestjs/common';
import type { CandidateVerdict, Gain, Job } from '@prandel/core';
import { databaseAway, loggable } from '../database/faults.ts';
import { Judging } from './judging.ts';

/** What a list knows of a job's verdicts. */
export type KnownVerdicts =
  | { readonly state: 'judged'; readonly verdicts: readonly VerdictFigure[] }
  | { readonly state: 'pending' }
  | { readonly state: 'not-judged'; readonly problem: string };

export interface VerdictFigure {
  readonly candidate: string;
  readonly verdict: CandidateVerdict['verdict'];
  /** Estimate and interval in the SI unit of the measure; null without an estimate. */
  readonly gain: { readonly unit: Gain['unit']; value: number; lowValue: number; highValue: number } | null;
}

const MOST = 20_000;
const PENDING: KnownVerdicts = { state: 'pending' };

/** Verdicts by job and version. What is not known yet is worked out in the background; nobody waits for a whole list of them. */
@Injectable()
export class VerdictCache {
  readonly #known = new Map<string, KnownVerdicts>();
  readonly #coming = new Map<string, Promise<void>>();

  constructor(private readonly judging: Judging) {}

  /** What is known now; work that is missing is begun. @param read reads the job with its samples */
  of(shopId: string, jobId: string, version: number, read: () => Promise<Job>): KnownVerdicts {
    const key = `${jobId}:${version}`;
    const known = this.#known.get(key);
    if (known) return known;
    if (!this.#coming.has(key))
      this.#coming.set(
        key,
        this.#judge(shopId, key, read).finally(() => this.#coming.delete(key)),
      );
    return PENDING;
  }

  /** When everything that was begun is known, or the time is over. */
  async settled(ms: number): Promise<void> {
    let timer: NodeJS.Timeout | undefined;
    const over = new Promise<void>((done) => {
      timer = setTimeout(done, ms);
    });
    await Promise.race([Promise.all(this.#coming.values()), over]);
    clearTimeout(timer);
  }

  async #judge(shopId: string, key: string, read: () => Promise<Job>): Promise<void> {
    try {
      const { verdicts } = await this.judging.judgement(shopId, read);
      this.#keep(key, { state: 'judged', verdicts: verdicts.map(figureOf) });
    } catch (error) {
      // Asked for again once the database answers.
      if (databaseAway(error)) return;
      if (!(error instanceof UnprocessableEntityException)) new Logger('Verdicts').error(loggable(error));
      const problem =
        error instanceof UnprocessableEntityException
          ? error.message
          : 'This job cannot be judged: the computation failed. The server’s log says where.';
      this.#keep(key, { state: 'not-judged', problem });
    }
  }

  #keep(key: string, verdicts: KnownVerdicts): void {
    for (const [oldest] of this.#known) {
      if (this.#known.size < MOST) break;
      this.#known.delete(oldest);
    }
    this.#known.set(key, verdicts);
  }
}

function figureOf({ candidate, verdict, gain }: CandidateVerdict): VerdictFigure {
  return {
    candidate,
    verdict,
    gain: gain && { unit: gain.unit, value: gain.value, lowValue: gain.lowValue, highValue: gain.highValue },
  };
}
