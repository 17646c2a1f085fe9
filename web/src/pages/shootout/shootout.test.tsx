/** @jest-environment jsdom */
import { afterEach, describe, expect, jest, test } from '@jest/globals';
import { newJob, newSetup, type Job } from '@prandel/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { ReactElement } from 'react';
import { MemoryRouter } from 'react-router';
import type { Schemas, StoredJob } from '../../api/client.ts';
import { read } from '../../test/textOf.ts';
import { FittingTable } from '../plan/FittingTable.tsx';
import { RoundsEditor } from '../plan/RoundsEditor.tsx';
import { AddSetup } from './AddSetup.tsx';
import { CostsTab } from './CostsTab.tsx';
import { GearFields, ratiosIn } from './GearFields.tsx';
import { RateField } from './RateField.tsx';
import { UseFields } from './UseFields.tsx';

const user = userEvent.setup();
const sent: { method: string; path: string; body: unknown }[] = [];
/** Takes what a page sends, and answers that all is well. */
function answerAll(): void {
  globalThis.fetch = (async (request: Request) => {
    const { method, url: path } = request;
    const words = await request.text();
    if (method !== 'GET') sent.push({ method, path, body: words ? (JSON.parse(words) as unknown) : null });
    const answer = path.startsWith('/api/records') ? { records: [], next: null } : { id: 'C' };
    const json = () => Promise.resolve(answer);
    const text = () => Promise.resolve(JSON.stringify(answer));
    return { ok: true, status: 200, headers: { get: () => null }, json, text } as unknown as Response;
  }) as typeof fetch;
}
afterEach(() => {
  sent.splice(0);
});

function drawn(element: ReactElement, role: Schemas['Role'] = 'owner'): HTMLElement {
  cleanup();
  answerAll();
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  client.setQueryData(['session'], { shop: 'Quillmoor Garage', name: 'Ines R.', email: 'x', role, units: {} });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter>{element}</MemoryRouter>
    </QueryClientProvider>,
  ).container;
}
const field = (label: string | RegExp) => screen.getByLabelText<HTMLInputElement>(label);
const type = async (label: string | RegExp, words: string) => {
  await user.clear(field(label));
  if (words) await user.type(field(label), words);
};

const job: Job = {
  ...newJob('S1', 'which part'),
  money: { currency: 'EUR', hourlyRate: 80 },
  setups: [
    newSetup('A', 'as arrived'),
    {
      ...newSetup('B', 'small pulley', 'A'),
      partCost: 100,
      labourHours: 0.5,
      currency: 'EUR',
      outcomes: { noise: 'whines' },
    },
    { ...newSetup('C', 'axle oil', 'B'), partCost: 40, labourHours: 0.25, currency: 'EUR' },
  ],
  question: { ...newJob('', '').question, candidateSetups: ['B', 'C'] },
};
const stored = { rowId: 'row', version: 7, job, links: {} } as unknown as StoredJob;

describe('costs', () => {
  test('each step and the sum against the baseline; saving names only what was typed', async () => {
    const page = drawn(<CostsTab stored={stored} job={job} recorded={[]} />);
    expect(read(page)).toContain('140 EUR');
    expect(read(page)).toContain('200 EUR');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save' }).disabled).toBe(true);
    await type('Adapters of B', '12,50');
    await type('Noise of B', 'whines when cold');
    await type('Hours of C', '');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toMatchObject({ method: 'PATCH', path: '/api/jobs/row' });
    expect(sent[0]!.body).toEqual({
      version: 7,
      setups: [
        { id: 'B', costs: { adapters: 12.5, consumables: null, tune: null }, outcomes: { noise: 'whines when cold' } },
        { id: 'C', labourHours: null },
      ],
    });
  });

  test('what is no number and a difficulty beyond five are named, and nothing can be saved', async () => {
    const page = drawn(<CostsTab stored={stored} job={job} recorded={[]} />);
    await type('Parts of B', 'cheap');
    await type('Difficulty of C', '6');
    expect(read(page)).toContain('Parts of B: type a number such as 42.50');
    expect(read(page)).toContain('Difficulty of C: a number from 1 to 5.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save' }).disabled).toBe(true);
    expect(sent).toEqual([]);
  });

  test('hours of the record count before typed ones and say so; a viewer changes nothing', () => {
    const recorded = [{ setupId: 'B', price: 90, currency: 'EUR', hours: 1 }];
    const page = drawn(<CostsTab stored={stored} job={job} recorded={recorded} />, 'viewer');
    expect(read(page)).toContain('counts: 1.00 from the record');
    expect(screen.queryByRole('button', { name: 'Save' })).toBeNull();
    expect(screen.queryByRole('button', { name: 'Add a setup' })).toBeNull();
  });
});

