import { implausible, type Job, type RoadPass } from '@prandel/core';
import { moment, plain } from '@prandel/presentation';
import { Plus, Trash2, Undo2 } from 'lucide-react';
import { useRef, useState } from 'react';
import { Badge } from '../../parts/marks.tsx';

interface Typed {
  readonly setupId: string;
  readonly direction: string;
  readonly seconds: string;
}

/** Seconds as they were typed; NaN where they are no time of a pass. */
function secondsOf(text: string): number {
  const value = Number(text.replace(',', '.'));
  return text.trim() !== '' && implausible('roadSeconds', value) === null ? value : NaN;
}

/** The way back from a direction. */
function other(direction: string | undefined, among: readonly string[]): string | undefined {
  return among.find((d) => d !== direction);
}

/** All passes in the order in which they were driven, and a row to type the next one: Enter keeps it. */
export function PassTable({
  job,
  between,
  passes,
  directions,
  taking,
  busy,
  onAdd,
  onRemove,
  undo,
}: {
  job: Job;
  between: readonly [number, number];
  passes: readonly RoadPass[];
  directions: readonly string[];
  taking: boolean;
  busy: boolean;
  onAdd: (pass: RoadPass) => void;
  onRemove: (at: number) => void;
  undo: (() => void) | null;
}) {
  const [typed, setTyped] = useState<Typed>({
    setupId: passes.at(-1)?.setupId ?? job.question.baselineSetup,
    direction: other(passes.at(-1)?.direction, directions) ?? 'out',
    seconds: '',
  });
  const seconds = useRef<HTMLInputElement>(null);
  const offered = directions.length > 1 ? directions.slice(0, 4) : [...new Set([...directions, 'out', 'back'])];
  const value = secondsOf(typed.seconds);
  const add = () => {
    if (!Number.isFinite(value) || busy) return;
    onAdd({
      ...{ setupId: typed.setupId, direction: typed.direction, seconds: value },
      ...{ at: new Date().toISOString(), fromKmH: between[0], toKmH: between[1] },
    });
    // The way back is driven next.
    setTyped({ ...typed, seconds: '', direction: other(typed.direction, offered) ?? typed.direction });
    seconds.current?.focus();
  };
  return (
    <section className="sheet card" aria-label="Passes">
      <div className="flex flex-wrap items-baseline gap-2">
        <h2 className="grow">
          Passes, {between[0]} to {between[1]} km/h
        </h2>
        <span className="text-ink-2">at least two of each setup in each direction</span>
      </div>
      {taking && (
        <form
          className="mt-2 flex flex-wrap items-end gap-2"
          aria-label="Type a pass"
          onSubmit={(e) => {
            e.preventDefault();
            add();
          }}
        >
          <div className="flex gap-1.5" role="group" aria-label="Setup of the pass">
            {job.setups
              .filter((s) => s.returnsTo === null)
              .map((s) => (
                <button
                  type="button"
                  key={s.id}
                  className="chip min-h-[40px]"
                  aria-pressed={typed.setupId === s.id}
                  aria-label={`Setup ${s.id}`}
                  onClick={() => setTyped({ ...typed, setupId: s.id })}
                >
                  <Badge id={s.id} setups={job.setups} />
                </button>
              ))}
          </div>
          <div className="flex gap-1.5" role="group" aria-label="Direction of the pass">
            {offered.map((d) => (
              <button
                type="button"
                key={d}
                className="chip min-h-[40px]"
                aria-pressed={typed.direction === d}
                onClick={() => setTyped({ ...typed, direction: d })}
              >
                {d}
              </button>
            ))}
          </div>
          <label className="field">
            <span>Seconds</span>
            <input
              ref={seconds}
              className="input num !min-h-[40px] !w-[110px] text-[17px]"
              inputMode="decimal"
              autoComplete="off"
              placeholder="6.42"
              value={typed.seconds}
              onChange={(e) => setTyped({ ...typed, seconds: e.target.value })}
            />
          </label>
          <button className="btn min-h-[40px]" disabled={!Number.isFinite(value) || busy}>
            <Plus size={15} aria-hidden />
            Add the pass
          </button>
          {typed.seconds.trim() !== '' && !Number.isFinite(value) && (
            <span className="text-act self-center text-[12px]" role="alert">
              Type seconds from 0.3 to 120.
            </span>
          )}
        </form>
      )}
      {passes.length === 0 ? (
        <p className="text-ink-2 mt-3 text-[14px]">
          No passes yet.{' '}
          {taking ? 'Type the seconds of the first one, or drop a log.' : 'Say first that the course is closed.'}
        </p>
      ) : (
        <div className="mt-2 max-h-[420px] overflow-auto" tabIndex={0} role="group" aria-label="Passes driven">
          <table className="table">
            <thead>
              <tr>
                <th>Pass</th>
                <th>Time</th>
                <th>Direction</th>
                <th className="r">km/h</th>
                <th className="r">Seconds</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {passes.map((p, i) => {
                const place = passes.slice(0, i + 1).filter((q) => q.setupId === p.setupId).length;
                const elsewhere = p.fromKmH !== between[0] || p.toKmH !== between[1];
                return (
                  <tr key={i} className={elsewhere ? 'text-ink-3' : ''}>
                    <td className="whitespace-nowrap">
                      <Badge id={p.setupId} setups={job.setups} /> {place}
                    </td>
                    <td>{p.at ? moment(p.at, job.timeZone, false) : '–'}</td>
                    <td>{p.direction || '–'}</td>
                    <td className="r whitespace-nowrap">
                      {p.fromKmH}–{p.toKmH}
                    </td>
                    <td className="r num font-[620]">{plain(p.seconds, 2)}</td>
                    <td className="r">
                      {taking && (
                        <button
                          className="btn sm"
                          disabled={busy}
                          aria-label={`Remove pass ${i + 1}`}
                          onClick={() => onRemove(i)}
                        >
                          <Trash2 size={13} aria-hidden />
                        </button>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      {undo && taking && (
        <button className="btn sm mt-2" disabled={busy} onClick={undo}>
          <Undo2 size={13} aria-hidden />
          Undo
        </button>
      )}
    </section>
  );
}
