/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import {
  newJob,
  suspectsFor,
  type FaultSearch,
  type Job,
  type Judgement,
  type LiveSheet,
  type SearchLook,
  type Suspect,
  type SuspectRecord,
} from '@prandel/core';
import { screen, waitFor, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { StoredJob } from '../../api/client.ts';
import { drawn, fakeServer, Refused } from '../../test/fakeServer.tsx';
import { read } from '../../test/textOf.ts';
import { SearchLine } from '../bay/SearchLine.tsx';
import { SearchCard } from './SearchCard.tsx';

const user = userEvent.setup();
const own = newJob('QG-1', 'It reads low');
const job: Job = {
  ...own,
  timeZone: 'UTC',
  vehicle: { ...own.vehicle, aspiration: 'natural' },
  day: { ...own.day!, modelCard: { ...own.day?.modelCard, label: 'Vireo 1.8' } } as Job['day'],
};
const stored = (more: Partial<Job> = {}): StoredJob =>
  ({ rowId: 'j1', version: 1, sealedAt: null, job: { ...job, ...more } }) as StoredJob;
const look = (suspect: string, result: SearchLook['result'], more: Partial<SearchLook> = {}): SearchLook => ({
  ...{ suspect, result, who: 'Tom K.', at: '2026-05-02T09:10:00Z', minutes: null, pull: null },
  ...more,
});
const search = (more: Partial<FaultSearch> = {}): FaultSearch => ({
  ...{ complaint: 'reads-low', words: 'since the winter', budgetMinutes: 60 },
  ...{ openedAt: '2026-05-02T09:00:00Z', openedBy: 'Ines R.', looks: [], closedAt: null },
  ...more,
});
const [first, second] = suspectsFor(job.vehicle, 'reads-low') as unknown as readonly [Suspect, Suspect];

function open(
  searches: readonly { search: FaultSearch; seen: readonly SuspectRecord[] }[],
  { card = stored(), judgement = null as Judgement | null, role = 'technician' as const, more = {} } = {},
) {
  const asked = fakeServer({
    'GET /api/jobs/j1/searches': searches,
    'POST /api/jobs/j1/searches': null,
    'POST /api/jobs/j1/searches/looks': null,
    'POST /api/jobs/j1/searches/close': null,
    ...more,
  });
  return { page: drawn(<SearchCard stored={card} judgement={judgement} />, { role }), asked };
}
const posted = (asked: readonly { method: string; path: string; body: unknown }[]) =>
  asked.filter((a) => a.method === 'POST').map((a) => [a.path.replace('/api/jobs/j1/searches', ''), a.body]);

describe('a search at the desk', () => {
  test('is opened with a complaint, its words and a budget; something else needs its words', async () => {
    const { asked } = open([]);
    await user.click(await screen.findByText('Open a search'));
    await user.selectOptions(screen.getByLabelText('Complaint'), 'other');
    await user.clear(screen.getByLabelText('Budget, min'));
    await user.type(screen.getByLabelText('Budget, min'), '2');
    await user.click(screen.getByRole('button', { name: 'Start looking' }));
    await screen.findByText('Say in words what is wrong.');
    await screen.findByText('5 to 1440.');
    expect(posted(asked)).toEqual([]);
    await user.type(screen.getByLabelText(/^In words/), ' hunts at idle ');
    await user.type(screen.getByLabelText(/^Budget, min/), '5');
    await user.click(screen.getByRole('button', { name: 'Start looking' }));
    await waitFor(() =>
      expect(posted(asked)).toEqual([['', { complaint: 'other', words: 'hunts at idle', budgetMinutes: 25 }]]),
    );
  });

  test('names suspects by minutes over chance, what cured this model with its count, and marks one off', async () => {
    const seen: SuspectRecord[] = [{ suspect: 'fuel', own: { looks: 6, cures: 6 }, others: { looks: 0, cures: 0 } }];
    const { asked } = open([{ search: search(), seen }]);
    const list = await screen.findByRole('list', { name: 'Suspects' });
    const rows = within(list).getAllByRole('listitem');
    expect(rows).toHaveLength(suspectsFor(job.vehicle, 'reads-low').length);
    expect(read(rows[0]!)).toMatch(/min, \d+ %, cured 6 of this model/);
    expect(within(rows[1]!).queryByText(/cured/)).toBeNull();
    await user.click(within(rows[1]!).getByRole('button', { name: /: fine$/ }));
    await waitFor(() => expect(posted(asked)).toHaveLength(1));
    expect(posted(asked)[0]).toEqual(['/looks', { suspect: first.key, result: 'fine', minutes: null, pull: null }]);
  });

  test('once the culprit is found nothing more is offered but its cure, and a cured one is another baseline', async () => {
    const { asked } = open([{ search: search({ looks: [look(first.key, 'fine'), look('fuel', 'found')] }), seen: [] }]);
    const looked = await screen.findByRole('list', { name: 'Looked at' });
    expect(read(looked)).toContain(`${first.label}: fine , Tom K. 09:10`);
    expect(screen.queryByRole('list', { name: 'Suspects' })).toBeNull();
    await user.click(screen.getByRole('button', { name: 'It is cured' }));
    await waitFor(() => expect(posted(asked)[0]![1]).toMatchObject({ suspect: 'fuel', result: 'cured' }));
    open([
      {
        search: search({ closedAt: '2026-05-02T10:00:00Z', looks: [look('fuel', 'cured', { minutes: 20 })] }),
        seen: [],
      },
    ]);
    await screen.findByText(/Found and cured; 20 of 60 min spent\. Pull the car again/);
    await screen.findByText('Open another search');
  });

  test('a pull inside the range of the model ends it, one outside says by how much; a budget spent names what was next', async () => {
    const card = stored({ pulls: [{ id: 'A3' }] as unknown as Job['pulls'] });
    const judgement = { pulls: [{ id: 'A3', hours: 1, peak: { value: 101_000 } }] } as unknown as Judgement;
    const range = (lowW: number, highW: number) => ({
      'GET /api/jobs/j1/baseline': { range: { lowW, highW, cars: 4 } },
    });
    const searches = [{ search: search({ looks: [look(first.key, 'fine')] }), seen: [] }];
    open(searches, { card, judgement, more: range(99_000, 104_000) });
    await screen.findByText(/The last pull lies inside the model’s range/);
    expect(read(screen.getByRole('region', { name: 'Fault finding' }))).toContain(
      'inside the model’s 99.0 to 104.0 kW',
    );
    const { asked } = open(searches, { card, judgement, more: range(108_000, 112_000) });
    await screen.findByText(/outside the model’s 108\.0 to 112\.0/);
    // What a pull showed is marked so.
    await user.click(screen.getByRole('checkbox'));
    await user.click(screen.getByRole('button', { name: `${second.label}: that is it` }));
    await waitFor(() => expect(posted(asked)[0]![1]).toMatchObject({ result: 'found', pull: 'A3' }));
    open([{ search: search({ budgetMinutes: 5, looks: [look(first.key, 'fine', { minutes: 9 })] }), seen: [] }]);
    await screen.findByText(`The budget is spent (9 of 5 min spent). Next would be: ${second.label}.`);
  });

  test('is given up; a refusal is told; a reader sees it and marks nothing', async () => {
    const { asked } = open([{ search: search(), seen: [] }]);
    await user.click(await screen.findByRole('button', { name: 'Give it up' }));
    await waitFor(() => expect(posted(asked)).toEqual([['/close', null]]));
    open([{ search: search(), seen: [] }], {
      more: { 'POST /api/jobs/j1/searches/looks': new Refused(409, 'The search was closed.') },
    });
    await user.click((await screen.findAllByRole('button', { name: /: fine$/ }))[0]!);
    await screen.findByText('The search was closed.');
    open([{ search: search(), seen: [] }], { role: 'viewer' as never });
    await screen.findByRole('list', { name: 'Suspects' });
    expect(screen.queryAllByRole('button')).toHaveLength(0);
  });
});

describe('a search in the bay', () => {
  const sheet = { job: { id: 'j1', rig: { vehicle: job.vehicle } } } as unknown as LiveSheet;
  const line = (own: FaultSearch | null, more: object = {}) => {
    const asked = fakeServer({
      'GET /api/jobs/j1/searches': own ? [{ search: own, seen: [] }] : [],
      'POST /api/jobs/j1/searches/looks': null,
    });
    return { page: drawn(<SearchLine sheet={{ ...sheet, ...more }} />), asked };
  };

  test('says what is looked at next and marks it off in one tap', async () => {
    const { asked } = line(search());
    expect(read(await screen.findByRole('group', { name: 'Search' }))).toMatch(
      new RegExp(`^Look next: ${first.label} , about \\d+ min 0 of 60 min Fine That is it$`),
    );
    await user.click(screen.getByRole('button', { name: 'That is it' }));
    await waitFor(() =>
      expect(posted(asked)).toEqual([['/looks', { suspect: first.key, result: 'found', minutes: null, pull: null }]]),
    );
  });

  test('the last pull stands beside what its model has shown; one inside ends the search', async () => {
    const pulled = (peakW: number | null) => ({
      round: { pulls: [{ id: 'A5', peakW }] },
      baseline: { range: { cars: 4, lowW: 108_000, highW: 112_000 } },
    });
    const own = search({ looks: [look(first.key, 'fine', { minutes: 9 })] });
    line(own, pulled(101_200));
    await screen.findByText(/9 of 60 min; pull A5 reads 101 kW, outside 108 to 112/);
    screen.getByText(second.label);
    const { page } = line(own, pulled(109_000));
    await waitFor(() =>
      expect(read(page)).toContain('It reads as its model does: nothing more to look for. 9 of 60 min'),
    );
    expect(within(page).queryAllByRole('button')).toHaveLength(0);
    // In review no figure is seen.
    const review = line(own, pulled(null)).page;
    await waitFor(() => expect(read(review)).toContain(second.label));
    expect(read(review)).not.toContain('reads');
  });

  test('asks for the cure of what was found, and is not there without a search', async () => {
    const { asked } = line(search({ looks: [look('fuel', 'found')] }));
    await screen.findByText(/Found\. Cured yet\?/);
    await user.click(screen.getByRole('button', { name: 'Cured' }));
    await waitFor(() => expect(posted(asked)[0]![1]).toMatchObject({ suspect: 'fuel', result: 'cured' }));
    const none = line(null);
    await waitFor(() => expect(none.asked.length).toBeGreaterThan(0));
    expect(read(none.page)).toBe('');
  });
});
