/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { newSetup } from '@prandel/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { useState } from 'react';
import { ConditionsGrid } from './ConditionsGrid.tsx';
import { sorted } from '../../parts/droppedFiles.ts';
import { valueOf, withTyped, type Answers, type Day, type Laid } from './dayState.ts';
import { conditionsSaid, obstacleWords, otherCars, STARTS, timesSaid, WEATHER } from './dayWords.ts';
import { NumbersCard, type ShapeOfFiles } from './NumbersCard.tsx';
import { PullDetail } from './PullDetail.tsx';

afterEach(cleanup);

const header = (value: number) => ({ value, source: 'header' as const, words: '' });
const pull = (more: Partial<Laid> = {}): Laid => ({
  ...{ file: 'run.csv', name: 'run', rows: 100, rpmFrom: 2000, rpmTo: 6500, peakPowerW: 98_400, findings: [] },
  ...{ fileId: 'f', index: 0, durationS: 12, gear: null, vehicle: null, round: null, averagingRpm: null },
  curve: [2000, 4000, 6000].map((rpm) => ({ rpm, powerW: rpm * 15 })),
  when: { at: '2026-09-14T08:00:00Z', source: 'header', words: 'Date: 14.09.2026 10:00', unsure: null },
  conditions: {
    airC: header(20),
    pressureHpa: header(1000),
    relativeHumidity: header(0.5),
    intakeStartC: null,
    coolantStartC: null,
    oilStartC: null,
  },
  ...{ state: null, twin: null },
  ...more,
});
const row = (place: number, more: Partial<Day[number]> = {}): Day[number] => ({
  ...{ place, setupId: 'A', told: false, begins: place === 0, status: 'counted', reason: '', typed: {}, asked: false },
  ...{ startedMs: Date.parse('2026-09-14T08:00:00Z') + place * 240_000, timeFrom: 'header' },
  ...more,
});
const setups = [newSetup('A', 'as arrived'), newSetup('B', 'part', 'A')];
const SHAPE: ShapeOfFiles = {
  signature: 's',
  files: [
    { name: 'run.csv', id: 'f', problems: [], columns: [], pulls: [], written: 'workbook', arrangement: 'blocks' },
  ],
  columns: [{ role: 'engineSpeed', unit: 'rpm' }],
  answers: null,
  proposed: null,
};
const inUnits = (element: React.ReactElement) => {
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity } } });
  client.setQueryData(['session'], { shop: 'x', name: 'x', email: 'x', role: 'technician', units: { power: 'hp' } });
  return render(<QueryClientProvider client={client}>{element}</QueryClientProvider>);
};

describe('what a day is said to rest on', () => {
  test('sources are counted and grouped; what nobody knows is said', () => {
    const day = [
      row(0),
      row(1, { timeFrom: 'typed' }),
      row(2, { startedMs: null, timeFrom: null }),
      row(3, { status: 'left-out' }),
    ];
    const pulls = [0, 1, 2, 3].map(() => pull());
    expect(timesSaid(day)).toBe('1 from the lines above their numbers, 1 from what was typed, 1 not known');
    expect(conditionsSaid(day, pulls, WEATHER)).toBe(
      'air in the bay, station pressure and humidity from the lines above',
    );
    const typed = withTyped(day, [[0, 'oilStartC', 90]]);
    expect(conditionsSaid(typed, pulls, STARTS)).toBe(
      'intake at start and coolant at start not known; oil at start from what was typed (2 not known)',
    );
  });

  test('files of two cars are told apart, the rarer one is named', () => {
    const day = [row(0), row(1), row(2)];
    const pulls = [pull({ vehicle: 'Vireo' }), pull({ vehicle: 'Vireo' }), pull({ vehicle: 'Dorsin' })];
    expect(otherCars(day, pulls)).toEqual([{ vehicle: 'Dorsin', places: [2] }]);
    expect(otherCars(day.slice(0, 2), pulls)).toEqual([]);
  });

  test.each([
    [{ code: 'nothing' } as const, 'Every pull is left out.'],
    [{ code: 'numbers', shape: 1 } as const, 'Say how the numbers of file shape 2 stand.'],
    [{ code: 'one-time', places: [0, 1] } as const, 'Pull 1 and Pull 2 are said to be made at one time'],
  ])('%j', (obstacle, words) => {
    expect(obstacleWords(obstacle, (place) => `Pull ${place + 1}`, 2)).toContain(words);
  });

  test('photos and what systems leave behind are no pulls; files come in the order of their numbers', () => {
    const files = [
      'run10.csv',
      'run2.csv',
      'IMG_1.JPG',
      '.DS_Store',
      'Thumbs.db',
      'notes.pdf',
      'day.zip',
      'run1.xlsx',
    ].map((name) => new File(['x'], name));
    const { files: taken, leftOut } = sorted(files);
    expect(taken.map((f) => f.name)).toEqual(['day.zip', 'run1.xlsx', 'run2.csv', 'run10.csv']);
    expect(leftOut).toEqual(['IMG_1.JPG', 'notes.pdf']);
  });
});