describe('the labour rate', () => {
  const saved = { currency: 'EUR', hourlyRate: 80 };

  test('anybody tries one on the page; only the owner keeps it for the shop', async () => {
    const tried: (number | null)[] = [];
    drawn(<RateField money={saved} saved={saved} onTry={(rate) => tried.push(rate)} />, 'technician');
    await type('Labour rate an hour', '95,5');
    expect(tried.at(-1)).toBe(95.5);
    expect(screen.queryByRole('button', { name: 'Keep for the shop' })).toBeNull();
    drawn(<RateField money={saved} saved={saved} onTry={(rate) => tried.push(rate)} />);
    expect(screen.queryByRole('button', { name: 'Keep for the shop' })).toBeNull();
    await type('Labour rate an hour', '95,5');
    await user.click(screen.getByRole('button', { name: 'Keep for the shop' }));
    await waitFor(() =>
      expect(sent).toEqual([{ method: 'PUT', path: '/api/money', body: { currency: 'EUR', hourlyRate: 95.5 } }]),
    );
  });

  test('what is no rate is not tried', async () => {
    const tried = jest.fn();
    drawn(<RateField money={saved} saved={saved} onTry={tried} />);
    await type('Labour rate an hour', 'much');
    expect(tried).toHaveBeenLastCalledWith(null);
    expect(screen.getByRole('alert').textContent).toBe('no rate');
    expect(screen.queryByRole('button', { name: 'Keep for the shop' })).toBeNull();
  });
});

describe('gears and use', () => {
  test('ratios as people type them', () => {
    expect(ratiosIn('3,20 2,10  1.55; 1.24/1.08')).toEqual([3.2, 2.1, 1.55, 1.24, 1.08]);
    expect(ratiosIn('')).toEqual([]);
  });

  test('gears out of order are named before anything is sent; sent is what was typed', async () => {
    const page = drawn(<GearFields rowId="row" job={job} version={7} />);
    for (const [label, value] of [
      ['Ratios, first gear first', '3.2 1.5 2.1'],
      ['Final drive', '3,9'],
      ['Tyre, around, m', '1.94'],
      ['Limiter or shift, rpm', '6500'],
    ] as const)
      await type(label, value);
    expect(read(page)).toContain('Gear 3 (2.1) is shorter than gear 2 (1.5): ratios fall from gear to gear.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save the gears' }).disabled).toBe(true);
    await type('Ratios, first gear first', '3.2 2.1 1.5');
    await user.click(screen.getByRole('button', { name: 'Save the gears' }));
    await waitFor(() => expect(sent).toHaveLength(1));
    const gearing = {
      ratios: [3.2, 2.1, 1.5],
      finalDrive: 3.9,
      circumferenceM: 1.94,
      limiterRpm: 6500,
      shiftSeconds: 0.4,
    };
    expect(sent[0]!.body).toEqual({ version: 7, gearing });
  });

  test('a use counted from a log: full load only, decimals of either kind; a file without engine speed says what it has', async () => {
    const page = drawn(<UseFields rowId="row" job={job} version={7} />);
    const log = (name: string, text: string) =>
      user.upload(field('Log of the car'), new File([text], name, { type: 'text/csv' }));
    await log('drive.csv', 'time;Engine RPM;Throttle %\n0;3100,5;100\n1;3400;95\n2;4100;90\n3;2000;10\n');
    await waitFor(() => expect(field('Share from 3000 rpm').value).toBe('66.7'));
    expect(field('Share from 4000 rpm').value).toBe('33.3');
    await user.click(screen.getByRole('button', { name: 'Save the use' }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]!.body).toMatchObject({ use: { name: 'drive.csv', shares: [{ fromRpm: 3000 }, { fromRpm: 4000 }] } });
    await log('heat.csv', 'time,coolant\n0,80\n');
    await waitFor(() =>
      expect(read(page)).toContain(
        'heat.csv has no column of engine speed (looked for rpm); its columns are time, coolant.',
      ),
    );
    await type('Share from 2000 rpm', '50');
    expect(read(page)).toMatch(/add up to 1\d\d %, not 100 %/);
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save the use' }).disabled).toBe(true);
  });
});

