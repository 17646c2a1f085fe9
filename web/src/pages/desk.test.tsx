/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import {
  comparePlans,
  DEFAULT_METHOD,
  DISAGREEMENTS,
  methodProblems,
  newSetup,
  TOLERANCES,
  type LiveSheet,
  type Method,
  type PlanRequest,
  type Setup,
} from '@prandel/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { cleanup, render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { MemoryRouter } from 'react-router';
import type { Schemas } from '../api/client.ts';
import { read } from '../test/textOf.ts';
import { EvidenceCard } from './job/EvidenceCard.tsx';
import { setupEdit } from './job/setupEdit.ts';
import { DayTimeLines } from './plan/DayTimeLine.tsx';
import { MethodFields } from './records/MethodFields.tsx';
import { changedFields, RECORD_FIELDS, RECORD_KINDS, valueAt, withValue } from './records/recordKinds.ts';
import { NeedsYou } from './today/NeedsYou.tsx';

const drawn = (element: ReactElement, role: Schemas['Role'] = 'technician') => {
  cleanup();
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity } } });
  client.setQueryData(['session'], { shop: 'Quillmoor Garage', name: 'Ines R.', email: 'x', role, units: {} });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter>{element}</MemoryRouter>
    </QueryClientProvider>,
  ).container;
};
const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
const words = (element: ReactElement) => read(drawn(element));

describe('fields of a record', () => {
  test('a value one level down is changed without touching the fields that was read', () => {
    const fields = { gear: '4', sensors: { intake: true, oil: true }, safeRpm: [1800, 7100] };
    const changed = withValue(withValue(fields, 'sensors.oil', false), 'safeRpm.1', 6900);
    expect(changed).toEqual({ gear: '4', sensors: { intake: true, oil: false }, safeRpm: [1800, 6900] });
    expect(fields).toEqual({ gear: '4', sensors: { intake: true, oil: true }, safeRpm: [1800, 7100] });
    expect(valueAt(changed, 'safeRpm.0')).toBe(1800);
    expect(valueAt({}, 'sensors.oil')).toBeUndefined();
    expect(withValue({}, 'safeRpm.1', 7000)).toEqual({ safeRpm: [1500, 7000] });
    expect(withValue({}, 'gates.intakeC', 2)).toEqual({ gates: { intakeC: 2 } });
  });

  test('every kind of record has its screen, and no field stands twice', () => {
    expect(RECORD_KINDS.map((k) => k.kind)).toEqual(['customer', 'vehicle', 'part', 'model-card', 'method']);
    for (const fields of Object.values(RECORD_FIELDS)) {
      const paths = fields.map((f) => f.path);
      expect(new Set(paths).size).toBe(paths.length);
      for (const f of fields) if (f.kind === 'choice') expect(f.choices!.length).toBeGreaterThan(1);
    }
  });

  test('a house method shows every tolerance with its bounds and every matter of disagreement with its schools', () => {
    const page = drawn(<MethodFields fields={{ ...DEFAULT_METHOD, gates: { intakeC: 2 } }} set={() => undefined} />);
    const text = read(page);
    for (const { label, unit, usual } of Object.values(TOLERANCES)) {
      const name = unit ? `${label}, ${unit}` : label;
      expect(screen.getByLabelText<HTMLInputElement>(new RegExp(`^${escaped(name)}`)).type).toBe('number');
      expect(text).toContain(`Usual ${usual};`);
    }
    for (const { label, schools } of Object.values(DISAGREEMENTS)) {
      const choice = screen.getByLabelText<HTMLSelectElement>(label);
      const offered = [...choice.options].map((option) => option.text);
      expect(offered).toEqual(expect.arrayContaining(Object.values(schools)));
    }
    expect(screen.getByLabelText<HTMLInputElement>(/^Intake air start/).value).toBe('2');
  });

  test('what the fields can set is what the core accepts', () => {
    let fields: Record<string, unknown> = { ...DEFAULT_METHOD };
    for (const [key, { least }] of Object.entries(TOLERANCES))
      if (!['intervalLeastMin', 'chargeAirWarnC'].includes(key))
        fields = withValue(fields, key === 'settlePulls' ? key : `gates.${key}`, least);
    fields = withValue(withValue(fields, 'gates.intervalLeastMin', 0), 'gates.chargeAirWarnC', 30);
    for (const [key, { schools }] of Object.entries(DISAGREEMENTS))
      fields = withValue(fields, `schools.${key}`, Object.keys(schools).at(-1));
    expect(methodProblems(fields as unknown as Method)).toEqual([]);
  });
});

