/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { fails, holds, noted, type SealCheck } from '@prandel/core';
import { screen, waitFor, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { StoredJob } from '../../api/client.ts';
import { drawn, fakeServer, Refused } from '../../test/fakeServer.tsx';
import { read } from '../../test/textOf.ts';
import { CheckList } from '../../verifying/CheckList.tsx';
import type { CheckedFile } from '../../verifying/verify.worker.ts';
import { SealCard } from './SealCard.tsx';
import { SharedPage } from './SharedPage.tsx';
import { ShopKeyCard } from './ShopKeyCard.tsx';
import { VerifyPage } from './VerifyPage.tsx';

const user = userEvent.setup();
const KEY = Buffer.alloc(32, 7).toString('base64');
const PRINT = Array.from({ length: 16 }, (_, i) => `a${i.toString(16)}b0`).join(' ');
const link = (label: string, more: object = {}) => ({
  ...{ id: `l-${label}`, label, views: 0, lastViewedAt: null, withdrawnAt: null, expiresAt: null },
  ...more,
});
const seal = (n: number, more: object = {}) => ({
  ...{ id: `s${n}`, n, sealedAt: '2026-05-02T15:00:00Z', by: 'Ines R.', fingerprint: PRINT, links: [] },
  ...{ reopenedAt: null, reopenedBy: null, reopenReason: null },
  ...more,
});
function open(
  sealedAt: string | null,
  seals: readonly object[],
  more: object = {},
  role: 'technician' | 'viewer' = 'technician',
) {
  const asked = fakeServer({
    'GET /api/jobs/j1/seals': seals,
    'POST /api/jobs/j1/seals': null,
    'POST /api/jobs/j1/seals/reopen': null,
    ...more,
  });
  const stored = { rowId: 'j1', sealedAt } as StoredJob;
  return { page: drawn(<SealCard stored={stored} />, { role: role as never }), asked };
}
const deeds = (asked: readonly { method: string; path: string; body: unknown }[]) =>
  asked.filter((a) => a.method !== 'GET').map((a) => [a.method, a.path, a.body]);

describe('the seal of a job', () => {
  test('an open job says what sealing does and asks once more in place', async () => {
    const { asked } = open(null, []);
    await screen.findByText('Not sealed.');
    await user.click(screen.getByRole('button', { name: 'Seal the job' }));
    expect(deeds(asked)).toEqual([]);
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    await user.click(screen.getByRole('button', { name: 'Seal the job' }));
    await user.click(screen.getByRole('button', { name: 'Seal it' }));
    await waitFor(() => expect(deeds(asked)).toEqual([['POST', '/api/jobs/j1/seals', null]]));
  });

  test('whoever may not change jobs sees no button; a refusal says why', async () => {
    open(null, [], {}, 'viewer');
    await screen.findByText('Not sealed.');
    expect(screen.queryByRole('button')).toBeNull();
    open(null, [], { 'POST /api/jobs/j1/seals': new Refused(409, 'The key file of the shop is gone.') });
    await user.click(await screen.findByRole('button', { name: 'Seal the job' }));
    await user.click(screen.getByRole('button', { name: 'Seal it' }));
    await screen.findByText('The key file of the shop is gone.');
  });

  test('a sealed one is reopened with a reason; the older sealings keep theirs in sight', async () => {
    const older = seal(1, {
      ...{ reopenedAt: '2026-05-03T09:00:00Z', reopenedBy: 'Tom K.', reopenReason: 'wrong gear named' },
      links: [link('a magazine')],
    });
    const { asked, page } = open('2026-05-02T15:00:00Z', [seal(2), older]);
    await screen.findByText(/^2 May 2026 by Ines R\.$/);
    expect(read(page)).toContain('Sealing 1, 2 May 2026 by Ines R. ; reopened 3 May 2026 by Tom K.: wrong gear named');
    expect(screen.queryByRole('button', { name: 'Seal the job' })).toBeNull();
    await user.click(screen.getByText('Reopen the job'));
    await user.type(screen.getByLabelText('Why'), 'x');
    await user.click(screen.getByRole('button', { name: 'Reopen' }));
    await screen.findByText(/Say in a few words why/);
    expect(deeds(asked)).toEqual([]);
    await user.type(screen.getByLabelText(/^Why/), ' pull was missing ');
    await user.click(screen.getByRole('button', { name: 'Reopen' }));
    await waitFor(() =>
      expect(deeds(asked)).toEqual([['POST', '/api/jobs/j1/seals/reopen', { reason: 'x pull was missing' }]]),
    );
  });

  test('a link is made for somebody, shown once, counted, and withdrawn', async () => {
    const links = [
      link('Mara L.', { views: 3, lastViewedAt: '2026-05-04T09:00:00Z', expiresAt: '2020-01-01T00:00:00Z' }),
      link('old one', { withdrawnAt: '2026-05-05T09:00:00Z' }),
    ];
    const { asked } = open('2026-05-02T15:00:00Z', [seal(1, { links })], {
      'POST /api/jobs/j1/seals/s1/links': { id: 'l9', token: 'tok-9' },
      'DELETE /api/jobs/j1/seals/links/l-Mara L.': null,
      'DELETE /api/jobs/j1/seals/links/l-Mara%20L.': null,
    });
    const rows = within(await screen.findByRole('list', { name: 'Links' })).getAllByRole('listitem');
    expect(read(rows[0]!)).toContain('Mara L. opened 3 times, last on 4 May 2026; over since 1 January 2020');
    expect(read(rows[1]!)).toBe('old one not opened yet; withdrawn 5 May 2026');
    await user.click(screen.getByRole('button', { name: 'Make a link' }));
    await screen.findByText('Say whom it is for.');
    await user.type(screen.getByLabelText(/^A link for/), 'the club');
    await user.selectOptions(screen.getByLabelText('Opens for'), '');
    await user.click(screen.getByRole('button', { name: 'Make a link' }));
    const field = await screen.findByLabelText('Link for the club');
    expect((field as HTMLInputElement).value).toBe('http://localhost/s#tok-9');
    expect(deeds(asked)).toEqual([['POST', '/api/jobs/j1/seals/s1/links', { label: 'the club', days: null }]]);
    await user.click(screen.getByRole('button', { name: 'Withdraw the link for Mara L.' }));
    await user.click(screen.getByRole('button', { name: 'Withdraw' }));
    await waitFor(() => expect(deeds(asked).at(-1)![0]).toBe('DELETE'));
  });
});

describe('the key of the shop', () => {
  const key = (state: string, history: readonly object[] = []) => ({
    ...{ state, file: 'quillmoor.key', history },
    key: { fingerprint: PRINT, publicKey: KEY },
  });
  const shown = (body: object, role: 'owner' | 'technician') => {
    const asked = fakeServer({ 'GET /api/key': body, 'POST /api/key/change': null });
    return { page: drawn(<ShopKeyCard />, { role }), asked };
  };

  test('shows its fingerprint in two lines and where its file lies; the owner alone changes it', async () => {
    const { asked } = shown(key('there'), 'owner');
    expect(read(await screen.findByLabelText('Fingerprint'))).toBe(PRINT);
    await screen.findByText('quillmoor.key');
    await user.click(screen.getByRole('button', { name: 'Change the key' }));
    await user.click(screen.getByRole('button', { name: 'Change it' }));
    await waitFor(() => expect(deeds(asked)).toEqual([['POST', '/api/key/change', { lost: false }]]));
    shown(key('there'), 'technician');
    await screen.findByLabelText('Fingerprint');
    expect(screen.queryByRole('button')).toBeNull();
  });

  test('a lost file is told with what still holds; a new key then is one the old did not sign', async () => {
    const before = { publicKey: 'a', fingerprint: PRINT, madeAt: '2026-01-02T09:00:00Z', madeBy: 'Ines R.' };
    const { asked, page } = shown(
      key('missing', [
        { ...before, changeSignature: null },
        { ...before, publicKey: 'b' },
      ]),
      'owner',
    );
    await screen.findByText(/is gone: nothing can be sealed\. Put its copy back/);
    expect(read(page)).toContain('made by Ines R.; not signed by the key before it');
    await user.click(screen.getByRole('button', { name: 'The key is lost: make a new one' }));
    await user.click(screen.getByRole('button', { name: 'Make it' }));
    await waitFor(() => expect(deeds(asked)).toEqual([['POST', '/api/key/change', { lost: true }]]));
    shown(key('other'), 'owner');
    await screen.findByText(/holds another key\. Put the right one back/);
  });
});

const checked = (checks: readonly SealCheck[], sealed = true): CheckedFile =>
  ({
    ...{ checks, title: 'QG-7' },
    seal: sealed
      ? { sealedAt: '2026-05-02T15:00:00Z', by: 'Ines R.', shop: 'Quillmoor Garage', supersedes: 'x', publicKey: KEY }
      : null,
  }) as unknown as CheckedFile;

describe('what came of a check', () => {
  test('what does not hold stands first and heads the card; a word beside each mark says which it is', () => {
    const page = drawn(
      <CheckList
        name="job.zip"
        checked={checked([
          holds('resources', { files: 9 }),
          fails('pull-missing', { pull: 'B2' }),
          noted('report-elsewhere'),
        ])}
      />,
    );
    expect(screen.getByRole('status').textContent).toBe('Does not hold');
    const rows = within(screen.getByRole('list', { name: 'Checks' })).getAllByRole('listitem');
    expect(rows.map((r) => read(r).split(':')[0])).toEqual(['Does not hold', 'Holds', 'Note']);
    expect(read(rows[0]!)).toContain('The log knows pull B2; it was taken out of the package.');
    expect(read(page)).toContain('by Ines R., Quillmoor Garage , in place of an earlier seal.');
    expect(read(page)).toContain('A seal does not prove that the clock was right');
  });

  test('a file that cannot be read says so, an unsealed one claims nothing', () => {
    drawn(<CheckList name="x.zip" checked={{ problem: 'This is no job package.' }} />);
    expect(screen.getByRole('alert').textContent).toBe('This is no job package.');
    const page = drawn(<CheckList name="y.zip" checked={checked([noted('no-seal')], false)} />);
    expect(screen.getByRole('status').textContent).toBe('Not sealed; nothing contradicts itself');
    expect(read(page)).not.toContain('Key that signed it');
  });
});

/** A thread that answers as the check would. */
function thread(answer: CheckedFile): void {
  class Thread extends EventTarget {
    postMessage() {
      setTimeout(() => this.dispatchEvent(new MessageEvent('message', { data: answer })), 0);
    }
    terminate() {}
  }
  Object.assign(globalThis, { Worker: Thread });
}

describe('pages without an account', () => {
  test('files to check are read by the page, one card each, the newest on top', async () => {
    const asked = fakeServer({});
    thread(checked([holds('signature', { shop: 'Quillmoor Garage' })]));
    drawn(<VerifyPage />);
    const file = (name: string) =>
      Object.assign(new File(['x'], name), { arrayBuffer: () => Promise.resolve(new ArrayBuffer(1)) });
    await user.upload(screen.getByLabelText('File to check'), [file('a.zip'), file('b.html')]);
    await screen.findByRole('region', { name: 'b.html' });
    expect(screen.getAllByRole('region').map((r) => r.getAttribute('aria-label'))).toEqual(['b.html', 'a.zip']);
    expect(asked).toEqual([]);
  });

  const shared = (more: object = {}) => ({
    ...{ shop: 'Quillmoor Garage', sealedAt: '2026-05-02T15:00:00Z', by: 'Ines R.', fingerprint: PRINT },
    ...{ reopened: null, sealedAgain: false },
    page: {
      ...{
        number: 'QG-7',
        question: 'Does it help?',
        vehicle: 'Vireo 1.8',
        customer: null,
        day: '2 May 2026',
        bay: 'Bay 1',
      },
      how: ['Three counted pulls before and three after.'],
      results: [
        {
          ...{
            setup: 'B',
            label: 'silencer',
            measure: 'windowMeanPower',
            verdict: 'verified-gain',
            picture: '<svg role="img"></svg>',
          },
          ...{
            sentence: 'The silencer adds 2.6 kW.',
            estimate: '+2.6',
            unit: 'kW',
            sure: 'between 1.9 and 3.3 kW',
            means: ['As sure as measuring allows.'],
          },
        },
      ],
    },
    ...more,
  });

  test('a shared link shows one sentence, the figure and its verdict, and checks the seal on a tap', async () => {
    fakeServer({ 'GET /api/shared/tok': shared() });
    const page = drawn(<SharedPage />, { at: '/s#tok', path: '/s' });
    await screen.findByRole('heading', { level: 1, name: 'The silencer adds 2.6 kW.' });
    expect(read(page)).toContain('silencer, Vireo 1.8, 2 May 2026 +2.6 kW');
    expect(screen.getByText(/Verified gain/i)).toBeTruthy();
    expect(screen.getByRole('link', { name: 'The whole report' }).getAttribute('href')).toBe('/api/shared/tok/report');
    // The package is gone meanwhile: it says so and can be tried again.
    await user.click(screen.getByRole('button', { name: 'Check the seal now' }));
    await screen.findByText(/The package could not be fetched/);
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Check the seal now' }).disabled).toBe(false);
  });

  test('one that was reopened or sealed again says so; one that opens nothing says why', async () => {
    fakeServer({ 'GET /api/shared/tok': shared({ reopened: { reason: 'wrong gear named' } }) });
    drawn(<SharedPage />, { at: '/s#tok', path: '/s' });
    await screen.findByText('The shop has reopened this job since: wrong gear named');
    fakeServer({ 'GET /api/shared/tok': shared({ sealedAgain: true }) });
    drawn(<SharedPage />, { at: '/s#tok', path: '/s' });
    await screen.findByText(/sealed this job again since\. Ask it for the newer report/);
    fakeServer({ 'GET /api/shared/gone': new Refused(404, 'The shop withdrew it.') });
    drawn(<SharedPage />, { at: '/s#gone', path: '/s' });
    expect((await screen.findByRole('alert')).textContent).toBe('The shop withdrew it.');
  });
});
