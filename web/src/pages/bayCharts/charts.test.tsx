/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { bayLearned, chartStretches } from '@prandel/core';
import { screen, waitFor, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { drawn, fakeServer, Refused } from '../../test/fakeServer.tsx';
import { read } from '../../test/textOf.ts';
import { BayChartsPage } from './BayChartsPage.tsx';
import { SignalNotice } from './SignalNotice.tsx';

const user = userEvent.setup();
const STEADY = [0, 0.2, -0.1, 0.1, -0.2, 0.1, 0, -0.1, 0.2, 0];
const point = (value: number, i: number, epoch: string | null = '2026-01-01') => ({
  ...{ at: new Date(Date.UTC(2026, 0, 1 + 7 * i)).toISOString(), value, job: `j${i}`, name: `round ${i + 1}`, epoch },
});
const HISTORY = { ...bayLearned([]), minutesPerPull: null };

const charts = (values: readonly number[], more: object = {}) => ({
  ...{ id: 'b1', label: 'Bay 1', elevationM: 90, repeatability: { sd: 0.34, limit: 0.96, jobs: 30 } },
  months: [{ month: '2026-01', jobs: 6, sd: 0.35 }],
  returns: { points: [0.4, -0.3, 0.1].map((v, i) => point(v, i)), limit: 0.6 },
  references:
    values.length === 0
      ? []
      : [
          {
            car: 'The shop’s own',
            stretches: chartStretches(
              values.map((v, i) => point(v, i)),
              [],
            ),
          },
        ],
  ...{ second: [], answers: [] },
  ...more,
});
const open = (body: object, more: object = {}) => {
  const asked = fakeServer({ 'GET /api/bays/b1/charts': body, 'GET /api/bays/b1/history': HISTORY, ...more });
  return { page: drawn(<BayChartsPage />, { at: '/bays/b1/charts', path: '/bays/:bay/charts' }), asked };
};

describe('a bay against itself', () => {
  test('without a reference car it says what one is for, and shows how pulls repeat and rounds come back', async () => {
    const { page } = open(charts([]));
    await screen.findByText(/No car is kept as a reference yet/);
    expect(read(page)).toContain('differ by less than 1.0 % on 19 of 20 days');
    expect(read(page)).toContain('19 of 20 come back to within ±0.6 %');
    expect(screen.queryByRole('button', { name: /reference round/ })).toBeNull();
  });

  test('three points have no limits; they say how many more it takes', async () => {
    const { page } = open(charts([0, 0.1, -0.1]));
    await screen.findByText(/5 more until there are limits/);
    expect(page.querySelectorAll('[aria-label="Chart of the reference car"] circle')).toHaveLength(3);
    expect(screen.queryByRole('group', { name: 'Answer the signal' })).toBeNull();
  });

  test('a signal is a diamond with its word, and is answered with what was found', async () => {
    const { page, asked } = open(charts([...STEADY, 3]), { 'POST /api/bays/b1/charts/answers': null });
    const form = await screen.findByRole('group', { name: 'Answer the signal' });
    expect(page.querySelector('[aria-label="Chart of the reference car"]')!.textContent).toMatch(
      /outside its limits, a jump/,
    );
    expect(within(form).queryByRole('button', { name: 'Answer' })).toBeNull();
    await user.click(within(form).getByRole('button', { name: 'Sensor replaced' }));
    await user.type(within(form).getByLabelText('What was done'), 'new pressure sensor');
    await user.click(within(form).getByRole('button', { name: 'Answer' }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === 'POST')!.body).toEqual({
        ...{ chart: 'reference', answer: 'sensor', words: 'new pressure sensor' },
      }),
    );
  });

  test('two epochs stand beside each other with a rule between, each about its own mean', async () => {
    const stretches = chartStretches(
      [...STEADY.map((v, i) => point(v, i)), ...[5, 5.1, 4.9].map((v, i) => point(v, 20 + i, '2026-06-01'))],
      [],
    );
    const { page } = open(charts([], { references: [{ car: 'own', stretches }] }));
    await screen.findByText(/since the calibration of 2026-06-01/);
    const chart = page.querySelector('[aria-label="Chart of the reference car"]')!;
    expect(chart.textContent).toContain('calibrated 2026-06-01');
    expect(chart.querySelectorAll('circle')).toHaveLength(13);
    // Five per cent apart, and neither a diamond.
    expect(chart.querySelectorAll('path[fill="#A8281C"]')).toHaveLength(0);
  });

  test('a second instrument is typed beside the station: what is no pressure is told at its field', async () => {
    const { asked } = open(charts([]), { 'POST /api/bays/b1/charts/second': null });
    await user.type(await screen.findByLabelText(/^The bay’s station, hPa/), '12');
    await user.type(screen.getByLabelText('The other one, hPa'), '1003,4');
    await user.click(screen.getByRole('button', { name: 'Keep the reading' }));
    await screen.findByText('A pressure in hPa, 500 to 1100.');
    await user.clear(screen.getByLabelText(/^The bay’s station, hPa/));
    await user.type(screen.getByLabelText(/^The bay’s station, hPa/), '1003.0');
    await user.click(screen.getByRole('button', { name: 'Keep the reading' }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === 'POST')!.body).toEqual({
        source: 'instrument',
        ownHpa: 1003,
        otherHpa: 1003.4,
      }),
    );
    await user.selectOptions(screen.getByLabelText('Held against'), 'airport');
    await screen.findByText('Brought to the bay’s 90 m.');
  });

  test('it says what knowing the bay is worth, and plans a commissioning day while little is known', async () => {
    const { asked } = open(charts([]), { 'POST /api/jobs': { id: 'j9' } });
    const card = await screen.findByRole('region', { name: 'What knowing the bay is worth' });
    expect(read(card)).toMatch(/sees from ±\d\.\d\d % , as in any bay: 0 of 5 jobs are in/);
    await user.click(within(card).getByRole('button', { name: 'Plan a commissioning day' }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === 'POST')!.body).toMatchObject({ bay: { label: 'Bay 1' } }),
    );
  });

  test('answers stay readable; a bay that is gone is told', async () => {
    const answers = [
      {
        chart: 'reference',
        answer: 'tyre',
        words: 'left rear at 1.6 bar',
        who: 'Tom K.',
        at: '2026-05-02T09:00:00Z',
        until: '2026-05-01T09:00:00Z',
      },
    ];
    open(charts([], { answers }));
    expect(read(await screen.findByRole('region', { name: 'Answered signals' }))).toMatch(
      /Tom K\.: tyre or its pressure \. left rear at 1\.6 bar/,
    );
    open(new Refused(404, 'This shop has no such bay.'));
    await screen.findByText('This shop has no such bay.');
  });
});

describe('a signal on the pages of its bay', () => {
  const signal = {
    bay: 'b1',
    label: 'Bay 1',
    chart: 'reference',
    code: 'nine-on-one-side',
    at: '2026-05-02T09:00:00Z',
    name: 'round 9',
  };

  test('stands on those of its own bay alone, with the way to its answer', async () => {
    fakeServer({ 'GET /api/bay-signals': [signal] });
    drawn(<SignalNotice bay="b1" />);
    expect(read(await screen.findByRole('alert'))).toContain(
      'The reference car reads nine in a row on one side since 2 May',
    );
    expect(screen.getByRole('link').getAttribute('href')).toBe('/bays/b1/charts');
    const asked = fakeServer({ 'GET /api/bay-signals': [signal] });
    const other = drawn(<SignalNotice bay="b2" />);
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(read(other)).toBe('');
  });
});