describe('the evidence log', () => {
  const row = (n: number, kind: string, what: string) => ({
    n,
    kind,
    what,
    at: '2026-11-23T09:10:00.000Z',
    person: 'Ines R.',
    detail: '',
    hash: 'ab'.repeat(32),
  });
  const rows = [
    row(1, 'edit', 'Opened the job.'),
    row(2, 'override', 'Overrode the gate.'),
    row(3, 'reading', 'Weather: 21.4 °C'),
  ];

  test('says that the chain holds, and names the row where it does not', () => {
    expect(words(<EvidenceCard zone={null} job="x" log={{ rows, broken: null }} />)).toContain(
      'Evidence log, 3 rows; the chain of hashes holds.',
    );
    const broken = words(
      <EvidenceCard
        zone={null}
        job="x"
        log={{ rows, broken: { n: 2, why: 'Row 2 was changed after it was written.' } }}
      />,
    );
    expect(broken).toContain('Row 2 was changed after it was written.');
    expect(broken).not.toContain('holds');
  });

  test('tells who and what kind; a plain edit needs no kind; readings come when they are asked for', async () => {
    const said = words(<EvidenceCard zone={null} job="x" log={{ rows, broken: null }} />);
    expect(said).toMatch(/Ines R\.: Opened the job\./);
    // What was a tap in the bay may get its words here; an edit had them.
    expect(said).toMatch(/Ines R\., override: Overrode the gate\. write .*Ines R\.: Opened the job\. Add$/);
    const looking = read(drawn(<EvidenceCard zone={null} job="x" log={{ rows, broken: null }} />, 'viewer'));
    expect(looking).toContain('Overrode the gate.');
    expect(looking).not.toMatch(/write|Add$/);
    // Readings come every ten minutes and stay out until somebody asks.
    expect(said).not.toContain('Weather');
    await userEvent.click(screen.getByRole('checkbox', { name: 'with readings' }));
    expect(screen.getByText(/Weather: 21\.4 °C/)).toBeTruthy();
  });
});

describe('the time line of a plan', () => {
  const request: PlanRequest = {
    baseline: 'A',
    candidates: ['B'],
    returnChecks: ['A2'],
    settle: 2,
    counted: 3,
    minutesPerPull: 5,
    fittingMinutes: 10,
    coolDownMinutes: 60,
    prior: null,
  };
  const setups = [
    newSetup('A', 'as arrived'),
    newSetup('B', 'pump', 'A'),
    { ...newSetup('A2', 'return check', 'A'), returnsTo: 'A' },
  ];
  const [withReturn] = comparePlans(request);

  test('draws every pull, hatches fittings, dots cool-downs, and reads itself to those who cannot see it', () => {
    const line = drawn(
      <DayTimeLines day={withReturn!} openFromMin={480} startMin={8 * 60} setups={setups} openUntilMin={18 * 60} />,
    );
    const pulls = withReturn!.blocks.reduce((sum, b) => sum + b.pullMin.length, 0);
    expect(line.querySelectorAll('rect[width="4"][height="18"]')).toHaveLength(pulls);
    expect(line.querySelectorAll('[fill="url(#plan-fit)"]')).toHaveLength(2);
    expect(line.querySelectorAll('[fill="url(#plan-cool)"]')).toHaveLength(2);
    const aloud = /08:00 pulls on A, 08:25 fitting, 08:35 cool-down, 09:25 pulls on B/;
    expect(screen.getByRole('img', { name: aloud })).toBeTruthy();
  });

  test('closing time is drawn when the day runs towards it, and every mark lies inside the picture', () => {
    const line = (startMin: number, openUntilMin: number) =>
      drawn(
        <DayTimeLines
          day={withReturn!}
          openFromMin={480}
          startMin={startMin}
          setups={setups}
          openUntilMin={openUntilMin}
        />,
      );
    const late = line(15 * 60, 17 * 60);
    expect(read(late)).toContain('closing');
    const marks = [...late.querySelectorAll('svg > * [x], svg > [x], svg > [x1]')];
    expect(marks.length).toBeGreaterThan(5);
    for (const mark of marks) {
      const x = Number(mark.getAttribute('x') ?? mark.getAttribute('x1'));
      expect(x).toBeGreaterThanOrEqual(0);
      expect(x).toBeLessThanOrEqual(1200);
    }
    expect(read(line(8 * 60, 22 * 60))).not.toContain('closing');
  });
});

