import { fork, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect } from '@jest/globals';
import { judgeJob, type Judgement, type LiveSheet } from '@prandel/core';
import { readEvents, readPackage, unzip } from '@prandel/formats';
import { liveTruthPercent } from '@prandel/simulator';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { Api, freePort, questionOf, startServer } from './application.ts';
import { openBrowser, PATIENCE, press, see } from './browser.ts';

// The day runs in fast time against the stand-ins: the car, the room and the clock are simulated, everything else is real.
export const PHOTO = new URL('../docs/screenshots/today.png', import.meta.url);
export const REST_SPEED = 120;
export const PULL_SPEED = 6;

let standIns: ChildProcess;
let server: ChildProcess;
export let driver: WebDriver;
let port = 0;
export let base = '';
let benchUrl = '';
let environment: NodeJS.ProcessEnv;
let api: Api;
let databaseUrl = '';
/** The bay and the job that the day is about. */
export const at = { bay: '', job: '' };

export const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** Starts stand-ins, server and browser. */
export async function openDay(): Promise<void> {
  const url = process.env.DAY_DATABASE_URL;
  if (!url) throw new Error('DAY_DATABASE_URL is not set; run the tests with ./prandel test.');
  standIns = fork(new URL('../instruments/dist/main.js', import.meta.url).pathname, {
    env: { ...process.env, NODE_OPTIONS: '' },
    execArgv: [],
  });
  const told = await new Promise<{ ports: object; bench: number }>((ready) => standIns.once('message', ready as never));
  benchUrl = `http://127.0.0.1:${told.bench}`;
  port = await freePort();
  base = `http://127.0.0.1:${port}`;
  databaseUrl = url;
  api = new Api(base);
  environment = {
    PRANDEL_DEMO: '1',
    PRANDEL_STAND_INS: JSON.stringify(told.ports),
    PRANDEL_BENCH: benchUrl,
  };
  server = await startServer(databaseUrl, port, environment);
  driver = await openBrowser();
}

export async function closeDay(): Promise<void> {
  await driver?.quit();
  server?.kill('SIGTERM');
  standIns?.kill('SIGTERM');
}

/** Ends the server as a power cut would. */
export function killServer(): void {
  server.kill('SIGKILL');
}

export async function startAgain(): Promise<void> {
  server = await startServer(databaseUrl, port, environment);
}

export async function bench(asked: object): Promise<void> {
  const answer = await fetch(benchUrl, { method: 'POST', body: JSON.stringify(asked) });
  if (!answer.ok) throw new Error(await answer.text());
}
export const ask = <T>(path: string, body?: object) => api.ask<T>(path, body);
const page = async (path: string) => (await fetch(`${base}/api${path}`, { headers: { cookie: api.cookie } })).text();
export const sheet = () => ask<LiveSheet>(`/bays/${at.bay}/sheet`);
const shown = async () => (await driver.findElement(By.css('.state'))).getAttribute('data-state');

/** What a gloved finger would miss on the run sheet: targets under 64 px either way. */
const tooSmall = () =>
  driver.executeScript<string[]>(`
    const targets = [...document.querySelectorAll('.bay button, .bay a, .bay label')];
    if (targets.length === 0) return ['no target at all'];
    return targets
      .map((target) => [target.textContent.trim(), target.getBoundingClientRect()])
      .filter(([, box]) => box.width > 0 && (box.width < 64 || box.height < 64))
      .map(([words, box]) => words + ': ' + Math.round(box.width) + ' x ' + Math.round(box.height));
  `);

/** Waits until the run sheet on the screen is in a state, every target of which a gloved finger must hit. */
export async function seeState(wanted: string, ms = 40_000): Promise<void> {
  await driver
    .wait(async () => (await shown().catch(() => '')) === wanted, ms)
    .catch(async () => {
      const { state, reasons } = await sheet();
      throw new Error(
        `the run sheet never said ${wanted}; it is ${state}: ${reasons.map((r) => JSON.stringify(r)).join('; ')}`,
      );
    });
  expect(await tooSmall()).toEqual([]);
}

/**
 * One pull as a technician makes it: wait for READY, floor it, look at the findings, say that it counts. In fast time the
 * gate can close between READY and the pedal; such a pull is set aside by the bay, and made again.
 */
export async function pull(): Promise<void> {
  for (let attempt = 1; attempt <= 3; attempt += 1) {
    await bench({ speed: REST_SPEED });
    await seeState('ready');
    await bench({ speed: PULL_SPEED, pedal: true });
    await seeState('review');
    const kept = (await sheet()).round!.pulls.at(-1)!.status !== 'set-aside';
    await (await driver.findElement(By.css('body'))).sendKeys(' ');
    await driver.wait(async () => (await shown()) !== 'review', PATIENCE);
    if (kept) return;
  }
  throw new Error('the gate closed before three pulls in a row');
}