describe('the numbers of files of one header', () => {
  const stated = { kind: 'corrected' as const, standard: 'sae-j1349', factor: 1.021, computed: 1.019, words: '' };
  const shown = (pulls: Laid[], shape: Partial<ShapeOfFiles> = {}) => {
    const told: Answers[] = [];
    render(
      <NumbersCard
        {...{ pulls, number: 1, several: false, open: false }}
        shape={{ ...SHAPE, ...shape }}
        rows={pulls.map((_, k) => row(k))}
        onAnswers={(a) => told.push(a)}
        onColumns={() => undefined}
      />,
    );
    return told;
  };

  test('what the files print stands beside what their weather gives; who says otherwise is believed', async () => {
    const told = shown([pull({ state: stated })], { answers: { ...ANSWERS, state: 'as-stated' }, proposed: 'files' });
    expect(document.body.textContent).toContain('Printed 1.021, computed from their weather 1.019');
    expect(screen.getByText('Proposed: the files say so.')).toBeTruthy();
    expect(document.body.textContent).toContain('workbook, several pulls below each other');
    await userEvent.click(screen.getByLabelText('No, as measured'));
    expect(told).toEqual([{ ...ANSWERS, state: 'uncorrected' }]);
  });

  test('a printed factor far from the computed one is asked about', () => {
    shown([pull({ state: { ...stated, factor: 1.06 } })], { answers: { ...ANSWERS, state: 'as-stated' } });
    expect(document.body.textContent).toContain('They differ by up to 4.1 %');
  });

  test('files that say nothing are not offered “as each file says”; files over road speed ask for their ratio', () => {
    shown([pull()], { columns: [{ role: 'roadSpeed', unit: 'km/h' }] });
    expect(screen.queryByLabelText('As each file says')).toBeNull();
    expect(screen.getByLabelText(/Engine speed over road speed/)).toBeTruthy();
  });
});
const ANSWERS = { standard: null, factor: null, averagingRpm: null, rpmPerKmH: null };

describe('one pull', () => {
  const detail = (own: Partial<Day[number]>, of: Partial<Laid> = {}) => {
    const done: unknown[] = [];
    inUnits(
      <PullDetail
        row={row(0, own)}
        pull={pull(of)}
        pulls={[pull(of)]}
        name="Pull 1"
        nameOf={(place) => `Pull ${place + 1}`}
        setups={setups}
        wall={(ms) => new Date(ms).toISOString().slice(0, 19)}
        instant={(wall) => (Number.isNaN(Date.parse(`${wall}Z`)) ? null : Date.parse(`${wall}Z`))}
        onSetup={(id) => done.push(['setup', id])}
        onStatus={(status, reason) => done.push([status, reason])}
        onReason={(reason) => done.push(['reason', reason])}
        onBegins={() => done.push('begins')}
        onTime={(ms, whole) => done.push([new Date(ms).toISOString(), whole])}
      />,
    );
    return done;
  };

  test('its power in the person’s unit, its source of time in words, and whatever makes it unsure', () => {
    detail({}, { when: { ...pull().when!, source: 'file-date', unsure: 'copied' } });
    expect(document.body.textContent).toContain('132.0 hp at most, 2000–6500 rpm');
    expect(document.body.textContent).toContain('Copying may have changed the date of the file');
  });

  test('a typed time moves the pull, or the day; what is no time is asked for again', async () => {
    const done = detail({});
    const field = screen.getByLabelText('When the pull was made');
    fireEvent.change(field, { target: { value: '2026-09-14 noon' } });
    expect(document.body.textContent).toContain('as in 2026-09-14 10:20:00');
    fireEvent.change(field, { target: { value: '2026-09-14 12:00:00' } });
    await userEvent.click(screen.getByText('Move the whole day'));
    expect(done).toEqual([['2026-09-14T12:00:00.000Z', true]]);
  });

  test('a second export is asked about, in either way', async () => {
    const done = detail(
      { asked: true, status: 'left-out' },
      { twin: { kind: 'second-export', pullId: null, place: 3, correlation: 0.99999 } },
    );
    expect(document.body.textContent).toContain('The same curve as Pull 4');
    await userEvent.click(screen.getByText('No, another pull'));
    expect(done).toEqual([['counted', undefined]]);
  });
});

test('a block pasted into the grid goes to its cells, in the units in which it is shown', () => {
  const pulls = [pull(), pull()];
  let day: Day = [row(0), row(1)];
  const Grid = () => {
    const [own, setOwn] = useState(day);
    return (
      <ConditionsGrid
        {...{ pulls, selected: null }}
        day={own}
        nameOf={(place) => `Pull ${place + 1}`}
        clock={() => '10:00'}
        onSelect={() => undefined}
        onTyped={(cells) => setOwn((day = withTyped(own, cells)))}
        onFill={() => undefined}
      />
    );
  };
  render(<Grid />);
  const cell = screen.getByLabelText('Humidity of Pull 1');
  fireEvent.paste(cell, { clipboardData: { getData: () => '45\t31,5\n46\t32\n47\t33' } });
  expect(day.map((r) => [valueOf(r, pulls, 'relativeHumidity'), valueOf(r, pulls, 'intakeStartC')])).toEqual([
    [0.45, 31.5],
    [0.46, 32],
  ]);
  fireEvent.change(screen.getByLabelText('Oil at start of Pull 2'), { target: { value: '92' } });
  fireEvent.blur(screen.getByLabelText('Oil at start of Pull 2'));
  expect(valueOf(day[1]!, pulls, 'oilStartC')).toBe(92);
});
