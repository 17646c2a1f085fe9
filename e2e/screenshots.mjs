/**
 * Takes the pictures of docs/screenshots from a running demo: `node e2e/screenshots.mjs [ADDRESS]`.
 * Keep one current picture of each main view.
 */
import { mkdirSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Builder, By, Key, until } from 'selenium-webdriver';
import chrome from 'selenium-webdriver/chrome.js';
import { DEMO_SHOP, sampleCsvFiles } from '@prandel/simulator';

const base = process.argv[2] ?? 'http://127.0.0.1:4870';
const target = new URL('../docs/screenshots/', import.meta.url).pathname;
mkdirSync(target, { recursive: true });
const folder = mkdtempSync(join(tmpdir(), 'prandel-shots-'));
for (const [name, text] of sampleCsvFiles()) writeFileSync(join(folder, name), text);

const options = new chrome.Options();
options.setChromeBinaryPath('/usr/bin/chromium');
options.addArguments(
  '--headless=new',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--disable-dev-shm-usage',
  '--force-device-scale-factor=1',
  '--hide-scrollbars',
  '--lang=en-US',
  `--user-data-dir=${join(folder, 'profile')}`,
);
const driver = await new Builder()
  .forBrowser('chrome')
  .setChromeOptions(options)
  .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
  .build();
const size = (width, height) =>
  driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width,
    height,
    deviceScaleFactor: 1,
    mobile: false,
  });
const shoot = async (name) => {
  await driver.sleep(500);
  writeFileSync(join(target, `${name}.png`), Buffer.from(await driver.takeScreenshot(), 'base64'));
};
const wait = (css) => driver.wait(until.elementLocated(By.css(css)), 20_000, `no ${css}`);
const settled = () => wait('[data-busy=false]');

try {
  await size(1280, 800);
  await driver.get(`${base}/sign-in`);
  await (await wait('input[type=email]')).sendKeys(DEMO_SHOP.email);
  await shoot('sign-in');
  await driver.findElement(By.css('input[type=password]')).sendKeys(DEMO_SHOP.password, Key.ENTER);
  await wait('li a');
  await shoot('jobs');
  const links = await driver.findElements(By.css('li a'));
  const jobs = Object.fromEntries(
    await Promise.all(links.map(async (link) => [await link.getText(), await link.getAttribute('href')])),
  );
  const job = (words) => Object.entries(jobs).find(([title]) => title.includes(words))[1];
  await driver.get(job('electric'));
  await wait('section[aria-label=Verdicts]');
  await shoot('job');
  for (const [words, name] of [
    ['electric', 'compare'],
    ['gear oil', 'compare-no-change'],
    ['shroud', 'compare-not-comparable'],
    ['dearer', 'compare-not-resolved'],
  ]) {
    await driver.get(`${job(words)}/compare`);
    await settled();
    const chart = await driver.findElement(By.css('[role=application]'));
    await driver.actions().move({ origin: chart, x: 110, y: 0 }).perform();
    await shoot(name);
  }
  await driver.get(`${job('electric')}/report`);
  await wait('iframe');
  await driver.sleep(2500);
  await shoot('report');
  await driver.get(`${base}/jobs/new`);
  await wait('form');
  await shoot('new-job');
  await driver.get(`${job('dearer')}/import`);
  const files = readdirSync(folder)
    .filter((name) => name.startsWith('sheet-A'))
    .sort();
  await (await wait('input[type=file]')).sendKeys(files.map((name) => join(folder, name)).join('\n'));
  await wait('section[aria-label=Preview] svg');
  await shoot('import');
  await size(390, 844);
  await driver.get(`${job('electric')}/compare`);
  await settled();
  await shoot('compare-phone');
} finally {
  await driver.quit();
}
