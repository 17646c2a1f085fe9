import { LIMITS } from '../job/plausible.ts';
import { PLAN_SHAPES } from './jobDay.ts';
import { flag, instant, list, maybe, members, number, oneOf, orNull, table, text } from '../job/shape.ts';

const words = text(2000);
const step = members({ setup: text(20), settle: number(0, 20), counted: number(0, 50) });

const modelCard = members({
  label: words,
  gear: orNull(text(40)),
  sensors: members({ intake: flag, coolant: flag, oil: flag }),
  safeRpm: orNull(list(number(0, 30_000), 2)),
  settlePulls: orNull(number(0, 20)),
  notes: text(),
  baselinesSeenW: maybe(list(number(0, 3e6), 500)),
  chargeAir: maybe(
    members({
      sensor: oneOf('after-cooler', 'before-cooler'),
      warnC: orNull(number(-60, 400)),
      stopC: orNull(number(-60, 400)),
    }),
  ),
});

const plan = members({
  shape: oneOf(...PLAN_SHAPES),
  startAt: orNull(instant),
  minutesPerPull: number(0.1, 240),
  fittingMinutes: number(0, 10_080),
  openFromMin: number(0, 1440),
  openUntilMin: number(0, 1440),
  forecastC: orNull(list(number(-60, 80), 2)),
  order: oneOf('fixed', 'randomised'),
  drawn: maybe(orNull(members({ seed: number(0, 2 ** 53), candidates: list(text(20), LIMITS.setupsPerJob) }))),
  times: maybe(list(members({ from: text(20), to: text(20), minutes: number(0, 10_080) }), 500)),
  extended: maybe(members({ at: instant, declared: flag, rounds: list(step, 200) })),
});

const fitting = members({
  setup: text(20),
  who: text(200),
  startedAt: instant,
  stoppedAt: orNull(instant),
  changed: words,
  disturbed: words,
  parts: words,
  cost: orNull(number(0, 1e9)),
  notes: text(),
  photos: maybe(list(members({ path: text(400), name: text(400), sha256: text(64), addedAt: instant }), 200)),
});

const day = members({
  customer: orNull(words),
  claim: orNull(words),
  intake: table(words, 100),
  modelCard,
  plan,
  abortLimits: list(
    members({
      channel: text(60),
      warn: orNull(number(-1e6, 1e6)),
      stop: number(-1e6, 1e6),
      side: oneOf('above', 'below'),
    }),
    LIMITS.channelsPerPull,
  ),
  fittings: list(fitting, 500),
  cannotBeUndone: orNull(words),
  channels: maybe(list(text(61), 4)),
  readAtRpm: maybe(list(number(0, 30_000), 12)),
  closedEarly: maybe(table(words, 1000)),
  amendments: maybe(list(members({ at: instant, who: text(200), reason: words, what: text() }), 1000)),
  search: maybe(list(members({ suspect: text(40), result: oneOf('fine', 'found'), who: text(200), at: instant }), 500)),
});

/**
 * Why a value is no model card, naming the member; null: it is.
 * @example cardProblem(UNKNOWN_CARD) // null
 */
export function cardProblem(value: unknown): string | null {
  return modelCard(value, 'card');
}

/**
 * Why a value is no day's papers, naming the member (`day.plan.shape is none of …`); null: it is.
 * @example dayProblem(USUAL_DAY) // null
 */
export function dayProblem(value: unknown): string | null {
  return day(value, 'day');
}
