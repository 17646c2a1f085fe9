/**
 * Where the bay is with its pulls. What must survive a restart (round, fitting, STOP) is in its run; this is heard again.
 *
 * waiting → pulling → storing → review → waiting. A pull that begins while an earlier one is still being stored or looked at ends
 * that: the earlier one counts as the method says.
 */
export type PullState =
  | { readonly name: 'waiting' }
  | { readonly name: 'pulling' }
  | { readonly name: 'storing' }
  /** A person may still set the pull aside before its figures are seen. `untilMs` on the process's own clock. */
  | { readonly name: 'review'; readonly pullId: string; readonly untilMs: number };

export type PullEvent =
  | { readonly name: 'begun' }
  | { readonly name: 'ended' }
  | { readonly name: 'stored'; readonly pullId: string; readonly untilMs: number }
  /** The database refused the pull for good; its recording waits in quarantine. */
  | { readonly name: 'refused' }
  | { readonly name: 'reviewed' }
  | { readonly name: 'car-left' };

const WAITING: PullState = { name: 'waiting' };

/** The state that follows; an event that means nothing in a state leaves it as it is. */
export function nextPullState(state: PullState, event: PullEvent): PullState {
  switch (event.name) {
    case 'begun':
      return { name: 'pulling' };
    case 'ended':
      return state.name === 'pulling' ? { name: 'storing' } : state;
    case 'stored':
      // Of a pull whose car left meanwhile, or that the next one overtook, nothing is to be looked at.
      return state.name === 'storing' ? { name: 'review', pullId: event.pullId, untilMs: event.untilMs } : state;
    case 'refused':
      return state.name === 'storing' ? WAITING : state;
    case 'reviewed':
      return state.name === 'review' ? WAITING : state;
    case 'car-left':
      return WAITING;
    default:
      return event satisfies never;
  }
}

/** The pull whose review is over by now, or null. */
export function reviewOver(state: PullState, nowMs: number): boolean {
  return state.name === 'review' && nowMs > state.untilMs;
}
