import { searchStanding, type LiveSheet } from '@prandel/core';
import { shown } from '@prandel/presentation';
import { useUnits } from '../../api/hooks.ts';
import { useSearches } from '../faults/useSearches.ts';

/** The search of the car on the rollers: what is looked at next, marked off in gloves. */
export function SearchLine({ sheet }: { sheet: LiveSheet }) {
  return sheet.job ? <Search job={sheet.job} pull={lastPull(sheet)} /> : null;
}

/** The last pull of the round beside what its model has shown; null before its figures may be seen. */
function lastPull({ round, baseline }: LiveSheet) {
  const { id, peakW } = round?.pulls.at(-1) ?? { id: '', peakW: null };
  const range = baseline?.range ?? null;
  if (peakW === null || range === null) return null;
  return { id, peakW, range, inside: peakW >= range.lowW && peakW <= range.highW };
}

interface SearchProps {
  readonly job: NonNullable<LiveSheet['job']>;
  readonly pull: ReturnType<typeof lastPull>;
}

function Search({ job, pull }: SearchProps) {
  const { power } = useUnits();
  const { searches, look } = useSearches(job.id);
  const running = searches.find((s) => s.search.closedAt === null);
  if (!running) return null;
  const { search, seen } = running;
  const { next, state, spentMinutes } = searchStanding(job.rig.vehicle, search, seen, pull && pull.inside);
  const culprit = search.looks.find((l) => l.result === 'found');
  const suspect = next?.key ?? culprit?.suspect;
  const mark = (result: 'fine' | 'found' | 'cured') => {
    if (suspect) look.mutate({ suspect, result, minutes: null, pull: null });
  };
  return (
    <div className="bay-search" role="group" aria-label="Search">
      <span className="grow">
        {next ? (
          <>
            Look next: <b>{next.label}</b>, about {next.minutes} min
          </>
        ) : state === 'found' ? (
          'Found. Cured yet?'
        ) : state === 'inside' ? (
          'It reads as its model does: nothing more to look for.'
        ) : (
          'The search has nothing more to look at, or its minutes are spent.'
        )}{' '}
        <span className="bay-search-spent">
          {Math.round(spentMinutes)} of {Math.round(search.budgetMinutes)} min
          {pull &&
            `; pull ${pull.id} reads ${shown(pull.peakW, power, 0)} ${power}, ${pull.inside ? 'inside' : 'outside'} ${shown(pull.range.lowW, power, 0)} to ${shown(pull.range.highW, power, 0)}`}
        </span>
      </span>
      {next && (
        <>
          <button className="bay-search-btn" disabled={look.isPending} onClick={() => mark('fine')}>
            Fine
          </button>
          <button className="bay-search-btn" disabled={look.isPending} onClick={() => mark('found')}>
            That is it
          </button>
        </>
      )}
      {state === 'found' && (
        <button className="bay-search-btn" disabled={look.isPending} onClick={() => mark('cured')}>
          Cured
        </button>
      )}
    </div>
  );
}
