import type { WorkState } from './useWork.ts';

const WORDS: Record<WorkState['stage'], string> = {
  sending: 'Sending',
  reading: 'Reading',
  storing: 'Storing',
};

/** How far something is, and the button that stops it. */
export function WorkBar({ state, what, onCancel }: { state: WorkState; what: string; onCancel: () => void }) {
  const percent = Math.round(100 * state.share);
  return (
    <div className="sheet card flex flex-wrap items-center gap-x-4 gap-y-2">
      <div className="min-w-[220px] grow">
        <div className="flex items-baseline justify-between gap-4">
          <span className="font-[620]">
            {WORDS[state.stage]} {what}
          </span>
          {state.share > 0 && <span className="text-ink-2">{percent} %</span>}
        </div>
        <div
          className="bg-faint mt-1.5 h-[6px] w-full overflow-hidden rounded-sm"
          role="progressbar"
          aria-label={`${WORDS[state.stage]} ${what}`}
          {...(state.share > 0 ? { 'aria-valuenow': percent } : {})}
          aria-valuemin={0}
          aria-valuemax={100}
        >
          <div className="bg-ink h-full" style={{ width: `${Math.max(1, percent)}%` }} />
        </div>
      </div>
      <button type="button" className="btn" onClick={onCancel}>
        Cancel
      </button>
    </div>
  );
}
