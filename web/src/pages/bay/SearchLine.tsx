import { searchStanding, type LiveSheet } from '@prandel/core';
import { useSearches } from '../faults/useSearches.ts';

/** The search of the car on the rollers: what is looked at next, marked off in gloves. */
export function SearchLine({ sheet }: { sheet: LiveSheet }) {
  return sheet.job ? <Search job={sheet.job.id} vehicle={sheet.job.rig.vehicle} /> : null;
}

function Search({ job, vehicle }: { job: string; vehicle: NonNullable<LiveSheet['job']>['rig']['vehicle'] }) {
  const { searches, look } = useSearches(job);
  const running = searches.find((s) => s.search.closedAt === null);
  if (!running) return null;
  const { search, seen } = running;
  const { next, state, spentMinutes } = searchStanding(vehicle, search, seen, null);
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
        ) : (
          'The search has nothing more to look at, or its minutes are spent.'
        )}{' '}
        <span className="bay-search-spent">
          {Math.round(spentMinutes)} of {Math.round(search.budgetMinutes)} min
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
