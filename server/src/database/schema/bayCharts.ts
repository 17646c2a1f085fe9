import { foreignKey, index, pgTable, text, unique, uuid } from 'drizzle-orm/pg-core';
import { bays } from './bays.ts';
import { id, instant, number, shopId } from './columns.ts';
import { oneOf } from './records.ts';

export const BAY_CHARTS = ['reference', 'return', 'second'] as const;
export type BayChart = (typeof BAY_CHARTS)[number];

/** What was found when somebody looked into a signal; the first three begin the chart anew. */
export const SIGNAL_ANSWERS = ['calibration', 'sensor', 'tyre', 'nothing'] as const;
export type SignalAnswer = (typeof SIGNAL_ANSWERS)[number];

/** A person's answer to the signals of a chart up to a moment. */
export const bayAnswers = pgTable(
  'bay_answers',
  {
    id: id(),
    shopId: shopId(),
    bayId: uuid('bay_id').notNull(),
    chart: text('chart').$type<BayChart>().notNull(),
    answer: text('answer').$type<SignalAnswer>().notNull(),
    words: text('words').notNull(),
    who: text('who').notNull(),
    at: instant('at').notNull().defaultNow(),
    /** The last point that it answers for. */
    until: instant('until').notNull(),
  },
  (t) => [
    unique('bay_answers_shop_id').on(t.shopId, t.id),
    index('bay_answers_bay').on(t.shopId, t.bayId, t.until),
    oneOf('bay_answers_chart', t.chart, BAY_CHARTS),
    oneOf('bay_answers_answer', t.answer, SIGNAL_ANSWERS),
    foreignKey({ name: 'bay_answers_bay_fk', columns: [t.shopId, t.bayId], foreignColumns: [bays.shopId, bays.id] }),
  ],
);

/** The bay's weather station held against a second instrument, or against the pressure that the nearest airport tells. */
export const secondReadings = pgTable(
  'second_readings',
  {
    id: id(),
    shopId: shopId(),
    bayId: uuid('bay_id').notNull(),
    at: instant('at').notNull(),
    who: text('who').notNull(),
    source: text('source').$type<'instrument' | 'airport'>().notNull(),
    /** Station pressures, hPa: the bay's own, and the other one brought to the bay's elevation. */
    ownHpa: number('own_hpa').notNull(),
    otherHpa: number('other_hpa').notNull(),
  },
  (t) => [
    unique('second_readings_shop_id').on(t.shopId, t.id),
    index('second_readings_bay').on(t.shopId, t.bayId, t.at),
    oneOf('second_readings_source', t.source, ['instrument', 'airport']),
    foreignKey({
      name: 'second_readings_bay_fk',
      columns: [t.shopId, t.bayId],
      foreignColumns: [bays.shopId, bays.id],
    }),
  ],
);
