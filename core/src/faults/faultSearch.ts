import type { Vehicle } from '../job/job.ts';
import { COMPLAINTS, suspectsFor, type Complaint, type Suspect, type SuspectRecord } from './suspects.ts';

export const LOOK_RESULTS = ['fine', 'found', 'cured'] as const;

/** One look at a suspect. `found`: it is the culprit and not put right yet; `cured`: it was, and is. */
export interface SearchLook {
  readonly suspect: string;
  readonly result: (typeof LOOK_RESULTS)[number];
  /** What it really took; null: nobody said. */
  readonly minutes: number | null;
  /** The pull that showed it; null: by inspection. */
  readonly pull: string | null;
  readonly who: string;
  /** ISO 8601 instant. */
  readonly at: string;
}

/** A search for what is wrong with a car: what for, how long, and what was looked at. */
export interface FaultSearch {
  readonly complaint: Complaint;
  readonly words: string;
  readonly budgetMinutes: number;
  readonly openedAt: string;
  readonly openedBy: string;
  readonly looks: readonly SearchLook[];
  /** Null while it goes on. */
  readonly closedAt: string | null;
}

/** Where a search stands, and what it asks for next. */
export interface SearchStanding {
  /** `cured`: put right; `found`: known, not put right; `inside`: the car reads as its model does; `budget`: the minutes are spent; `all`: every suspect was looked at. */
  readonly state: 'open' | 'cured' | 'found' | 'inside' | 'budget' | 'all' | 'closed';
  readonly spentMinutes: number;
  /** What is looked at next, cheapest per chance first; null where the search stops. */
  readonly next: Suspect | null;
  readonly left: readonly Suspect[];
}

/**
 * The suspects that nobody has looked at; none once the culprit was found.
 * @example suspectsLeft({ aspiration: 'natural' }, { complaint: 'reads-low', looks: [] }).length // 11
 */
export function suspectsLeft(
  vehicle: Pick<Vehicle, 'aspiration'>,
  { complaint, looks }: Pick<FaultSearch, 'complaint' | 'looks'>,
  seen: readonly SuspectRecord[] = [],
): Suspect[] {
  if (looks.some((l) => l.result !== 'fine')) return [];
  return suspectsFor(vehicle, complaint, seen).filter((s) => !looks.some((l) => l.suspect === s.key));
}

/**
 * Where a search stands. It stops when the car is inside its model's range, when the culprit is cured, or when the budget is spent.
 *
 * @param inside whether the latest pull lies inside the model's range; null: nobody knows
 * @example searchStanding({ aspiration: null }, { complaint: 'smoke', words: '', budgetMinutes: 30, openedAt: '', openedBy: '', looks: [], closedAt: null }, [], null).next.key // 'oil-level'
 */
export function searchStanding(
  vehicle: Pick<Vehicle, 'aspiration'>,
  search: FaultSearch,
  seen: readonly SuspectRecord[],
  inside: boolean | null,
): SearchStanding {
  const expected = new Map(suspectsFor(vehicle, search.complaint, seen).map((s) => [s.key, s.minutes]));
  const spentMinutes = search.looks.reduce((sum, l) => sum + (l.minutes ?? expected.get(l.suspect) ?? 0), 0);
  const left = suspectsLeft(vehicle, search, seen);
  const stop = (state: SearchStanding['state']): SearchStanding => ({ state, spentMinutes, next: null, left });
  if (search.looks.some((l) => l.result === 'cured')) return stop('cured');
  if (search.looks.some((l) => l.result === 'found')) return stop('found');
  if (search.closedAt !== null) return stop('closed');
  // A car that reads as its model does has nothing to be searched for, once somebody has looked.
  if (inside === true && search.complaint === 'reads-low' && search.looks.length > 0) return stop('inside');
  if (left.length === 0) return stop('all');
  if (spentMinutes >= search.budgetMinutes) return stop('budget');
  return { state: 'open', spentMinutes, next: left[0]!, left };
}

/**
 * The searches of a package: what is no search is left out, and the list of looks of older packages becomes a search.
 * @example faultSearchesOf(undefined, [{ suspect: 'tyres', result: 'fine', who: 'x', at: '' }]).length // 1
 */
export function faultSearchesOf(searches: unknown, older: unknown): FaultSearch[] {
  const list = Array.isArray(searches) ? searches : [];
  const own = list.flatMap((value): FaultSearch[] => {
    const { complaint, words, budgetMinutes, openedAt, openedBy, looks, closedAt } = members(value);
    if (!(COMPLAINTS as readonly unknown[]).includes(complaint) || typeof budgetMinutes !== 'number') return [];
    return [
      {
        complaint: complaint as Complaint,
        ...{ words: text(words), budgetMinutes, openedAt: text(openedAt), openedBy: text(openedBy) },
        looks: looksOf(looks),
        closedAt: typeof closedAt === 'string' ? closedAt : null,
      },
    ];
  });
  const looks = looksOf(older);
  if (looks.length === 0) return own;
  const [first] = looks;
  const before: FaultSearch = {
    ...{ complaint: 'reads-low', words: '', budgetMinutes: 60, looks, closedAt: null },
    ...{ openedAt: first!.at, openedBy: first!.who },
  };
  return [before, ...own];
}

function looksOf(value: unknown): SearchLook[] {
  return (Array.isArray(value) ? value : []).flatMap((look): SearchLook[] => {
    const { suspect, result, minutes, pull, who, at } = members(look);
    if (typeof suspect !== 'string' || !(LOOK_RESULTS as readonly unknown[]).includes(result)) return [];
    return [
      {
        ...{ suspect, result: result as SearchLook['result'], who: text(who), at: text(at) },
        minutes: typeof minutes === 'number' ? minutes : null,
        pull: typeof pull === 'string' ? pull : null,
      },
    ];
  });
}

const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const members = (value: unknown): Record<string, unknown> =>
  typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
