import { spawn, type ChildProcess } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { DEMO_DAYS, foreignFile, foreignPull, PLAIN_SHAPE, simulateDay, type Shape } from '@prandel/simulator';
import { By, until } from 'selenium-webdriver';
import { expectAccessible, fill, PATIENCE, press, see, text } from './browser.ts';
import { base, closeDesk, driver, openDesk, restartServer, setUpShop } from './desk.ts';

// An A-B-A day on a bay by files: foreign software writes into a folder, in pieces, with German decimals; ./prandel watch brings the files.
const job = simulateDay({
  ...DEMO_DAYS.find((d) => d.id === 'QG-0910-2')!,
  seed: 8,
  effects: { B: () => 3 },
  rounds: ['A', 'B', 'A2'].map((setup, i) => ({
    ...{ setup, settle: 2, counted: setup === 'A2' ? 2 : 3 },
    startMinute: 70 * i,
    minutesPerPull: 4,
  })),
});
const shape: Shape = { ...PLAIN_SHAPE, language: 'de', clock: 'elapsed' };
const folder = mkdtempSync(join(tmpdir(), 'rollers-'));
const root = new URL('..', import.meta.url).pathname;
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

let watcher: ChildProcess | null = null;
let told = '';
beforeAll(() => openDesk('FOLDER'), 120_000);
afterAll(async () => {
  watcher?.kill('SIGTERM');
  await closeDesk();
});

/** Writes a file as such software does: opened, then filled piece by piece. */
async function write(name: string, content: Uint8Array): Promise<void> {
  const fd = openSync(join(folder, name), 'w');
  const half = Math.floor(content.length / 2);
  writeSync(fd, content.subarray(0, half));
  await pause(400);
  writeSync(fd, content.subarray(half));
  closeSync(fd);
}
const pullFile = (k: number) => write(`lauf_${k + 1}.csv`, foreignFile([foreignPull(job, job.pulls[k]!, 120)], shape));
const heard = async (words: string) => {
  for (const until = Date.now() + PATIENCE; !told.includes(words);) {
    if (Date.now() > until) throw new Error(`the watcher never said "${words}" but:\n${told}`);
    await pause(100);
  }
};
const bayUrl = () => `${base}/bays`;

describe('a watched folder', () => {
  let token = '';
  test('a bay without instruments is a bay by files; a token for it is made, and the folder is watched', async () => {
    await driver.get(base);
    await setUpShop();
    await see(driver, 'New job');
    await driver.get(bayUrl());
    await press(driver, 'New bay');
    await fill(driver, 'Name of the bay', 'Bay 3');
    await press(driver, 'Save the bay');
    await see(driver, 'No folder is watched.');
    await expectAccessible(driver);
    await driver.get(`${base}/people`);
    await fill(driver, 'Used by', 'the rollers’ computer');
    await driver.findElement(By.xpath("//select/option[contains(., 'Brings pull files')]")).click();
    await driver.findElement(By.xpath("//select/option[.='Bay 3']")).click();
    await press(driver, 'Make a token');
    await see(driver, 'shown only now');
    token =
      /prandel_\S+/.exec(await text(driver, '.notice.plain'))?.[0] ??
      (await driver.findElement(By.css('[aria-label="Access token"]')).getAttribute('value'))!;
    expect(token).toMatch(/^prandel_/);
    const state = mkdtempSync(join(tmpdir(), 'state-'));
    watcher = spawn(
      process.execPath,
      [join(root, 'cli/dist/main.js'), 'watch', folder, '--server', base, '--bay', 'Bay 3', '--state', state],
      {
        env: { ...process.env, NODE_OPTIONS: '', PRANDEL_TOKEN: token },
      },
    );
    watcher.stdout!.on('data', (chunk: Buffer) => (told += chunk.toString()));
    watcher.stderr!.on('data', (chunk: Buffer) => (told += chunk.toString()));
    await heard('Watching');
    await driver.get(bayUrl());
    await see(driver, folder);
  });

  test('the first file waits in the tray, is looked at once, and becomes the first pull of the round', async () => {
    await driver.get(`${base}/jobs/new`);
    await fill(driver, 'What is to be decided, in words', 'Does the thermostat add power?');
    await fill(driver, 'With the change', 'early thermostat');
    await fill(driver, 'Vehicle', 'Tarn Vireo 1.8 roadster');
    await fill(driver, 'Window to, rpm', '5500');
    await driver.findElement(By.xpath("//label[contains(., 'Return check')]/input")).click();
    await press(driver, 'Open the job and plan the day');
    await (await driver.wait(until.elementLocated(By.css('[data-shape=return] input')), PATIENCE)).click();
    await press(driver, 'Save the plan');
    await see(driver, 'The plan is saved.');
    await driver.get((await driver.getCurrentUrl()).replace(/\/plan.*$/, ''));
    await press(driver, 'Put it on Bay 3', 'a');
    await press(driver, 'Does the thermostat add power?');
    await press(driver, 'Start the round of A');
    await pullFile(0);
    await heard('lauf_1.csv: in the tray');
    await write('notes.txt', Buffer.from('a shopping list\nof nobody\n'));
    await heard('notes.txt: in the tray');
    await see(driver, '2 files in the tray');
    await driver.get(bayUrl());
    const look = By.xpath("//div[b[.='lauf_1.csv']]/following-sibling::div//a[.='Look at it']");
    const link = await driver.wait(until.elementLocated(look), PATIENCE);
    await link.click();
    await press(driver, 'Bring it in, and its kind by itself from now on');
    await driver.wait(until.urlContains('/bays/'), PATIENCE);
    await see(driver, '1 file in the tray');
    await see(driver, 'REVIEW');
    expect(await text(driver, '.bay-files')).toContain('By files');
  });

  test('the day goes on by itself, through a restart of the server, to the verdict', async () => {
    const rounds = [...new Set(job.pulls.map((p) => p.setupId))];
    for (const [r, setup] of rounds.entries()) {
      if (r > 0) {
        await press(driver, 'It counts');
        await press(driver, `Start fitting ${setup}`);
        await press(driver, `Stop the fitting clock: ${setup} is on`);
        await press(driver, `Start the round of ${setup}`);
        await pause(500);
      }
      const own = job.pulls.map((p, k) => ({ p, k })).filter(({ p, k }) => p.setupId === setup && k > 0);
      for (const [n, { k }] of own.entries()) {
        if (r === 1 && n === 1) {
          await restartServer(async () => {
            await pullFile(k);
            await heard('waits in the folder');
          });
        } else await pullFile(k);
        await heard(`lauf_${k + 1}.csv: taken as`);
      }
    }
    const takes = [...told.matchAll(/taken as (\S+)/g)].map((m) => m[1]);
    expect(new Set(takes).size).toBe(job.pulls.length - 1);
    await driver.get(bayUrl());
    await see(driver, 'notes.txt');
    const { pathname } = new URL(
      (await (await driver.findElement(By.xpath("//a[.='Look at it']"))).getAttribute('href')) ?? '',
    );
    await driver.get(`${base}${pathname.replace(/\/tray\/.*$/, '/compare')}`);
    await see(driver, 'Verified gain');
  }, 240_000);
});
