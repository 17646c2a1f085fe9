/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { crossedIn, judgeJob, ledgerOf, standings, type Job, type Setup } from '@prandel/core';
import { shootoutDay } from '@prandel/core/test/shootoutDay';
import { USUAL_UNITS } from '@prandel/presentation';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen, waitFor, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { ReactElement } from 'react';
import { MemoryRouter } from 'react-router';
import type { StoredJob } from '../../api/client.ts';
import { read } from '../../test/textOf.ts';
import { CrossedTab } from './CrossedTab.tsx';
import { LedgerTab } from './LedgerTab.tsx';
import { PairsTab } from './PairsTab.tsx';
import { RankingTab } from './RankingTab.tsx';

const MEASURE = 'windowMeanPower';
const user = userEvent.setup();
const priced = (partCost: number, labourHours: number) => ({ partCost, labourHours, currency: 'EUR' });

/** A made-up day of parts: what each gains, and what its setup is. */
const partsDay = (parts: Record<string, Partial<Setup> & { gain: number | ((rpm: number) => number) }>): Job =>
  shootoutDay(
    Object.fromEntries(Object.entries(parts).map(([id, { gain, ...setup }]) => [id, { level: gain, setup }])),
    { money: { currency: 'EUR', hourlyRate: 80 } },
  );

/** No worker in jsdom: what is asked aside never comes, and the page must do without. */
class SilentWorker {
  addEventListener(): void {}
  postMessage(): void {}
}
Object.assign(globalThis, { Worker: SilentWorker, fetch: () => new Promise(() => {}) });

function drawn(element: ReactElement): HTMLElement {
  cleanup();
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  client.setQueryData(['session'], { shop: 'Quillmoor Garage', name: 'Ines R.', role: 'technician', units: {} });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter>{element}</MemoryRouter>
    </QueryClientProvider>,
  ).container;
}

/** What is handed on as files while a page is used. */
const taken: { name: string; text: Promise<string> }[] = [];
const blobs = new Map<string, Blob>();
Object.assign(URL, {
  createObjectURL: (blob: Blob) => {
    blobs.set(`blob:${blobs.size}`, blob);
    return `blob:${blobs.size - 1}`;
  },
  revokeObjectURL: () => {},
});
HTMLAnchorElement.prototype.click = function (this: HTMLAnchorElement) {
  taken.push({ name: this.download, text: blobs.get(this.href)!.text() });
};
afterEach(() => {
  taken.splice(0);
});

const stored = (job: Job) => ({ rowId: 'row', version: 1, job, links: {} }) as unknown as StoredJob;
const rows = (page: HTMLElement) => [...page.querySelectorAll<HTMLElement>('tr[data-setup]')];

