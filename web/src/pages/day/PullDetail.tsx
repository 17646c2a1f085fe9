import type { Setup } from '@prandel/core';
import { useState } from 'react';
import { Badge } from '../../parts/marks.tsx';
import type { DayRow, Laid } from './dayState.ts';
import { TIME_WORDS } from './dayWords.ts';
import { PullFacts } from './PullFacts.tsx';

interface DetailProps {
  readonly row: DayRow;
  readonly pull: Laid;
  readonly pulls: readonly Laid[];
  readonly name: string;
  readonly nameOf: (place: number) => string;
  readonly setups: readonly Setup[];
  readonly wall: (ms: number) => string;
  readonly instant: (wall: string) => number | null;
  readonly onSetup: (setupId: string) => void;
  readonly onStatus: (status: DayRow['status'], reason?: string) => void;
  readonly onReason: (reason: string) => void;
  readonly onBegins: () => void;
  readonly onTime: (ms: number, whole: boolean) => void;
}

const UNSURE = {
  'day-month': 'Day and month may be the other way round.',
  'comes-twice': 'The clock was put back: this hour comes twice.',
  copied: 'Copying may have changed the date of the file: check it.',
} as const;
const STATUSES = [
  ['counted', 'Counted', 'C'],
  ['settle', 'Settle', 'T'],
  ['set-aside', 'Set aside', 'S'],
  ['left-out', 'Leave out', 'X'],
] as const;

/** One pull of the day: its curve, what its file says, and what becomes of it. */
export function PullDetail(props: DetailProps) {
  const { row, pull, name, nameOf, setups, onSetup, onStatus, onReason, onBegins } = props;
  return (
    <section className="sheet card grid content-start gap-2" aria-label="Pull">
      <PullFacts pull={pull} name={name} />
      {row.asked && pull.twin && (
        <div className="flex flex-wrap items-center gap-2" role="group" aria-label="Second export">
          <b className="text-wait">
            The same curve as {nameOf(pull.twin.place!)}, with other smoothing or another correction. One pull exported
            twice?
          </b>
          <button className="btn sm" onClick={() => onStatus('left-out')}>
            Yes, leave it out
          </button>
          <button className="btn sm" onClick={() => onStatus('counted')}>
            No, another pull
          </button>
        </div>
      )}
      {!row.asked && row.status === 'left-out' && pull.twin && (
        <p className="text-ink-2">
          Left out: the same pull as {pull.twin.pullId ? `${pull.twin.pullId} of this job` : nameOf(pull.twin.place!)}.
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2">
        <div className="flex flex-wrap gap-1.5" role="group" aria-label="Setup of the pull">
          {setups.map((s) => (
            <button key={s.id} className="chip" aria-pressed={s.id === row.setupId} onClick={() => onSetup(s.id)}>
              <Badge id={s.id} setups={setups} />
              {s.label}
            </button>
          ))}
        </div>
        <div className="seg" role="group" aria-label="What becomes of the pull">
          {STATUSES.map(([status, words, key]) => (
            <button key={status} aria-pressed={row.status === status} onClick={() => onStatus(status, row.reason)}>
              {words} <kbd className="text-ink-3">{key}</kbd>
            </button>
          ))}
        </div>
        <button className="btn sm" aria-pressed={row.begins} onClick={onBegins}>
          {row.begins ? 'No new round here' : 'A new round begins here'} <kbd className="text-ink-3">R</kbd>
        </button>
      </div>
      {row.status === 'set-aside' && (
        <label className="flex items-center gap-2">
          <span className="font-[620]">Why</span>
          <input
            className="input max-w-[420px]"
            aria-label="Why it is set aside"
            autoFocus
            placeholder="tyre slipped"
            value={row.reason}
            onChange={(e) => onReason(e.target.value)}
          />
        </label>
      )}
      <When key={row.place} {...props} />
    </section>
  );
}

function When({ row, pull, wall, instant, onTime }: DetailProps) {
  const said = row.startedMs === null ? '' : wall(row.startedMs).replace('T', ' ');
  const [typed, setTyped] = useState<string | null>(null);
  const ms = typed === null ? null : instant(typed.trim().replace(' ', 'T'));
  const words =
    row.timeFrom === 'typed' || !pull.when ? '' : `From ${TIME_WORDS[pull.when.source]}: “${pull.when.words}”.`;
  const done = (whole: boolean) => {
    if (ms !== null) onTime(ms, whole);
    setTyped(null);
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <label className="flex items-center gap-2">
        <span className="font-[620]">Made</span>
        <input
          className="input !w-[176px]"
          placeholder="2026-09-14 10:20:00"
          aria-label="When the pull was made"
          value={typed ?? said}
          onChange={(e) => setTyped(e.target.value)}
        />
      </label>
      {typed !== null && typed !== said && ms !== null ? (
        <>
          <button className="btn sm" onClick={() => done(false)}>
            This pull only
          </button>
          {row.startedMs !== null && (
            <button className="btn sm" onClick={() => done(true)}>
              Move the whole day
            </button>
          )}
        </>
      ) : typed !== null && ms === null ? (
        <span className="text-wait">Year, month, day and time of day, as in 2026-09-14 10:20:00.</span>
      ) : (
        <span className="text-ink-2">
          {row.startedMs === null ? 'Nothing says when.' : words}{' '}
          {pull.when?.unsure && row.timeFrom !== 'typed' && <b className="text-wait">{UNSURE[pull.when.unsure]}</b>}
        </span>
      )}
    </div>
  );
}
