import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { writePackage, zip } from '@prandel/formats';
import type { Job } from '@prandel/core';
import { DEMO_DAYS, largeJob, simulateDay } from '@prandel/simulator';
import { By, Key, until, type WebDriver } from 'selenium-webdriver';
import type chrome from 'selenium-webdriver/chrome.js';
import { SETUP_CODE, freePort, startServer } from './application.ts';
import { openBrowser, PATIENCE } from './browser.ts';

// What a technician waits for, with a job of forty pulls of a minute at 100 Hz with twenty channels. The figures are printed, as
// milliseconds and in frames of 16.7 ms; a slow machine fails no test (docs/performance.md).
const FRAME_MS = 1000 / 60;
const PERSON = { email: 'ines@quillmoor.example', password: 'two settle pulls' };

let server: Awaited<ReturnType<typeof startServer>>;
let driver: WebDriver;
let base = '';
let job = '';
/** Twenty pulls of some ten seconds. */
let usual = '';
const figures: string[] = [];
const note = (what: string, ms: number, more = '') =>
  figures.push(`${what}: ${ms.toFixed(0)} ms, ${(ms / FRAME_MS).toFixed(1)} frames${more}`);

function usualJob(): Job {
  const spec = DEMO_DAYS[0]!;
  const day = simulateDay({ ...spec, sampleHz: 100, mishaps: [], rounds: spec.rounds.slice(0, 2) });
  const pulls = day.pulls.slice(0, 16);
  return {
    ...day,
    id: 'usual',
    question: { ...day.question, candidateSetups: ['B'] },
    pulls: [...pulls, ...pulls.slice(2, 6).map((p, i) => ({ ...p, id: `more ${i}`, round: 2, position: i + 1 }))],
  };
}

/** Notes when a pointer or key went up last, when a condition held first after it, and how long the page was blocked meanwhile. */
const STOPWATCH = `
  const watch = (window.stopwatch = { start: 0, long: [], until: null, done: null });
  new PerformanceObserver((list) => watch.long.push(...list.getEntries())).observe({ type: 'longtask', buffered: true });
  const begin = (e) => { watch.start = e.timeStamp; watch.done = null; };
  addEventListener('pointerup', begin, true);
  addEventListener('keyup', begin, true);
  const look = () => {
    if (watch.until && watch.done === null && watch.until()) watch.done = performance.now();
    requestAnimationFrame(look);
  };
  requestAnimationFrame(look);`;
const VERDICT = `document.querySelector('[data-testid=verdict]')?.textContent`;

/** When the way to every page and what needs a person next can be clicked. */
const USABLE = `
  const look = () => {
    if (document.querySelector('nav a') && document.querySelector('section[aria-label="Needs you next"]'))
      window.usable = performance.now();
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);`;

interface Taken {
  readonly ms: number;
  readonly longest: number;
}

/** @param until JavaScript that holds once what was waited for is on screen */
async function timed(until: string, act: () => Promise<unknown>): Promise<Taken> {
  await driver.executeScript(`window.stopwatch.done = null; window.stopwatch.until = () => ${until};`);
  await act();
  await driver.wait(() => driver.executeScript<boolean>('return window.stopwatch.done !== null'), PATIENCE);
  await driver.wait(
    () => driver.executeScript<boolean>(`return document.querySelector('[data-busy=true]') === null`),
    PATIENCE,
  );
  return driver.executeScript<Taken>(`
    const { start, done, long } = window.stopwatch;
    const own = long.filter((e) => e.startTime + e.duration > start).map((e) => e.duration);
    return { ms: done - start, longest: Math.max(0, ...own) };`);
}

const choose = async (label: string, words: string) => {
  await (await driver.findElement(By.css(`button[aria-label^="${label}:"]`))).click();
  const option = await driver.wait(
    until.elementLocated(By.xpath(`//*[@role='menuitemradio'][contains(., '${words}')]`)),
    PATIENCE,
  );
  await option.click();
};
/** A line of the picture is another one than now. */
const changed = async () => {
  await driver.executeScript(`
    window.touched = false;
    window.toucher?.disconnect();
    window.toucher = new MutationObserver(() => (window.touched = true));
    const lines = { subtree: true, attributes: true, attributeFilter: ['d'] };
    window.toucher.observe(document.querySelector('[data-testid=compare-chart]'), lines);`);
  return 'window.touched';
};

beforeAll(async () => {
  const url = process.env.SPEED_DATABASE_URL;
  if (!url) throw new Error('SPEED_DATABASE_URL is not set; run the tests with ./prandel test.');
  const port = await freePort();
  base = `http://127.0.0.1:${port}`;
  server = await startServer(url, port);
  const headers = { origin: base, 'content-type': 'application/json' };
  const post = (path: string, body: object) =>
    fetch(`${base}/api${path}`, { method: 'POST', headers, body: JSON.stringify(body) });
  const shop = { setupCode: SETUP_CODE, shop: 'Quillmoor Garage', name: 'Ines R.', ...PERSON };
  const first = await post('/first-start', shop);
  const answer = first.ok ? first : await post('/session', PERSON);
  const cookie = answer.headers.get('set-cookie')!.split(';')[0]!;
  const store = async (own: Job) => {
    const form = new FormData();
    form.append('file', new Blob([new Uint8Array(await zip(writePackage(own)))]), 'job.zip');
    const stored = await fetch(`${base}/api/packages`, {
      method: 'POST',
      headers: { origin: base, cookie },
      body: form,
    });
    if (!stored.ok) throw new Error(`the job was refused: ${await stored.text()}`);
    return ((await stored.json()) as { id: string }).id;
  };
  usual = await store(usualJob());
  job = await store(largeJob());
  driver = await openBrowser();
  await driver.get(`${base}/sign-in`);
  await (await driver.wait(until.elementLocated(By.css('input[type=email]')), PATIENCE)).sendKeys(PERSON.email);
  await driver.findElement(By.css('input[type=password]')).sendKeys(PERSON.password, Key.ENTER);
  await driver.wait(until.elementLocated(By.css('section[aria-label="Needs you next"]')), PATIENCE);
}, 120_000);