describe('a setup that is added', () => {
  test('with a parent, a change, costs and hours; words can follow later', async () => {
    const done = jest.fn();
    drawn(<AddSetup rowId="row" job={job} onDone={done} />);
    await user.selectOptions(field('Made from'), 'B');
    await type('Parts, EUR', '64');
    await type('Fitting hours', 'one');
    expect(screen.getByRole('alert').textContent).toContain('Costs and hours are numbers');
    await type('Fitting hours', '0,75');
    await type('Change 1 of the new setup', 'light pulleys');
    await user.click(screen.getByRole('button', { name: 'Add it' }));
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(sent[0]).toMatchObject({ method: 'POST', path: '/api/jobs/row/setups' });
    expect(sent[0]!.body).toEqual({
      ...{ parentId: 'B', declares: [], closedCourseOnly: false, partCost: 64, labourHours: 0.75, currency: 'EUR' },
      changes: [{ kind: 'part-fitted', part: 'light pulleys', text: 'part fitted: light pulleys' }],
    });
  });
});

describe('rounds in an order of one’s own', () => {
  const steps = ['A', 'B', 'C', 'A2'].map((setup) => ({ setup, settle: 2, counted: 3 }));

  test('are moved, made longer, left out and added by buttons', async () => {
    const seen: string[] = [];
    const shown = (list: typeof steps) => list.map((s) => `${s.setup}${s.counted}`).join(' ');
    drawn(
      <RoundsEditor
        {...{ steps, setups: job.setups, settle: 2, counted: 3 }}
        choices={['A', 'B', 'C']}
        onChange={(list) => seen.push(shown(list))}
      />,
    );
    await user.click(field('Later: round 2, B'));
    await user.click(field('Earlier: round 2, B'));
    await user.click(field('More pulls in round 3, C'));
    await user.click(field('Leave out round 3, C'));
    await user.selectOptions(field('Round to add'), 'B');
    await user.click(screen.getByRole('button', { name: 'Add a round' }));
    expect(seen).toEqual(['A3 C3 B3 A23', 'B3 A3 C3 A23', 'A3 B3 C4 A23', 'A3 B3 A23', 'A3 B3 C3 A23 B3']);
    expect(field('Earlier: round 1, A')).toHaveProperty('disabled', true);
    expect(field('Later: round 4, A2')).toHaveProperty('disabled', true);
  });

  test('minutes from setup to setup: typed ones stand out, an emptied one is the parts’ again', async () => {
    const seen: object[][] = [];
    drawn(
      <FittingTable
        job={job}
        times={[{ from: 'A', to: 'B', minutes: 20 }]}
        fittingMinutes={50}
        onChange={(t) => seen.push(t)}
      />,
    );
    expect(field('Minutes from A to B').value).toBe('20');
    expect(field('Minutes from A to C').placeholder).toBe('45');
    expect(field('Minutes from A to C').title).toBe('hours of the parts');
    await user.type(field('Minutes from B to C'), '5');
    await user.clear(field('Minutes from A to B'));
    expect(seen).toEqual([
      [
        { from: 'A', to: 'B', minutes: 20 },
        { from: 'B', to: 'C', minutes: 5 },
      ],
      [],
    ]);
  });
});
