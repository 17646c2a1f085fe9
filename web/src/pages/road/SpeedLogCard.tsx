import type { Job, RoadPass } from '@prandel/core';
import { plain } from '@prandel/presentation';
import { useMutation } from '@tanstack/react-query';
import { FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import { bring, type Schemas } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';

type Found = Schemas['FoundPassDto'] & { setupId: string; taken: boolean; known: boolean };

/** A pass that takes this much longer than the quickest was hardly driven at full throttle. */
const SLOW_SHARE = 1.3;

/** Passes found in a log of speed: each is looked at, given its setup, and kept or left. */
export function SpeedLogCard({
  rowId,
  job,
  between,
  directions,
  busy,
  onKeep,
}: {
  rowId: string;
  job: Job;
  between: readonly [number, number];
  directions: readonly string[];
  busy: boolean;
  onKeep: (passes: RoadPass[]) => void;
}) {
  const picker = useRef<HTMLInputElement>(null);
  const [found, setFound] = useState<Found[]>([]);
  const [name, setName] = useState('');
  const setups = job.setups.filter((s) => s.returnsTo === null);
  const read = useMutation({
    mutationFn: (file: File) => {
      const form = new FormData();
      form.append('file', file);
      setName(file.name);
      return bring<Schemas['SpeedLogRead']>(
        `/api/jobs/${rowId}/road/speed-log?fromKmH=${between[0]}&toKmH=${between[1]}`,
        form,
      );
    },
    onSuccess: ({ passes }) => {
      const quickest = Math.min(...passes.map((p) => p.seconds));
      const first = job.question.baselineSetup;
      setFound(
        passes.map((p) => {
          const known = (job.roadPasses ?? []).some((q) => q.at !== null && q.at === p.at);
          return { ...p, known, setupId: first, taken: !known && !p.broken && p.seconds <= SLOW_SHARE * quickest };
        }),
      );
    },
  });
  const change = (at: number, patch: Partial<Found>) =>
    setFound(found.map((p, i) => (i === at ? { ...p, ...patch } : p)));
  /** A setup holds from a pass on until the next change of the car. */
  const from = (at: number, setupId: string) => setFound(found.map((p, i) => (i >= at ? { ...p, setupId } : p)));
  const kept = found.filter((p) => p.taken);
  const nameless = kept.some((p) => p.direction.trim() === '');
  const keep = () => {
    onKeep(
      kept.map(({ setupId, at, direction, seconds }) => ({
        ...{ setupId, at, direction: direction.trim(), seconds: Number(seconds.toFixed(3)) },
        ...{ fromKmH: between[0], toKmH: between[1] },
      })),
    );
    setFound([]);
    read.reset();
  };
  return (
    <section className="sheet card" aria-label="Log of speed">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="grow">From a log of speed</h2>
        <input
          ref={picker}
          type="file"
          accept=".csv,.txt,.nmea,.log,text/*"
          className="sr-only"
          tabIndex={-1}
          aria-label="File of a speed log"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) read.mutate(file);
            e.target.value = '';
          }}
        />
        <button className="btn" disabled={read.isPending} onClick={() => picker.current?.click()}>
          <FileUp size={15} aria-hidden />
          {read.isPending ? 'Reading …' : 'Choose a log'}
        </button>
      </div>
      <p className="text-ink-2 mt-0.5 text-[12.5px]">
        A CSV with time and speed, or the RMC sentences of a receiver. Passes are where the speed rises through both
        limits; whether the throttle was open, the log does not say.
      </p>
      {read.error && (
        <div className="mt-2">
          <Notice kind="bad">{read.error.message}</Notice>
        </div>
      )}
      {read.data && found.length === 0 && (
        <div className="mt-2">
          <Notice>
            {name} never rises from under {between[0]} through {between[1]} km/h.
          </Notice>
        </div>
      )}
      {read.data && found.length > 0 && (
        <>
          <SpeedPicture log={read.data} found={found} between={between} />
          {read.data.problems.length > 0 && (
            <p className="text-wait text-[12px]">
              {read.data.problems.length} broken sentences were left out, the first in line{' '}
              {read.data.problems[0]!.line}.
            </p>
          )}
          <table className="table mt-1.5">
            <thead>
              <tr>
                <th>Keep</th>
                <th className="r">At, s</th>
                <th className="r">Seconds</th>
                <th>Direction</th>
                <th>Setup from here on</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {found.map((p, i) => (
                <tr key={i} className={p.taken ? '' : 'text-ink-3'}>
                  <td>
                    <input
                      type="checkbox"
                      aria-label={`Keep the pass at ${plain(p.fromS, 0)} s`}
                      checked={p.taken}
                      onChange={(e) => change(i, { taken: e.target.checked })}
                    />
                  </td>
                  <td className="r num">{plain(p.fromS, 1)}</td>
                  <td className="r num font-[620]">{plain(p.seconds, 2)}</td>
                  <td>
                    <input
                      className="input !min-h-[28px] !w-[110px] !py-0.5"
                      aria-label={`Direction of the pass at ${plain(p.fromS, 0)} s`}
                      list="road-directions"
                      maxLength={40}
                      value={p.direction}
                      onChange={(e) => change(i, { direction: e.target.value })}
                    />
                  </td>
                  <td>
                    <select
                      className="input !min-h-[28px] !w-auto !py-0.5"
                      aria-label={`Setup of the pass at ${plain(p.fromS, 0)} s`}
                      value={p.setupId}
                      onChange={(e) => from(i, e.target.value)}
                    >
                      {setups.map((s) => (
                        <option key={s.id} value={s.id}>
                          {s.id} {s.label}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td className="text-wait text-[12px]">
                    {p.known
                      ? 'kept already'
                      : p.broken
                        ? 'lifted, or a gear was changed'
                        : p.taken
                          ? ''
                          : 'slower than the others'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <datalist id="road-directions">
            {[...new Set([...directions, 'out', 'back'])].map((d) => (
              <option key={d} value={d} />
            ))}
          </datalist>
          <div className="mt-2 flex flex-wrap items-center justify-end gap-3">
            {nameless && <span className="text-wait text-[12.5px]">Name the direction of every pass first.</span>}
            <button className="btn" onClick={() => setFound([])}>
              Leave them
            </button>
            <button className="btn pri" disabled={busy || nameless || kept.length === 0} onClick={keep}>
              Keep {kept.length} {kept.length === 1 ? 'pass' : 'passes'}
            </button>
          </div>
        </>
      )}
    </section>
  );
}

/** A longer pause in a log is drawn as a cut. */
const PAUSE_S = 30;

/** Speed over the log with both limits, pauses cut out; what is kept is drawn heavy. */
function SpeedPicture({
  log,
  found,
  between,
}: {
  log: Schemas['SpeedLogRead'];
  found: readonly Found[];
  between: readonly [number, number];
}) {
  const [width, height] = [780, 150];
  const places: number[] = [];
  const cuts: number[] = [];
  let drawn = 0;
  log.timeS.forEach((t, i) => {
    const step = i === 0 ? 0 : t - log.timeS[i - 1]!;
    drawn += Math.min(step, PAUSE_S / 3);
    if (step > PAUSE_S) cuts.push(drawn - PAUSE_S / 6);
    places.push(drawn);
  });
  const top = Math.max(between[1] * 1.1, ...log.speedKmH.map((v) => v ?? 0));
  const x = (place: number) => 40 + (place / (drawn || 1)) * (width - 60);
  const y = (v: number) => height - 22 - (v / top) * (height - 34);
  const path = (from: number, to: number) => {
    let pen = 'M';
    return log.timeS
      .map((t, i) => {
        const v = log.speedKmH[i];
        if (i > 0 && t - log.timeS[i - 1]! > PAUSE_S) pen = 'M';
        if (t < from || t > to || v === null || v === undefined) {
          pen = 'M';
          return '';
        }
        const point = `${pen}${x(places[i]!).toFixed(1)} ${y(v).toFixed(1)}`;
        pen = 'L';
        return point;
      })
      .join('');
  };
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="mt-2 w-full" role="img" aria-label="Speed over the log">
      <rect x="40" y="8" width={width - 60} height={height - 30} fill="var(--well)" />
      {between.map((v) => (
        <g key={v}>
          <line x1="40" x2={width - 20} y1={y(v)} y2={y(v)} stroke="var(--ink-3)" strokeDasharray="4 3" />
          <text x="34" y={y(v) + 4} textAnchor="end" fontSize="11" fill="var(--ink-3)">
            {v}
          </text>
        </g>
      ))}
      {cuts.map((place) => (
        <g key={place}>
          <line x1={x(place)} x2={x(place)} y1="8" y2={height - 22} stroke="var(--rule-strong)" strokeWidth="6" />
          <text x={x(place)} y={height - 5} fontSize="11" textAnchor="middle" fill="var(--ink-3)">
            pause
          </text>
        </g>
      ))}
      <path d={path(-Infinity, Infinity)} fill="none" stroke="var(--ink-3)" />
      {found
        .filter((p) => p.taken)
        .map((p) => (
          <path
            key={p.fromS}
            d={path(p.fromS - 0.6, p.fromS + p.seconds + 0.6)}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="3"
          />
        ))}
      <text x={width - 20} y={height - 5} fontSize="11" textAnchor="end" fill="var(--ink-3)">
        speed, km/h
      </text>
    </svg>
  );
}
