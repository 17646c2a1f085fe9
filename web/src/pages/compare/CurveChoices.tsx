import type { Job } from '@prandel/core';
import { setupStyles, type CompareView } from '@prandel/presentation';
import { memo } from 'react';
import { Choice } from '../../parts/Choice.tsx';
import { Badge } from '../../parts/marks.tsx';
import { TakeAway } from '../../parts/TakeAway.tsx';
import { PullPicker } from './PullPicker.tsx';

/** More comparisons than this are chosen from a list. */
const MOST_BUTTONS = 4;

/** What is drawn of the comparison, and taking it along. */
export const CurveChoices = memo(function CurveChoices({
  job,
  names,
  shown: { candidate, hiddenSetups, hiddenPulls, showPulls, showSetAside },
  onePanel,
  picture,
  onCandidate,
  onSetup,
  onPull,
  onOnePanel,
  onPulls,
  onAside,
}: {
  job: Job;
  /** Names of pulls, by id. */
  names: Map<string, string>;
  shown: Pick<CompareView, 'candidate' | 'hiddenSetups' | 'hiddenPulls' | 'showPulls' | 'showSetAside'>;
  onePanel: boolean;
  /** Draws it as a document. */
  picture: (() => string) | null;
  onCandidate: (setup: string) => void;
  onSetup: (setup: string) => void;
  onPull: (pull: string) => void;
  onOnePanel: (on: boolean) => void;
  onPulls: (on: boolean) => void;
  onAside: (on: boolean) => void;
}) {
  const looks = setupStyles(job.setups);
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {job.question.candidateSetups.length > MOST_BUTTONS ? (
        <Choice
          label="Comparison"
          value={candidate}
          options={job.question.candidateSetups.map(
            (c) =>
              [
                c,
                `${c} against ${job.question.baselineSetup}: ${job.setups.find((s) => s.id === c)?.label ?? ''}`,
              ] as const,
          )}
          onChange={onCandidate}
        />
      ) : (
        <div className="seg" role="group" aria-label="Comparison">
          {job.question.candidateSetups.map((c) => (
            <button key={c} aria-pressed={c === candidate} onClick={() => onCandidate(c)}>
              <Badge id={c} setups={job.setups} />
              against
              <Badge id={job.question.baselineSetup} setups={job.setups} />
            </button>
          ))}
        </div>
      )}
      {job.setups.map((s) => (
        <button key={s.id} className="chip" aria-pressed={!hiddenSetups.has(s.id)} onClick={() => onSetup(s.id)}>
          <Badge id={s.id} setups={job.setups} />
          <svg width="16" height="8" aria-hidden>
            <line
              x1="0"
              x2="16"
              y1="4"
              y2="4"
              stroke={looks.get(s.id)?.line}
              strokeWidth="2.6"
              strokeDasharray={
                looks.get(s.id)?.dash === 'solid' ? undefined : (looks.get(s.id)!.dash as number[]).join(' ')
              }
            />
          </svg>
          {hiddenSetups.has(s.id) ? 'off' : s.label}
        </button>
      ))}
      <div className="grow" />
      <button className="btn sm" aria-pressed={onePanel} onClick={() => onOnePanel(!onePanel)}>
        One panel
      </button>
      <div className="seg" role="group" aria-label="Single pulls">
        <button aria-pressed={!showPulls} onClick={() => onPulls(false)}>
          Means
        </button>
        <button aria-pressed={showPulls} onClick={() => onPulls(true)}>
          Pulls too
        </button>
      </div>
      <TakeAway name={`${job.id} ${candidate} against ${job.question.baselineSetup}`} svg={picture ?? ''} />
      <PullPicker
        job={job}
        hidden={hiddenPulls}
        onToggle={onPull}
        aside={showSetAside}
        onAside={onAside}
        names={names}
      />
    </div>
  );
});
