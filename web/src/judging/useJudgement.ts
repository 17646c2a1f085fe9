import type { Job, Judgement } from '@prandel/core';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { WorkerAnswer, WorkerRequest } from './judge.worker.ts';

export interface Judged {
  readonly judgement: Judgement | null;
  /** True while a newer job is being judged; the last judgement stays on screen meanwhile. */
  readonly busy: boolean;
  readonly failed: string | null;
  readonly milliseconds: number | null;
}

interface Once {
  readonly done: (judgement: Judgement) => void;
  readonly failed: (error: Error) => void;
}

/** Judges a job in a web worker with the same core as the server. `job` null: not loaded yet. */
export function useJudgement(
  rowId: string,
  job: Job | null,
): Judged & { readonly judgeOnce: (other: Job) => Promise<Judgement> } {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const once = useRef(new Map<number, Once>());
  const [state, setState] = useState<Judged>({ judgement: null, busy: true, failed: null, milliseconds: null });
  const pullIds = useMemo(() => job?.pulls.map((p) => p.id).join('\n') ?? null, [job]);
  const [loadedFor, setLoadedFor] = useState<string | null>(null);

  useEffect(() => {
    const own = new Worker(new URL('./judge.worker.ts', import.meta.url), { type: 'module' });
    own.addEventListener('message', ({ data }: MessageEvent<WorkerAnswer>) => {
      const waiting = once.current.get(data.judged);
      if (waiting) {
        if ('failed' in data) waiting.failed(new Error(data.failed));
        else if (data.partial) return;
        else waiting.done(data.judgement);
        once.current.delete(data.judged);
        return;
      }
      if (data.judged !== asked.current) return;
      if ('failed' in data) setState((s) => ({ ...s, busy: false, failed: data.failed }));
      else if (data.partial)
        setState((s) => ({ ...s, judgement: withRest(data.judgement, s.judgement), failed: null }));
      else setState({ judgement: data.judgement, busy: false, failed: null, milliseconds: data.milliseconds });
    });
    worker.current = own;
    return () => own.terminate();
  }, []);

  useEffect(() => {
    if (pullIds === null) return;
    let stale = false;
    const load = async () => {
      const response = await fetch(`/api/jobs/${rowId}/channels`);
      if (!response.ok) throw new Error('The samples of this job could not be loaded. Reload the page.');
      const frames = await response.arrayBuffer();
      if (stale) return;
      worker.current?.postMessage({ frames } satisfies WorkerRequest, [frames]);
      setLoadedFor(pullIds);
    };
    load().catch((error: Error) => !stale && setState((s) => ({ ...s, busy: false, failed: error.message })));
    return () => {
      stale = true;
    };
  }, [rowId, pullIds]);

  useEffect(() => {
    if (!job || loadedFor === null || loadedFor !== pullIds) return;
    asked.current += 1;
    setState((s) => ({ ...s, busy: true }));
    worker.current?.postMessage({ judge: asked.current, job } satisfies WorkerRequest);
  }, [job, loadedFor, pullIds]);

  // Another job on the same samples, judged beside the one on screen; ids below zero are these.
  const judgeOnce = useCallback(
    (other: Job) =>
      new Promise<Judgement>((done, failed) => {
        const id = -1 - once.current.size;
        once.current.set(id, { done, failed });
        worker.current?.postMessage({ judge: id, job: other } satisfies WorkerRequest);
      }),
    [],
  );

  return { ...state, judgeOnce };
}

/** Verdicts that came ahead of their bands and ribbon; those of before stay on screen until the new ones are in. */
function withRest(judgement: Judgement, before: Judgement | null): Judgement {
  const of = (candidate: string) => before?.verdicts.find((v) => v.candidate === candidate);
  return {
    ...judgement,
    contrasts: before?.contrasts ?? [],
    simultaneous: before?.simultaneous ?? [],
    verdicts: judgement.verdicts.map((v) => {
      const old = of(v.candidate);
      return old ? { ...v, bands: old.bands, ribbon: old.ribbon, narrower: old.narrower } : v;
    }),
  };
}
