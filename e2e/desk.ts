import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from '@jest/globals';
import { sampleCsvFiles } from '@prandel/simulator';
import { By, until, type WebDriver } from 'selenium-webdriver';
import type chrome from 'selenium-webdriver/chrome.js';
import { freePort, SETUP_CODE, startServer } from './application.ts';
import { expectAccessible, fill, openBrowser, PATIENCE, press, see, text } from './browser.ts';

export const folder = mkdtempSync(join(tmpdir(), 'prandel-e2e-'));
let server: ChildProcess;
let start: () => Promise<ChildProcess>;
export let driver: WebDriver;
export let base = '';

/** Starts the server on an empty database and the browser, with the files of two sets in a folder. */
export async function openDesk(
  database: 'BROWSER' | 'MEASURES' | 'BESIDE' | 'DROPPED' | 'FOLDER' | 'SHOOTOUT' | 'PROOF' = 'BROWSER',
): Promise<void> {
  const url = process.env[`${database}_DATABASE_URL`];
  if (!url) throw new Error(`${database}_DATABASE_URL is not set; run the tests with ./prandel test.`);
  const port = await freePort();
  base = `http://127.0.0.1:${port}`;
  start = () => startServer(url, port);
  server = await start();
  for (const [name, content] of sampleCsvFiles()) writeFileSync(join(folder, name), content);
  writeFileSync(
    join(folder, 'broken.csv'),
    'rpm,Power (kW)\n' +
      Array.from({ length: 40 }, (_, i) => `${2000 + i * 100},${i === 20 ? 'oops' : 50 + i}`).join('\n'),
  );
  driver = await openBrowser(folder);
}

/** Kills the server as a power cut would, lets something happen meanwhile, and starts it again. */
export async function restartServer(meanwhile: () => Promise<void>): Promise<void> {
  const gone = new Promise((done) => server.once('exit', done));
  server.kill('SIGKILL');
  await gone;
  await meanwhile();
  server = await start();
}

export async function closeDesk(): Promise<void> {
  await driver?.quit();
  server?.kill('SIGTERM');
}

const samples = (start: string) =>
  readdirSync(folder)
    .filter((name) => name.startsWith(start))
    .sort()
    .map((name) => join(folder, name))
    .join('\n');
export const choose = async (label: string, paths: string) =>
  (await driver.wait(until.elementLocated(By.css(`input[type=file][aria-label="${label}"]`)), PATIENCE)).sendKeys(
    paths,
  );
export const gain = () => text(driver, '[data-testid=gain]');
export const settled = () => driver.wait(until.elementLocated(By.css('[data-busy=false]')), PATIENCE, 'never judged');

/** The page as a PDF; a busy machine may refuse to print at the first try. */
export async function printed(paperWidth: number, paperHeight: number): Promise<string> {
  await driver.executeAsyncScript('const done = arguments[0]; document.fonts.ready.then(() => done());');
  for (let attempt = 1; ; attempt += 1) {
    try {
      const print = (driver as chrome.Driver).sendAndGetDevToolsCommand('Page.printToPDF', {
        paperWidth,
        paperHeight,
        printBackground: true,
      });
      return ((await print) as unknown as { data: string }).data;
    } catch (error) {
      if (attempt === 5) throw error;
      await driver.sleep(700 * attempt);
    }
  }
}

/** Maps and imports the files of A and B, one set after the other. */
export async function importBothSets(): Promise<void> {
  for (const setup of ['A', 'B']) {
    await see(driver, `Choose the files of setup ${setup}`);
    await choose('Pull files', samples(`roller-${setup}`));
    await see(driver, 'What the columns mean');
    const role = await driver.findElement(By.css('select[aria-label="Meaning of Roller speed"]'));
    expect(await role.getAttribute('value')).toBe('rollerSpeed');
    if (setup === 'A') {
      // A person corrects the guess; the preview says at once what is missing.
      await role.findElement(By.xpath("./option[.='Keep as it is']")).click();
      await see(driver, 'No column is wheel power or wheel torque');
      await role.findElement(By.xpath("./option[.='Roller speed']")).click();
      await expectAccessible(driver);
      await see(driver, 'Say first whether the numbers are already corrected or scaled.');
    } else await see(driver, 'Mapped as you did the last time');
    await driver.findElement(By.xpath("//label[contains(., 'No, as measured')]//input")).click();
    await fill(driver, 'Settle pulls at the start', '2');
    await fill(driver, 'Gear', '4');
    await fill(driver, 'Station pressure, hPa', '1012');
    await fill(driver, 'Air in the bay, °C', '17');
    await fill(driver, 'Humidity, %', '50');
    await press(driver, `Import for setup ${setup}`);
    if (setup === 'A') await see(driver, 'Imported. Now the files of setup B.');
  }
}

/** The first start, after one try that names nothing. */
export async function setUpShop(): Promise<void> {
  await press(driver, 'Open the shop');
  await see(driver, 'Name the shop.');
  await fill(driver, 'Set-up code', SETUP_CODE);
  await fill(driver, 'Name of the shop', 'Quillmoor Garage');
  await fill(driver, 'Your name', 'Ines R.');
  await fill(driver, 'E-mail', 'ines@quillmoor.example');
  await fill(driver, 'Password', 'two settle pulls');
  await press(driver, 'Open the shop');
}

/** A job with its question, from the list to the choice of files. */
export async function openFirstJob(): Promise<void> {
  await press(driver, 'New job', 'a');
  await fill(driver, 'What is to be decided, in words', 'Does the electric fan add power?');
  await fill(driver, 'With the change', 'electric fan');
  await fill(driver, 'Vehicle', 'Tarn Vireo 1.8 roadster');
  await fill(driver, 'Roller inertia, kg·m²', '26.4');
  await fill(driver, 'Window to, rpm', '6800');
  await expectAccessible(driver);
  await press(driver, 'Open the job and import pulls');
}

/** A job with two parts whose order is to be drawn, as far as its saved plan. */
export async function planTwoCoolers(): Promise<void> {
  await fill(driver, 'What is to be decided, in words', 'Which of two coolers?');
  await fill(driver, 'With the change', 'low cooler');
  await press(driver, 'Compare one more setup');
  await fill(driver, 'With another change', 'tall cooler');
  await fill(driver, 'Vehicle', 'Ambry Mistral turbo');
  await expectAccessible(driver);
  await press(driver, 'Open the job and plan the day');
  await see(driver, 'Baseline again in the middle');
  await (await driver.findElement(By.css('[data-shape=middle] input'))).click();
  await (await driver.findElement(By.xpath("//label[contains(., 'Randomised')]/input"))).click();
  await see(driver, 'drawn once when the plan is saved');
  await press(driver, 'Save the plan');
  await see(driver, 'the draw stands');
}

/** In the open form of a setup: two changes, and that the fuel differs on purpose. */
export async function declareFuel(setup: string, [first, second]: readonly [string, string]): Promise<void> {
  for (const chip of await driver.findElements(
    By.css(`[aria-label='States of ${setup} that differ on purpose'] button`),
  ))
    if ((await chip.getText()).includes('Fuel')) await chip.click();
  const change = (n: number) => driver.findElement(By.css(`input[aria-label="Change ${n} of ${setup}"]`));
  await (await change(1)).sendKeys(first);
  await press(driver, 'One more change');
  await (await change(2)).sendKeys(second);
}
