import { readLiveMessage, type LiveMessage, type LiveSheet } from '@prandel/core';
import { useEffect, useRef, useState } from 'react';

/** The pull that is being recorded, as far as it was heard. */
export interface LiveTrace {
  pullId: string;
  names: readonly string[];
  rows: (readonly (number | null)[])[];
}

export interface LiveView {
  readonly sheet: LiveSheet | null;
  readonly trace: LiveTrace | null;
  /** Null while the line to the server stands; else since when it is lost. */
  readonly lostSince: number | null;
}

const RETRY_MS = 700;
const GIVEN_UP_MS = 5000;
/** The server closes a screen with this code when its session was ended. */
const SESSION_ENDED = 4401;

/** Milliseconds from a sample's arrival at the server to the frame that painted it; the bench page and the tests read them. */
const paintDelays: number[] = [];
(window as unknown as { prandelPaintDelays: number[] }).prandelPaintDelays = paintDelays;

/**
 * Listens to a bay. A lost line is taken up again by itself from the last number seen, so that a reload, a sleeping screen
 * or a pulled network cable miss nothing of a pull.
 */
export function useLiveBay(bayId: string | null): LiveView {
  const [view, setView] = useState<LiveView>({ sheet: null, trace: null, lostSince: null });
  const seq = useRef<number | null>(null);
  useEffect(() => {
    if (!bayId) return;
    seq.current = null;
    let socket: WebSocket | null = null;
    let retry = 0;
    let heard = Date.now();
    let stopped = false;
    let trace: LiveTrace | null = null;
    let sheet: LiveSheet | null = null;
    let arrived: number[] = [];
    let frame = 0;
    const paint = () => {
      frame = 0;
      const now = Date.now();
      // After the frame that is being prepared now has been painted.
      const painted = arrived;
      arrived = [];
      setView({ sheet, trace: trace && { ...trace }, lostSince: null });
      requestAnimationFrame(() => {
        for (const at of painted) paintDelays.push(Date.now() - at);
        if (paintDelays.length > 5000) paintDelays.splice(0, paintDelays.length - 5000);
      });
      heard = now;
    };
    const take = (message: LiveMessage) => {
      seq.current = message.seq;
      if (message.kind === 'sheet') sheet = message.sheet;
      else {
        if (trace?.pullId !== message.pullId || message.from === 0)
          trace = { pullId: message.pullId, names: message.names, rows: [] };
        trace.rows.length = Math.min(trace.rows.length, message.from);
        trace.rows.push(...message.rows);
        arrived.push(message.arrivedMs);
      }
      frame ||= requestAnimationFrame(paint);
    };
    const connect = () => {
      const since = seq.current === null ? '' : `&since=${seq.current}`;
      const own = new WebSocket(`${location.origin.replace(/^http/, 'ws')}/api/live?bay=${bayId}${since}`);
      socket = own;
      own.onmessage = (event: MessageEvent<string>) => {
        heard = Date.now();
        const message = readLiveMessage(event.data);
        if (message) take(message);
      };
      own.onclose = ({ code }) => {
        if (stopped || socket !== own) return;
        if (code === SESSION_ENDED) return void location.assign('/sign-in');
        setView((v) => ({ ...v, lostSince: v.lostSince ?? Date.now() }));
        retry = window.setTimeout(connect, RETRY_MS);
      };
    };
    connect();
    // A socket that says nothing is as lost as a closed one: a sheet comes several times a second.
    const watch = window.setInterval(() => {
      if (Date.now() - heard < GIVEN_UP_MS) return;
      heard = Date.now();
      setView((v) => ({ ...v, lostSince: v.lostSince ?? Date.now() }));
      const old = socket;
      socket = null;
      old?.close();
      window.clearTimeout(retry);
      connect();
    }, 1000);
    return () => {
      stopped = true;
      window.clearInterval(watch);
      window.clearTimeout(retry);
      cancelAnimationFrame(frame);
      socket?.close();
    };
  }, [bayId]);
  return view;
}