describe('a ranking', () => {
  const job = partsDay({
    B: { gain: 0.03, ...priced(300, 2) },
    C: { gain: 0.029, ...priced(80, 0.5), outcomes: { noise: 'drones at 3000', difficulty: '4' } },
    D: { gain: (n: number) => (n > 4500 ? 0.03 : -0.015), ...priced(150, 1) },
    E: { gain: 0.0002, label: '=2+3, "loose"' },
  });
  const judgement = judgeJob(job);
  const list = standings(job, judgement, { measure: MEASURE, by: 'sure' });
  const ranking = () =>
    drawn(
      <RankingTab
        {...{ stored: stored(job), job, judged: job, judgement, list, units: USUAL_UNITS, measure: MEASURE }}
        by="sure"
        use={null}
      />,
    );

  test('ties share their places, and a part that is not verified has neither place nor price a kW', () => {
    const page = ranking();
    const [first, second, third, last] = rows(page);
    expect(screen.getByTestId('first').textContent).toBe('B or C: this day cannot tell which of them gains most.');
    expect([first, second].map((r) => r!.dataset.setup!).sort()).toEqual(['B', 'C']);
    for (const row of [first!, second!]) expect(read(row)).toMatch(/^1 to 2 /);
    expect(third!.dataset.setup).toBe('D');
    expect(last!.dataset).toMatchObject({ setup: 'E', place: '' });
    expect(read(last!)).toContain('no gain to price');
    expect(read(page)).toContain('Not ranked: nothing is divided by a gain that is not verified.');
    // Costs all in: 300 + 2 · 80 and 80 + 0.5 · 80.
    expect(read(rows(page).find((r) => r.dataset.setup === 'B')!)).toContain('460 EUR');
    expect(read(rows(page).find((r) => r.dataset.setup === 'C')!)).toContain('120 EUR');
    expect(read(page)).toContain('noise: drones at 3000; difficulty: 4 of 5');
    // The loss at low engine speed is seen although the mean gains.
    expect(rows(page)[2]!.querySelectorAll('rect, path').length).toBeGreaterThan(3);
  });

  test('a budget names the best sure gain it buys, none where it buys none, and asks for an amount where there is none', async () => {
    ranking();
    const budget = screen.getByLabelText('Budget');
    const says = async (amount: string) => {
      await user.clear(budget);
      await user.type(budget, amount);
      return screen.getByTestId('budget').textContent;
    };
    expect(await says('150')).toBe('The best sure gain for that: C (part C), 120 EUR in all.');
    expect(await says('20')).toBe('No verified part fits that budget.');
    expect(await says('some')).toBe('Type an amount such as 250.');
  });

  test('goes along as a table whose sums are those of the page; what looks like a formula stays words', async () => {
    ranking();
    await user.click(within(screen.getByRole('group', { name: 'Take S1 ranking along' })).getByText('CSV'));
    await waitFor(() => expect(taken).toHaveLength(1));
    expect(taken[0]!.name).toBe('S1 ranking.csv');
    const lines = (await taken[0]!.text)
      .replace(/^\uFEFF/, '')
      .trimEnd()
      .split('\r\n');
    expect(lines).toHaveLength(5);
    const head = lines[0]!.split(',');
    const at = (line: string, column: string) => line.split(',')[head.indexOf(column)];
    const b = list.ranked.find((s) => s.setup === 'B')!;
    const line = lines.find((l) => l.startsWith('B,'))!;
    expect(Number(at(line, 'gain'))).toBe(b.verdict.gain!.value);
    expect(Number(at(line, 'cost'))).toBe(460);
    expect(Number(at(line, 'cost per unit'))).toBeCloseTo(460 / (b.verdict.gain!.value / 1000), 6);
    expect(Number(at(line, 'cost per sure unit'))).toBeGreaterThan(460 / (b.verdict.gain!.lowValue / 1000));
    expect(lines.find((l) => l.startsWith('E,'))).toContain(`"'=2+3, ""loose"""`);
  });

  test('every pair: the row less the column, the other way round the other way', () => {
    const page = drawn(
      <PairsTab {...{ stored: stored(job), job, judgement, list, units: USUAL_UNITS, measure: MEASURE }} />,
    );
    const cells = [...page.querySelectorAll('tbody tr')].map((tr) =>
      [...tr.querySelectorAll('td')].map((td) => ({
        value: Number(td.querySelector('span')?.textContent?.replace('\u2212', '-').replace('+', '')),
        filled: /bg-\[/.test(td.className),
      })),
    );
    expect(cells).toHaveLength(5);
    cells.forEach((line, a) =>
      line.forEach(({ value, filled }, b) => {
        if (a === b) return expect(value).toBeNaN();
        // 25 per cent more is 20 per cent less; both are printed to a tenth.
        const back = 100 * (1 / (1 + cells[b]![a]!.value / 100) - 1);
        expect(Math.abs(value - back)).toBeLessThan(0.101);
        return expect(filled).toBe(cells[b]![a]!.filled);
      }),
    );
  });
});

describe('crossed and steps', () => {
  test('two that add up and two that do not are told apart, with the figure of the interaction', () => {
    const both = (gain: number) => {
      const job = partsDay({ B: { gain: 0.03 }, C: { gain: 0.02 }, D: { gain } });
      const changes = job.setups.slice(1, 3).flatMap((s) => s.changes);
      return { ...job, setups: job.setups.map((s) => (s.id === 'D' ? { ...s, changes } : s)) };
    };
    const says = (job: Job) => {
      const crossed = crossedIn(job, judgeJob(job), MEASURE);
      expect(crossed).toHaveLength(1);
      drawn(<CrossedTab stored={stored(job)} job={job} crossed={crossed} units={USUAL_UNITS} />);
      return screen.getByTestId('interaction').textContent;
    };
    expect(says(both(1.03 * 1.02 - 1))).toMatch(/^No sign that one changes what the other brings \(B and C: ±/);
    expect(says(both(0.03))).toMatch(/^Together they bring less than the sum: 1\.9 % less \(/);
    expect(says(both(0.07))).toMatch(/^Together they bring more than the sum: \+1\.9 % more \(/);
  });

  test('each step against what it stands on, the sum against the baseline; a cure claims nothing', () => {
    const job = partsDay({
      B: { gain: 0.02, cure: true, label: 'new plugs', ...priced(40, 0.5) },
      C: { gain: 0.05, parentId: 'B', ...priced(100, 1) },
    });
    const ledger = ledgerOf(job, judgeJob(job), MEASURE);
    const page = drawn(<LedgerTab stored={stored(job)} job={job} ledger={ledger} units={USUAL_UNITS} />);
    const [cure, part] = [...page.querySelectorAll('tr[data-step]')].map((row) => read(row));
    expect(cure).toContain('Cure on top of A');
    expect(cure).toContain('It put the car right; it is no claim of a part.');
    expect(part).toContain('Part on top of B');
    // 40 + 0.5 · 80, then 100 + 80 on top of it.
    expect(cure).toContain('80 EUR');
    expect(part).toContain('180 EUR');
    expect(part).toContain('260 EUR');
    const flat = partsDay({ B: { gain: 0.02 } });
    drawn(<LedgerTab stored={stored(flat)} job={flat} ledger={null} units={USUAL_UNITS} />);
    expect(document.body.textContent).toContain('No build in steps: every setup is made from A.');
  });
});
