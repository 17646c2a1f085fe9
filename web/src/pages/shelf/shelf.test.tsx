/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { newJob, newSetup, changeOf, shelfAnswer, type Job, type ShelfStudy } from '@prandel/core';
import { screen, waitFor, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { drawn, fakeServer, Refused } from '../../test/fakeServer.tsx';
import { read } from '../../test/textOf.ts';
import { Expected } from '../../parts/Expected.tsx';
import { ShelfNotes } from '../plan/ShelfNotes.tsx';
import { PartPage } from './PartPage.tsx';
import { ShelfPage } from './ShelfPage.tsx';

const user = userEvent.setup();
const listed = (name: string, more: object = {}) => ({
  ...{ id: name, name, kind: 'exhaust', promisedPercent: null, cars: 0, jobs: 0, estimate: null },
  ...{ low: null, high: null, nextLow: null, nextHigh: null, spread: null },
  ...more,
});
const MANY = {
  cars: 12,
  jobs: 13,
  estimate: 1.24,
  low: 0.96,
  high: 1.53,
  nextLow: 0.5,
  nextHigh: 2,
  promisedPercent: 5,
};

describe('the shelf', () => {
  test('says of each part the average, the next car and the promise; of one that few had that it is too few', async () => {
    const asked = fakeServer({
      'GET /api/shelf': {
        parts: [listed('silencer', MANY), listed('vents', { cars: 1, jobs: 1, estimate: -0.4 })],
        next: null,
      },
    });
    drawn(<ShelfPage />);
    const rows = await screen.findAllByRole('row');
    expect(read(rows[1]!)).toMatch(/silencer exhaust 12 \+1\.2 \+1\.0 to \+1\.5 \+5\.0 \+0\.5 to \+2\.0/);
    expect(read(rows[2]!)).toMatch(/vents exhaust 1 −0\.4 too few cars/);
    // What the strip shows is said to whoever cannot see it.
    expect(within(rows[1]!).getByRole('img').getAttribute('aria-label')).toBe('Next car +0.5 to +2.0');
    expect(asked[0]!.path).toContain('tried=true');
    await user.click(screen.getByRole('checkbox'));
    await waitFor(() => expect(asked.at(-1)!.path).toContain('tried=false'));
  });

  test('an empty one says what will stand there; a refusal is told', async () => {
    fakeServer({ 'GET /api/shelf': { parts: [], next: null } });
    expect(read(drawn(<ShelfPage />))).toContain('What parts did');
    await screen.findByText(/No part was tried yet/);
    fakeServer({ 'GET /api/shelf': new Refused(422, 'The words are too long.') });
    drawn(<ShelfPage />);
    await screen.findByText('The words are too long.');
  });
});

describe('the page of a part', () => {
  const study = (car: string, estimate: number, more: Partial<ShelfStudy> = {}): ShelfStudy => ({
    ...{ car, estimate, model: 'Vireo', verdict: 'verified-gain', standardError: 0.4, factors: {} },
    ...more,
  });
  const row = (s: ShelfStudy, weight: number) => ({
    ...{
      job: `job of ${s.car}`,
      number: `QG-${s.car}`,
      title: '',
      at: '2026-05-02T09:00:00Z',
      car: s.car,
      model: s.model,
    },
    ...{ bay: 'Bay 1', epoch: '2026-03-01', setup: 'B', against: 'A', changes: 'part fitted: silencer' },
    ...{ measure: 'windowMeanPower', verdict: s.verdict, weight },
    range: s.estimate === null ? null : { estimate: s.estimate, low: s.estimate - 0.8, high: s.estimate + 0.8 },
  });
  const part = {
    ...{ id: 'p1', name: 'silencer', number: '', kind: 'exhaust', price: 310, currency: 'EUR', hours: 1.1 },
    ...{ promisedPercent: 5, closedCourseOnly: false, mergedInto: null, mergedNames: ['loud one'] },
  };
  const page = (studies: readonly ShelfStudy[], more: object = {}) => {
    const answer = shelfAnswer(studies, 'windowMeanPower');
    const measures =
      studies.length === 0
        ? []
        : [{ measure: 'windowMeanPower', answer, rows: studies.map((s, i) => row(s, answer.weights[i]!)) }];
    return { part, measures, apart: [], ...more };
  };
  const open = (body: object) => {
    const asked = fakeServer({
      'GET /api/shelf/p1': body,
      'GET /api/records': {
        records: [{ id: 'p2', kind: 'part', label: 'silencer two', version: 1, fields: {} }],
        next: null,
      },
      'POST /api/shelf/p1/merge': null,
    });
    return { page: drawn(<PartPage />, { at: '/shelf/p1', path: '/shelf/:id' }), asked };
  };

  test('four cars: what the next one may see, a row a job, the average, the promise that was not kept', async () => {
    open(page([study('a', 1.4), study('b', 0.9), study('c', 1.6), study('d', 9, { verdict: 'not-comparable' })]));
    await screen.findByText(/The next car may see/);
    const table = screen.getByRole('region', { name: 'Jobs that ran it' });
    const rows = within(table).getAllByRole('row');
    expect(rows).toHaveLength(1 + 4 + 2);
    expect(read(rows[4]!)).toMatch(/Not comparable d .*left out/);
    expect(read(rows[5]!)).toMatch(/^Average of 3 cars/);
    expect(screen.getByText(/Promised \+5\.0 %, found .*: less than promised\./)).toBeTruthy();
    expect(screen.getByText(/also called loud one/)).toBeTruthy();
    expect(within(rows[1]!).getByRole('link').getAttribute('href')).toBe('/jobs/job of a');
  });

  test('two cars are shown, with no average and no word of the next', async () => {
    open(page([study('a', 1.4), study('b', 0.9)]));
    await screen.findByText(/Two cars are too few/);
    expect(screen.queryByText(/The next car/)).toBeNull();
    expect(screen.queryByText(/Average of/)).toBeNull();
  });

  test('a part nobody tried says so; one of several changes stands apart; a merged one leads on', async () => {
    const apart = [{ ...row(study('e', 3), 0), changes: 'part fitted: silencer; tune: rev 2' }];
    open(page([], { apart }));
    await screen.findByText(/No job has tried it by itself yet/);
    expect(screen.getByRole('region', { name: 'Together with other changes' }).textContent).toContain('tune: rev 2');
    open({ ...page([]), part: { ...part, mergedInto: 'p2' } });
    await screen.findByText(/found to be another one/);
    expect(screen.getByRole('link', { name: 'there' }).getAttribute('href')).toBe('/shelf/p2');
    expect(screen.queryByText(/This is the same part as another one/)).toBeNull();
  });

  test('two names of one part are made one, once it was asked in place', async () => {
    const { asked } = open(page([study('a', 1)]));
    await user.click(await screen.findByText('This is the same part as another one'));
    await user.type(screen.getByRole('combobox', { name: 'The part it is' }), 'silencer two');
    await user.click(await screen.findByRole('button', { name: /Count the jobs of silencer for silencer two/ }));
    expect(asked.some((a) => a.method === 'POST')).toBe(false);
    await user.click(screen.getByRole('button', { name: 'Make one of them' }));
    await waitFor(() => expect(asked.find((a) => a.method === 'POST')!.body).toEqual({ into: 'p2' }));
  });
});

describe('what is expected of a part', () => {
  const expected = (more: object) => ({
    part: 'p1',
    cars: 3,
    estimate: 1.6,
    low: 0.4,
    high: 2.9,
    promisedPercent: null,
    ...more,
  });

  test('beside its name in a new job: a range from three cars on, else that they are too few, else nothing', async () => {
    fakeServer({ 'GET /api/shelf/expected': expected({ promisedPercent: 8 }) });
    drawn(<Expected part="silencer" />);
    expect(read(await screen.findByTestId('expected'))).toBe(
      'silencer on three cars: +0.4 to +2.9 % expected ; its maker promises +8.0 %',
    );
    fakeServer({ 'GET /api/shelf/expected': expected({ cars: 2, low: null, high: null }) });
    drawn(<Expected part="silencer" />);
    expect(read(await screen.findByTestId('expected'))).toContain('on two cars: +1.6 %; too few to say');
    const asked = fakeServer({
      'GET /api/shelf/expected': expected({ part: null, cars: 0, estimate: null, low: null, high: null }),
    });
    const page = drawn(<Expected part="unheard of" />);
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(read(page)).toBe('');
  });

  test('in the plan it says whether an average car would be resolved', async () => {
    const job: Job = {
      ...newJob('1', 'x'),
      setups: [
        newSetup('A', 'as arrived'),
        { ...newSetup('B', 'silencer', 'A'), changes: [changeOf('part-fitted', 'silencer')] },
      ],
    };
    fakeServer({ 'GET /api/shelf/expected': expected({}) });
    drawn(<ShelfNotes job={job} seesPercent={1.1} />);
    expect(read(await screen.findByTestId('expected'))).toContain(
      'sees from about ±1.1 %: an average car would be resolved',
    );
    drawn(<ShelfNotes job={job} seesPercent={2.2} />);
    await waitFor(() => expect(read(screen.getByTestId('expected'))).toContain('it would stay open. Plan more rounds'));
  });
});
