/** @jest-environment jsdom */
import { beforeEach, describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { Finder } from '../../app/Finder.tsx';
import { drawn, fakeServer, Refused } from '../../test/fakeServer.tsx';
import { read } from '../../test/textOf.ts';
import { ModelPage } from '../models/ModelPage.tsx';
import { ModelsPage } from '../models/ModelsPage.tsx';
import { TrendsPage } from './TrendsPage.tsx';

const user = userEvent.setup();
const hrefs = (within_: HTMLElement) =>
  within(within_)
    .getAllByRole('link')
    .map((a) => a.getAttribute('href'));

describe('trends', () => {
  const trends = (more: object = {}) => ({
    months: [
      { month: '2026-01', jobs: 4, verdicts: [{ verdict: 'verified-gain', jobs: 3 }] },
      { month: '2026-02', jobs: 7, verdicts: [{ verdict: 'not-resolved', jobs: 2 }] },
    ],
    setAside: [{ month: '2026-02', pulls: 40, aside: 3 }],
    reasons: [{ reason: 'lifted early', pulls: 3, behind: [{ job: 'j4', number: 'QG-4', pull: 'B2' }] }],
    minutes: [{ month: '2026-02', minutes: 9.25, jobs: 7 }],
    holds: [
      {
        ...{ gate: 'coolantC', seconds: 8040, pulls: 31 },
        months: [
          { month: '2026-01', seconds: 7200, pulls: 29 },
          { month: '2026-02', seconds: 840, pulls: 2 },
        ],
        behind: [{ job: 'j6', number: 'QG-6', pull: 'B3', seconds: 75 }],
      },
    ],
    overrides: [
      {
        ...{ person: 'Tom K.', overrides: 1 },
        behind: [{ job: 'j5', number: 'QG-5', at: '2026-02-03T09:00:00Z', what: 'intake not back' }],
      },
    ],
    promises: [
      { id: 'p1', name: 'silencer', promised: 5, cars: 12, found: 1.2, low: 0.9, high: 1.5 },
      { id: 'p2', name: 'vents', promised: 2, cars: 1, found: -0.4, low: null, high: null },
    ],
    ...more,
  });

  test('the newest month stands first, and every number opens the jobs behind it', async () => {
    fakeServer({ 'GET /api/trends': trends() });
    drawn(<TrendsPage />);
    const [table] = await screen.findAllByRole('region', { name: 'Jobs by verdict' });
    const rows = within(table!).getAllByRole('row');
    expect(rows.slice(1).map((r) => read(r).slice(0, 9))).toEqual(['2026-02 7', '2026-01 4']);
    expect(hrefs(rows[1]!)).toEqual([
      '/jobs?from=2026-02-01&until=2026-02-28',
      '/jobs?from=2026-02-01&until=2026-02-28&verdict=not-resolved',
    ]);
    expect(hrefs(rows[2]!)[0]).toBe('/jobs?from=2026-01-01&until=2026-01-31');
    expect(read(screen.getByRole('region', { name: 'Pulls set aside' }))).toContain('7.5 % 3 of 40 pulls');
    await user.click(screen.getByText(/lifted early/));
    expect(hrefs(screen.getByRole('list', { name: 'Reasons' }))).toEqual(['/jobs/j4']);
    await user.click(screen.getByText('Coolant'));
    expect(read(screen.getByRole('list', { name: 'Gates' }))).toBe(
      'Coolant 2 h 14 min in 31 pulls QG-6 pull B3 waited 75 s',
    );
    expect(read(screen.getByRole('list', { name: 'Overrides' }))).toBe('1 by Tom K. QG-5 2026-02-03: intake not back');
    const promises = within(screen.getByRole('region', { name: 'Promised against found' })).getAllByRole('row');
    expect(read(promises[1]!)).toBe('silencer +5.0 +1.2 +0.9 to +1.5 12');
    expect(read(promises[2]!)).toBe('vents +2.0 −0.4 1');
  });

  test('a table goes out as a file with its numbers', async () => {
    const files: Blob[] = [];
    Object.assign(URL, { createObjectURL: (b: Blob) => `blob:${files.push(b)}`, revokeObjectURL: () => undefined });
    fakeServer({ 'GET /api/trends': trends() });
    drawn(<TrendsPage />);
    const card = await screen.findByRole('region', { name: 'Minutes per counted pull' });
    await user.click(within(card).getByRole('button', { name: 'CSV' }));
    await waitFor(() => expect(files).toHaveLength(1));
    const text = await new Promise<string>((done) => {
      const reader = new FileReader();
      reader.onload = () => done(reader.result as string);
      reader.readAsText(files[0]!);
    });
    expect(text.trim().split(/\r?\n/)).toEqual(['month,minutes,jobs', '2026-02,9.25,7']);
  });

  test('without a finished job it says what will gather; where nothing happened it says that', async () => {
    fakeServer({ 'GET /api/trends': trends({ months: [] }) });
    drawn(<TrendsPage />);
    await screen.findByText(/from the first finished job on/);
    fakeServer({ 'GET /api/trends': trends({ reasons: [], holds: [], overrides: [], promises: [] }) });
    drawn(<TrendsPage />);
    await screen.findByText('No pull was set aside.');
    screen.getByText('Nobody overrode a gate.');
    screen.getByText(/No pull was kept waiting yet/);
    const card = screen.getByRole('region', { name: 'Promised against found' });
    expect(within(card).queryByRole('button', { name: 'CSV' })).toBeNull();
    fakeServer({ 'GET /api/trends': new Refused(403, 'Trends are for the lead.') });
    drawn(<TrendsPage />);
    await screen.findByText('Trends are for the lead.');
  });
});

describe('models', () => {
  const model = (more: object = {}) => ({
    ...{ id: 'm1', label: 'Vireo 1.8', jobs: 4, cars: 3, typedW: [], bay: 'Bay 1', heat: null, settle: null },
    card: { gear: '4', safeRpm: [1800, 7100], settlePulls: 2, notes: 'Fan in front of the radiator.' },
    baselines: [101_000, 103_000, 99_500].map((peakW, i) => ({
      ...{ job: `j${i}`, number: `QG-${i}`, car: `QM ${i}`, peakW, at: null },
    })),
    range: { lowW: 95_000, highW: 107_000, cars: 3 },
    ...{ parts: [], searches: [] },
    ...more,
  });
  const open = (body: object) => {
    fakeServer({ 'GET /api/models/m1': body });
    return drawn(<ModelPage />, { at: '/models/m1', path: '/models/:id' });
  };

  test('lists them with the way to each; without one says how to begin', async () => {
    fakeServer({
      'GET /api/models': [
        { id: 'm1', label: 'Vireo 1.8', jobs: 4, cars: 3, lastAt: '2026-05-02T09:00:00Z' },
        { id: 'm2', label: 'Halden 2.0', jobs: 0, cars: 0, lastAt: null },
      ],
    });
    drawn(<ModelsPage />);
    const rows = await screen.findAllByRole('row');
    expect(read(rows[1]!)).toBe('Vireo 1.8 4 3 2 May 2026');
    expect(read(rows[2]!)).toBe('Halden 2.0 0 0 never');
    expect(hrefs(rows[2]!)).toEqual(['/models/m2']);
    fakeServer({ 'GET /api/models': [] });
    drawn(<ModelsPage />);
    await screen.findByText(/No model card yet/);
    expect(screen.getByRole('link', { name: 'Add one' }).getAttribute('href')).toBe('/records/model-card');
  });

  test('says where the next baseline is expected, with each car behind it', async () => {
    const page = open(model());
    await screen.findByText(/The next one is expected to peak at/);
    expect(read(page)).toContain('95.0 to 107.0 kW (95 %, from 3 cars, Bay 1 as it is calibrated now)');
    expect(page.querySelectorAll('section[aria-label="Baselines"] circle')).toHaveLength(3);
    expect(hrefs(screen.getByRole('region', { name: 'Baselines' }))).toEqual(['/jobs/j0', '/jobs/j1', '/jobs/j2']);
    expect(read(page)).toContain('three jobs tell how many it needs ; the card says 2');
  });

  test('too little is said to be too little, and what was learned stands beside what the card says', async () => {
    const bare = open(model({ baselines: [], range: null, card: { gear: null, safeRpm: null, settlePulls: null } }));
    await screen.findByText('No baseline of this model was read yet.');
    expect(read(bare)).toContain('What a degree costs it is not known yet.');
    open(model({ range: null, settle: { pulls: 1.4, jobs: 5 } }));
    await screen.findByText(/Three cars make a range; Bay 1 has not seen as many since its last calibration/);
    screen.getByText(/2 suggested: in 5 jobs its cars read as they went on to read after a median of 1\.4/);
    open(model({ settle: { pulls: 0, jobs: 5 } }));
    await screen.findByText(/none suggested: in 5 jobs its cars read from the first pull on/);
  });

  test('parts tried with their verdicts, complaints with what cured them', async () => {
    const part = (name: string, verdict: string, more: object = {}) => ({
      ...{ job: 'j1', number: 'QG-1', at: null, part: name, partId: null, alone: true, measure: 'windowMeanPower' },
      ...{ verdict, range: null },
      ...more,
    });
    const search = (culprit: object | null, more: object = {}) => ({
      ...{
        job: 'j2',
        number: 'QG-2',
        at: '2026-03-01T09:00:00Z',
        complaint: 'reads-low',
        words: '',
        looks: 4,
        culprit,
      },
      ...more,
    });
    const page = open(
      model({
        parts: [
          part('silencer', 'verified-gain', { partId: 'p1', range: { estimate: 1.4, low: 0.6, high: 2.2 } }),
          part('vents', 'not-resolved', { alone: false, job: 'j3', number: 'QG-3' }),
        ],
        searches: [
          search({ suspect: 'fuel', cured: true }, { words: 'since winter' }),
          search({ suspect: 'fuel', cured: false }, { job: 'j8', at: '2026-03-02T09:00:00Z' }),
          search(null, { complaint: 'smoke', job: 'j9' }),
        ],
      }),
    );
    const tried = await screen.findByRole('region', { name: 'Parts tried' });
    const rows = within(tried).getAllByRole('listitem');
    expect(read(rows[0]!)).toMatch(/silencer \+1\.4, \+0\.6 to \+2\.2 % QG-1$/);
    expect(hrefs(rows[0]!)).toEqual(['/shelf/p1', '/jobs/j1']);
    expect(read(rows[1]!)).toMatch(/vents with other changes – QG-3$/);
    const cures = read(within(page).getByRole('region', { name: 'Complaints and cures' }));
    expect(cures).toMatch(/Reads low 2 searches .* since winter: .*, cured .*, not cured/);
    expect(cures).toMatch(/Smoke 1 searches .* 4 looked at, nothing found/);
  });

  test('a model that is gone is told', async () => {
    fakeServer({ 'GET /api/models/m1': new Refused(404, 'This shop has no such model.') });
    drawn(<ModelPage />, { at: '/models/m1', path: '/models/:id' });
    await screen.findByText('This shop has no such model.');
  });
});

describe('find anything', () => {
  beforeEach(() => localStorage.clear());
  const found = [
    { kind: 'part', id: 'p1', label: 'silencer', about: 'exhaust' },
    { kind: 'customer', id: 'c1', label: 'Mara L.', about: 'two cars' },
  ];

  test('asks from the third letter on, goes to what was chosen by arrow and Enter, and keeps it as recent', async () => {
    const asked = fakeServer({ 'GET /api/find': { found } });
    let closed = 0;
    drawn(<Finder onClose={() => closed++} />);
    screen.getByText('Type the beginnings of words; arrows choose, Enter opens.');
    const field = screen.getByRole('combobox', { name: 'Find anything' });
    await user.type(field, 'si');
    screen.getByText('Three letters at least.');
    expect(asked).toEqual([]);
    await user.type(field, 'l');
    await screen.findByText('2 found');
    expect(asked[0]!.path).toBe('/api/find?q=sil');
    await user.keyboard('{ArrowDown}{Enter}');
    expect(closed).toBe(1);
    drawn(<Finder onClose={() => closed++} />);
    screen.getByText('Recent');
    expect(read(screen.getByRole('option'))).toBe('Customer Mara L. two cars');
    await user.keyboard('{Escape}');
    expect(closed).toBeGreaterThan(1);
  });

  test('nothing found is said; recent ones that were spoilt are forgotten', async () => {
    localStorage.setItem('prandel.recent', '{not a list');
    fakeServer({ 'GET /api/find': { found: [] } });
    drawn(<Finder onClose={() => undefined} />);
    expect(screen.queryAllByRole('option')).toHaveLength(0);
    await user.type(screen.getByRole('combobox', { name: 'Find anything' }), 'zzz');
    await screen.findByText('Nothing begins with these words.');
  });
});
