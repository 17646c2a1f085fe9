import type { Complaint, FaultSearch, SearchStanding } from '@prandel/core';

/** Complaints as a person chooses them. */
export const COMPLAINT_NAMES: Readonly<Record<Complaint, string>> = {
  'reads-low': 'Reads low',
  smoke: 'Smoke',
  'slow-to-boost': 'Slow to boost',
  'runs-hot': 'Runs hot',
  other: 'Something else',
};

const VERBS: Readonly<Record<Exclude<Complaint, 'other'>, string>> = {
  'reads-low': 'reads low',
  smoke: 'smokes',
  'slow-to-boost': 'is slow to boost',
  'runs-hot': 'runs hot',
};

/** What the car does, as the end of "because the car …". */
export function complaintWords({ complaint, words }: Pick<FaultSearch, 'complaint' | 'words'>): string {
  return complaint === 'other' ? `had a complaint (${words || 'no words'})` : VERBS[complaint];
}

/** Where a search stands and what is next, in words. */
export function searchStandingWords({ state, spentMinutes, left }: SearchStanding, budgetMinutes: number): string {
  const spent = `${Math.round(spentMinutes)} of ${Math.round(budgetMinutes)} min spent`;
  switch (state) {
    case 'open':
      return `${spent}.`;
    case 'cured':
      return `Found and cured; ${spent}. Pull the car again: a cured car is another baseline.`;
    case 'found':
      return `Found; ${spent}. Once it is cured, say so and pull the car again.`;
    case 'inside':
      return `The last pull lies inside the model’s range: nothing more to look for. ${spent}.`;
    case 'budget':
      return `The budget is spent (${spent}). ${left.length > 0 ? `Next would be: ${left[0]!.label}.` : ''}`.trim();
    case 'all':
      return `Every suspect was looked at; ${spent}. The report says so.`;
    case 'closed':
      return `Given up after ${Math.round(spentMinutes)} min${left.length > 0 ? `; next would be: ${left[0]!.label}` : ''}.`;
    default:
      return state satisfies never;
  }
}
