import type { Job, Judgement } from '@prandel/core';
import { useCallback, useEffect, useId, useState } from 'react';
import { fetchFrames, judge, knownJudgement, type Step } from './judge.ts';

/** A part of a judgement that is on screen, and the job it is of. */
export interface JudgedPart {
  readonly job: Job;
  readonly judgement: Judgement;
}

export interface Judged {
  /** Verdicts, and of what they do not bring yet what was there before. */
  readonly judgement: Judgement | null;
  /** The job that was judged: what is on screen belongs together while a newer one is being judged. */
  readonly judged: Job | null;
  /** Curves of pulls and setups, without readings of channels: they come first, and stay the same object while the rest follows. */
  readonly curves: JudgedPart | null;
  /** Bands and ribbon: they come last. */
  readonly difference: JudgedPart | null;
  /** How far the judgement goes; what it does not bring yet is as it was. */
  readonly step: Step['step'] | null;
  /** True while a newer job is being judged; the last judgement stays on screen meanwhile. */
  readonly busy: boolean;
  readonly failed: string | null;
  readonly milliseconds: number | null;
}

export const NOTHING: Judged = {
  ...{ judgement: null, judged: null, curves: null, difference: null, step: null },
  ...{ busy: true, failed: null, milliseconds: null },
};

/** Judges a job in the page's worker. `job` null: not loaded yet; what stands for its samples is fetched meanwhile. */
export function useJudgement(
  rowId: string,
  job: Job | null,
): Judged & { readonly judgeOnce: (other: Job) => Promise<Judgement> } {
  const place = useId();
  const knownOf = (row: string, of: Job | null) => judgedAs(of && knownJudgement(row, of), of);
  const [shown, setShown] = useState(() => ({ rowId, ...(knownOf(rowId, job) ?? NOTHING) }));
  // Nothing of another job is shown, not for a moment.
  const state = shown.rowId === rowId ? shown : { rowId, ...(knownOf(rowId, job) ?? NOTHING) };

  useEffect(() => {
    if (rowId) fetchFrames(rowId).catch(() => {});
  }, [rowId]);

  useEffect(() => {
    if (!job) return;
    const set = (next: (before: Judged) => Judged) =>
      setShown((s) => ({ ...next(s.rowId === rowId ? s : NOTHING), rowId }));
    const known = judgedAs(knownJudgement(rowId, job), job);
    if (known) return set((s) => (s.judged === job && !s.busy ? s : known));
    set((s) => ({ ...s, busy: true }));
    return judge(
      place,
      rowId,
      job,
      (step) => set((s) => taken(step, job, s)),
      (error) => set((s) => ({ ...s, busy: false, failed: error.message })),
    );
  }, [place, rowId, job]);

  // Another job on the same samples, judged beside the one on screen.
  const judgeOnce = useCallback(
    (other: Job) =>
      new Promise<Judgement>((done, failed) => {
        judge(`${place} once`, rowId, other, ({ judgement, step }) => step === 'all' && done(judgement), failed);
      }),
    [place, rowId],
  );

  return { ...state, judgeOnce };
}

function judgedAs(step: Step | null, job: Job | null): Judged | null {
  return step && job && taken(step, job, NOTHING);
}

/** What is on screen after a step: what it does not bring yet stays as it was. */
export function taken({ judgement, milliseconds, step }: Step, job: Job, before: Judged): Judged {
  const part = { job, judgement };
  const curves = before.curves?.job === job ? before.curves : part;
  if (step === 'all')
    return { ...{ judgement, judged: job, curves, difference: part, step, milliseconds }, busy: false, failed: null };
  const old = before.judgement;
  // Curves alone are no answer to who has seen none; before there is a verdict the page says that it judges.
  if (step === 'curves') return old ? { ...before, curves: part, step } : before;
  const verdicts = judgement.verdicts.map((v) => {
    const own = old?.verdicts.find((o) => o.candidate === v.candidate && o.measure === v.measure);
    return own ? { ...v, bands: own.bands, ribbon: own.ribbon, narrower: own.narrower } : v;
  });
  const { contrasts = [], simultaneous = [] } = old ?? {};
  const words = { ...judgement, verdicts, contrasts, simultaneous };
  return { ...before, judgement: words, judged: job, curves, step, failed: null };
}