export async function fit(setup: string): Promise<void> {
  await press(driver, `Start fitting ${setup}`);
  await seeState('fitting');
  await bench({ fit: setup === 'A2' ? 'A' : setup, skipSeconds: 45 * 60 });
  if (setup === 'B') {
    const camera = await driver.findElement(By.css('.photo-add input[type=file]'));
    await camera.sendKeys(fileURLToPath(PHOTO));
    await see(driver, 'Photo kept. Add another');
  }
  await press(driver, 'Stop the fitting clock');
  await seeState('between');
  await press(driver, `Start the round of ${setup}`);
}

/** The job as it was exported, judged here by the core. */
export async function exported() {
  const files = await unzip(await ask<Buffer>(`/jobs/${at.job}/package`));
  const { job: back } = readPackage(files);
  return { job: back, judgement: judgeJob(back), events: readEvents(files.get('events.csv')!), files };
}

/** What the part really adds to mean power over the window, weighted by the baseline's own power. */
export function truth(judgement: Judgement): number {
  const { first, values } = judgement.setups[0]!.power;
  let gained = 0;
  let whole = 0;
  values.forEach((p, i) => {
    const rpm = 25 * (first + i);
    if (rpm < 3000 || rpm > 6800) return;
    gained += p * liveTruthPercent(rpm);
    whole += p;
  });
  return gained / whole;
}

/** A day without the screen: A with the fan on, B with it off, every gate that closes overridden. */
export async function overriddenDay(): Promise<void> {
  const act = (action: string, more: object = {}) => ask(`/bays/${at.bay}/actions`, { action, ...more });
  const state = async (...wanted: string[]) => {
    for (let i = 0; i < 400; i += 1) {
      const now = await sheet();
      if (wanted.includes(now.state)) return now;
      await pause(50);
    }
    throw new Error(
      `never ${wanted.join(' or ')}: ${(await sheet()).reasons.map((r) => JSON.stringify(r)).join('; ')}`,
    );
  };
  const setups = [
    { id: 'A', label: 'as arrived', changes: [], state: {} },
    {
      id: 'B',
      label: 'electric pump',
      changes: [{ kind: 'part-fitted', part: 'electric steering pump', text: 'part fitted: electric steering pump' }],
      state: {},
    },
  ];
  const question = questionOf('The same again?', [
    { setup: 'A', settle: 1, counted: 2 },
    { setup: 'B', settle: 1, counted: 2 },
  ]);
  const vehicle = { label: 'Tarn Vireo 1.8 roadster', engineToRollerRatio: 5.2, aspiration: 'natural' };
  at.job = (
    await ask<{ id: string }>('/jobs', {
      title: 'The same again?',
      vehicle,
      bay: { label: 'Bay 2' },
      question,
      setups,
      day: {},
    })
  ).id;
  await act('open-job', { job: at.job });
  for (const setup of ['A', 'B']) {
    if (setup === 'B') await act('start-fitting', { setup });
    await bench({ fit: setup, fan: setup === 'B' ? 'off' : 'on', skipSeconds: 45 * 60, speed: REST_SPEED });
    await pause(400);
    if (setup === 'B') await act('stop-fitting', { fitting: {} });
    await act('start-round', { setup });
    for (let k = 0; k < 8; k += 1) {
      await bench({ speed: REST_SPEED });
      await pause(2500);
      const now = await state('ready', 'hold', 'cooling', 'between');
      if (now.state === 'between') break;
      if (now.state !== 'ready') await act('override', { reason: 'No time left' });
      await bench({ speed: PULL_SPEED, pedal: true });
      await state('review');
      await act('keep');
    }
  }
}

/** Asks the open question card for the oil's highest temperature too, beside what it asks for already; 4 °C would matter. */
export async function askOfOil(): Promise<void> {
  const card = await driver.findElement(By.css('section[aria-label="The question"]'));
  await (await card.findElement(By.xpath(".//button[contains(., 'Edit')]"))).click();
  await press(driver, 'One more measure');
  const choose = async (label: string, words: string) =>
    (await card.findElement(By.xpath(`.//label[span='${label}']//option[contains(., '${words}')]`))).click();
  await choose('Measure 2', 'at its hottest');
  await (await card.findElement(By.css('select[aria-label="Channel of measure 2"] option[value=oil_c]'))).click();
  const size = await card.findElement(By.css('input[aria-label="Difference of measure 2 that would matter"]'));
  await size.sendKeys(Key.chord(Key.CONTROL, 'a'), '0');
  await see(driver, 'number above 0');
  await size.sendKeys(Key.chord(Key.CONTROL, 'a'), '4');
}

/** The second measure has a verdict of its own, in degrees, on the bay's screen and on paper. */
export async function expectOilTold(judgement: Judgement, said: string): Promise<void> {
  const oil = judgement.verdicts[1]!;
  expect(oil).toMatchObject({ measure: 'peak(oil_c)', gain: { unit: '°C', percent: null } });
  expect(said).toMatch(/B, oil, at its hottest: .*\n[+\u2212]?\d+\.\d ±\d+\.\d °C/);
  const report = await page(`/jobs/${at.job}/report.html`);
  const [, about] = /oil, at its hottest<\/span>(.*?)<\/section>/s.exec(report)!;
  expect(about).toContain('°C');
  expect(about).not.toMatch(/kW|wheels|throttle|power/);
}
