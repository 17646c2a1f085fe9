import { useEffect, useRef, useState } from 'react';
import { ask, type Schemas } from '../api/client.ts';

/** How far something is that a person waits for. */
export interface WorkState {
  readonly stage: 'sending' | Schemas['TaskProgress']['stage'];
  readonly share: number;
}

/** What a piece of work is given to tell its progress, and to be cancelled by. */
export interface Work {
  /** The name under which the server tells its progress. */
  readonly task: string;
  readonly signal: AbortSignal;
  readonly onSent: (share: number) => void;
}

const ASK_EVERY_MS = 300;
/** A page that did not come back within this time was left. */
const LEFT_MS = 1500;

/** Runs work that takes a while: tells how far it is, and cancels it when a person says so or leaves the page. */
export function useWork() {
  const [state, setState] = useState<WorkState | null>(null);
  const running = useRef<AbortController | null>(null);
  const leaving = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  useEffect(() => {
    clearTimeout(leaving.current);
    return () => {
      // A page that is only hidden for a moment, while something of it loads, comes back and goes on.
      leaving.current = setTimeout(() => running.current?.abort(), LEFT_MS);
    };
  }, []);
  const run = async <T>(start: WorkState['stage'], work: (own: Work) => Promise<T>): Promise<T> => {
    const controller = new AbortController();
    running.current = controller;
    const task = crypto.randomUUID();
    setState({ stage: start, share: 0 });
    let sent = start !== 'sending';
    const timer = setInterval(() => {
      if (!sent) return;
      ask('get', '/api/tasks/{id}', { params: { path: { id: task } } })
        .then((progress) => running.current === controller && setState(progress))
        .catch(() => undefined);
    }, ASK_EVERY_MS);
    const onSent = (share: number) => {
      sent = share >= 1;
      setState(sent ? { stage: 'reading', share: 0 } : { stage: 'sending', share });
    };
    try {
      return await work({ task, signal: controller.signal, onSent });
    } finally {
      clearInterval(timer);
      running.current = null;
      setState(null);
    }
  };
  return { state, run, cancel: () => running.current?.abort() };
}