afterAll(async () => {
  await driver?.quit();
  server?.kill('SIGTERM');
  process.stdout.write(`${figures.join('\n')}\n`);
});

describe('what a technician waits for', () => {
  test('Compare of the large job, opened cold and from the job', async () => {
    await driver.get(`${base}/jobs`);
    await driver.wait(until.elementLocated(By.css('.job-table a')), PATIENCE);
    await driver.executeScript(STOPWATCH);
    // Within the page, a moment after the list came: nothing of this job was asked before.
    await driver.sleep(1000);
    const cold = await timed(VERDICT, () =>
      driver.executeScript(`
        window.stopwatch.start = performance.now();
        history.pushState({}, '', '/jobs/${job}/compare');
        dispatchEvent(new PopStateEvent('popstate', { state: {} }));`),
    );
    note(
      'Compare of 40 pulls, cold, from the address to the verdict',
      cold.ms,
      `, longest task ${cold.longest.toFixed(0)} ms`,
    );
    if (process.env.PRANDEL_SPEED_PARTS)
      figures.push(
        await driver.executeScript<string>(`
          const t0 = window.stopwatch.start;
          return performance.getEntriesByType('resource').filter((e) => e.startTime > t0 - 5)
            .map((e) => '  ' + e.name.split('/').slice(3).join('/') + ' ' + (e.startTime - t0).toFixed(0) + '..' + (e.responseEnd - t0).toFixed(0)).join('\\n')
            + '\\n  judged in ' + document.querySelector('[data-judged-in]')?.dataset.judgedIn;`),
      );
    const verdict = await driver.executeScript<string>(`return ${VERDICT}`);
    expect(verdict).toBe('Verified gain');
    await driver.get(`${base}/jobs/${job}`);
    await driver.wait(until.elementLocated(By.css('section[aria-label=Verdicts]')), PATIENCE);
    // Somebody reads the page for a moment.
    await driver.sleep(1500);
    await driver.executeScript(STOPWATCH);
    const warm = await timed(VERDICT, async () =>
      (
        await driver.findElement(By.css(`a[href="/jobs/${job}/compare"].pri, a.btn[href="/jobs/${job}/compare"]`))
      ).click(),
    );
    note('Compare of 40 pulls, from the job to the verdict', warm.ms, `, longest task ${warm.longest.toFixed(0)} ms`);
    expect(await driver.executeScript(`return ${VERDICT}`)).toBe(verdict);
  });

  test('a change of averaging and of correction, the first and a later one', async () => {
    for (const [what, label, words] of [
      ['first change of averaging', 'Averaging width', '400'],
      ['later change of averaging', 'Averaging width', '100'],
      ['first change of correction', 'Correction standard', 'ISO 1585'],
      ['later change of correction', 'Correction standard', 'DIN'],
    ] as const) {
      const { ms, longest } = await timed(await changed(), () => choose(label, words));
      note(`${what} to the new picture`, ms, `, longest task ${longest.toFixed(0)} ms`);
      expect(await driver.executeScript(`return ${VERDICT}`)).toBe('Verified gain');
    }
  });

  test('the first load over the wire, and a page that can be used, also on a processor four times as slow', async () => {
    const chromium = driver as chrome.Driver;
    const load = async (slower: number) => {
      await chromium.sendDevToolsCommand('Network.clearBrowserCache', {});
      await chromium.sendDevToolsCommand('Emulation.setCPUThrottlingRate', { rate: slower });
      await driver.get(`${base}/`);
      await driver.wait(() => driver.executeScript<boolean>('return window.usable !== undefined'), PATIENCE);
      await driver.sleep(800);
      const [usable, bytes] = await driver.executeScript<[number, number]>(`
        const entries = [...performance.getEntriesByType('resource'), ...performance.getEntriesByType('navigation')];
        window.loaded = entries.map((e) => '  ' + e.name.split('/').slice(3).join('/') + ' ' + e.transferSize).join('\\n');
        return [window.usable ?? 0, entries.reduce((a, e) => a + e.transferSize, 0)];`);
      await chromium.sendDevToolsCommand('Emulation.setCPUThrottlingRate', { rate: 1 });
      return { usable, bytes };
    };
    await chromium.sendAndGetDevToolsCommand('Page.addScriptToEvaluateOnNewDocument', { source: USABLE });
    const plain = await load(1);
    if (process.env.PRANDEL_SPEED_PARTS) figures.push(await driver.executeScript<string>('return window.loaded'));
    const slow = await load(4);
    note('first page usable', plain.usable);
    note('first page usable on a processor four times as slow', slow.usable);
    figures.push(`first load over the wire: ${(plain.bytes / 1000).toFixed(0)} kB`);
    expect(plain.usable).toBeGreaterThan(0);
    expect(plain.bytes).toBeGreaterThan(50_000);
  });

  test('the reports of a usual and of the large job, first and again', async () => {
    const cookie = (await driver.manage().getCookies()).map(({ name, value }) => `${name}=${value}`).join('; ');
    for (const [id, pulls] of [
      [usual, 20],
      [job, 40],
    ] as const)
      for (const what of ['first', 'again']) {
        const start = performance.now();
        const report = await fetch(`${base}/api/jobs/${id}/report.html`, { headers: { cookie } });
        const html = await report.text();
        note(`report of ${pulls} pulls, ${what}`, performance.now() - start);
        expect(html).toContain('Made with Prandel');
      }
  });
});