describe('what needs a person next', () => {
  const jobRow = (id: string, pulls: number, verdicts: Schemas['VerdictCell']['verdict'][]): Schemas['JobRow'] => ({
    id,
    number: id,
    title: 'Does it help?',
    vehicle: `Car ${id}`,
    updatedAt: '2026-11-23T09:00:00Z',
    pulls,
    dayAt: null,
    openedAt: null,
    state: 'judged',
    problem: null,
    verdicts: verdicts.map((verdict) => ({
      candidate: 'B',
      measure: 'windowMeanPower',
      verdict,
      gain: { unit: 'W', value: 900, lowValue: 400, highValue: 1400 },
    })),
  });
  const bay = { id: 'b', label: 'Bay 2', version: 1, rollers: {}, instruments: {}, status: [], job: 'live' } as never;
  const sheet = {
    state: 'hold',
    waitS: 228,
    reasons: [
      {
        ...{ kind: 'condition', key: 'intakeC', label: 'Intake air, start' },
        finding: { code: 'too-warm', byC: 1.8, recovery: 'forecast' },
      },
    ],
    job: { id: 'live', vehicle: 'Car live' },
    planComplete: false,
    nextSetup: null,
    track: null,
  } as unknown as LiveSheet;

  test('the bay comes first, with its countdown; then each job by what it lacks', () => {
    const rows = [
      jobRow('1', 0, []),
      jobRow('2', 8, ['not-comparable']),
      jobRow('3', 8, ['not-resolved']),
      jobRow('4', 8, ['verified-gain']),
      jobRow('live', 4, ['not-resolved']),
    ];
    const said = words(<NeedsYou bays={[{ bay, sheet }]} rows={rows} />);
    const order = [
      'Bay 2, Car live',
      'Hold',
      '3:48',
      'Open the run sheet',
      'Plan the day',
      'Look at the conditions',
      'Decide whether to go on',
      'Hand over the report',
    ];
    const places = order.map((text) => said.indexOf(text));
    expect(places).not.toContain(-1);
    expect(places).toEqual([...places].sort((a, b) => a - b));
    // The job on the rollers is not also told to decide: its plan is not in yet.
    expect(said).not.toContain('Car live: the pulls');
  });

  test('of several bays the one that waits for a person comes first, a free one last', () => {
    const at = (label: string, state: LiveSheet['state']) => ({
      bay: { ...(bay as object), id: label, label } as never,
      sheet: { ...sheet, state, waitS: null, reasons: [], job: null } as unknown as LiveSheet,
    });
    const said = words(
      <NeedsYou bays={[at('Bay 1', 'no-job'), at('Bay 2', 'cooling'), at('Bay 3', 'stop')]} rows={[]} />,
    );
    const places = ['Bay 3 STOP: look at the car', 'Bay 2 Cooling', 'Bay 1 The bay is free'].map((w) =>
      said.indexOf(w),
    );
    expect(places).not.toContain(-1);
    expect(places).toEqual([...places].sort((a, b) => a - b));
  });

  test('with nothing to do it says so', () => {
    expect(words(<NeedsYou bays={[]} rows={[]} />)).toContain('Nothing else waits for you.');
  });
});

describe('an edit sends only what it changed', () => {
  const before: Setup = {
    ...newSetup('B', 'electric fan', 'A'),
    state: { fuel: '98', fan: '3' },
    remounted: true,
    partCost: 340,
    labourHours: 1.5,
    currency: 'EUR',
    supplier: 'Tarn Owners',
  };

  test('a state that was typed leaves cost, hours, supplier and unstrapping alone', () => {
    expect(setupEdit(before, { ...before, state: { ...before.state, fuel: '95' } })).toEqual({
      id: 'B',
      state: { fuel: '95' },
    });
    expect(setupEdit(before, { ...before, state: { fuel: '98' } })).toEqual({ id: 'B', state: { fan: '' } });
    expect(setupEdit(before, { ...before, closedCourseOnly: true })).toEqual({ id: 'B', closedCourseOnly: true });
    expect(setupEdit(before, before)).toBeNull();
  });

  test('a record names the fields that differ', () => {
    const card = { gear: '4', notes: 'x', sensors: { intake: true } };
    expect(changedFields(card, { ...card, gear: '5' })).toEqual({ gear: '5' });
    expect(changedFields(card, { ...card })).toEqual({});
  });
});
