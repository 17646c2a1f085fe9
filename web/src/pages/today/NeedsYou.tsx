import type { LiveSheet } from '@prandel/core';
import { reasonWords } from '@prandel/presentation';
import { Link } from 'react-router';
import type { Schemas } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import type { BaySheet } from '../../live/useSheets.ts';
import { stopwatch } from '../bay/bayStyles.ts';

interface Need {
  readonly key: string;
  readonly title: string;
  readonly words: string;
  readonly to: string;
  readonly action: string;
}

const STATE_WORDS: Partial<Record<LiveSheet['state'], string>> = {
  hold: 'Hold',
  cooling: 'Cooling',
  ready: 'Ready to pull',
  pulling: 'Pulling',
  review: 'A pull wants to be judged',
  blocked: 'Blocked',
  'sensor-lost': 'A sensor is lost',
  fitting: 'The fitting clock runs',
  between: 'Between rounds',
  stop: 'STOP: look at the car',
  'no-job': 'The bay is free',
};

/** What a bay does, in words for the desk. */
export function stateWords(sheet: LiveSheet): string {
  if (sheet.state === 'between' && sheet.planComplete) return 'Every planned pull is in';
  return STATE_WORDS[sheet.state] ?? sheet.state;
}

/** What needs a person next, most urgent first. */
export function NeedsYou({ bays, rows }: { bays: readonly BaySheet[]; rows: readonly Schemas['JobRow'][] }) {
  const units = useUnits();
  const open = new Set(bays.flatMap(({ sheet }) => (sheet?.job && !sheet.planComplete ? [sheet.job.id] : [])));
  const needs = rows.filter((row) => !open.has(row.id)).flatMap(needsOf);
  return (
    <section className="sheet" aria-label="Needs you next">
      <h2 className="border-b border-rule px-4 py-2.5">Needs you next</h2>
      {byUrgency(bays).map(({ bay, sheet }) => (
        <div key={bay.id} className="border-b border-rule bg-well px-4 py-3">
          <div className="text-ink-2">
            {bay.label}
            {sheet.job ? `, ${sheet.job.vehicle}` : ''}
          </div>
          <div className="flex items-baseline gap-3">
            <b className="text-[17px]">{stateWords(sheet)}</b>
            {sheet.waitS !== null && <span className="num text-[34px] leading-none">{stopwatch(sheet.waitS)}</span>}
          </div>
          {sheet.reasons[0] && <p className="text-ink-2 mt-1">{reasonWords(sheet.reasons[0], units)}</p>}
          <Link className="btn pri mt-2 w-full" to={`/bays/${bay.id}`}>
            Open the run sheet in bay mood
          </Link>
        </div>
      ))}
      <ol className="divide-y divide-rule">
        {needs.map((need) => (
          <li key={need.key} className="px-4 py-2.5">
            <b>{need.title}</b>
            <p className="text-ink-2">{need.words}</p>
            <Link className="btn sm mt-1.5" to={need.to}>
              {need.action}
            </Link>
          </li>
        ))}
        {needs.length === 0 && <li className="text-ink-2 px-4 py-4">Nothing else waits for you.</li>}
      </ol>
    </section>
  );
}

/** States in which a person is waited for come before those in which the car is; a free bay comes last. */
const URGENCY: readonly LiveSheet['state'][] = [
  'stop',
  'sensor-lost',
  'blocked',
  'review',
  'ready',
  'between',
  'fitting',
  'hold',
  'cooling',
  'pulling',
  'no-job',
];

function byUrgency(bays: readonly BaySheet[]): { bay: BaySheet['bay']; sheet: LiveSheet }[] {
  return bays
    .flatMap(({ bay, sheet }) => (sheet ? [{ bay, sheet }] : []))
    .sort((a, b) => URGENCY.indexOf(a.sheet.state) - URGENCY.indexOf(b.sheet.state));
}

function needsOf(row: Schemas['JobRow']): Need[] {
  const name = row.vehicle || row.number;
  if (row.pulls === 0)
    return [
      {
        key: row.id,
        title: 'Plan the day',
        words: `${name} has no pulls yet.`,
        to: `/jobs/${row.id}/plan`,
        action: 'Plan it',
      },
    ];
  if (row.state === 'pending') return [];
  if (row.state === 'not-judged')
    return [
      {
        key: row.id,
        title: 'This job cannot be judged',
        words: `${name}: ${row.problem ?? ''}`,
        to: `/jobs/${row.id}`,
        action: 'Open the job',
      },
    ];
  const verdicts = row.verdicts.map((v) => v.verdict);
  if (verdicts.includes('not-comparable'))
    return [
      {
        key: row.id,
        title: 'Look at the conditions',
        words: `${name}: the two sides cannot be compared as they stand.`,
        to: `/jobs/${row.id}/compare`,
        action: 'See why',
      },
    ];
  if (verdicts.includes('not-resolved'))
    return [
      {
        key: row.id,
        title: 'Decide whether to go on',
        words: `${name}: the pulls made so far do not settle the question.`,
        to: `/jobs/${row.id}/compare`,
        action: 'See what would settle it',
      },
    ];
  return [
    {
      key: row.id,
      title: 'Hand over the report',
      words: `${name}: the question is answered.`,
      to: `/jobs/${row.id}/report`,
      action: 'Open the report',
    },
  ];
}
