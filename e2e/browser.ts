import { mkdtempSync, readFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from '@jest/globals';
import { Builder, By, Key, until, type WebDriver, type WebElement } from 'selenium-webdriver';
import chrome from 'selenium-webdriver/chrome.js';

/** A busy machine takes its time; what never comes is still told. */
export const PATIENCE = 45_000;

const CHROMIUM = JSON.parse(readFileSync(new URL('chromium.json', import.meta.url), 'utf8')) as string[];

/** A fresh headless Chromium of exactly 1280 × 800, without any network of its own. */
export async function openBrowser(downloads?: string): Promise<WebDriver> {
  const options = new chrome.Options();
  options.setChromeBinaryPath('/usr/bin/chromium');
  options.addArguments(...CHROMIUM, `--user-data-dir=${mkdtempSync(join(tmpdir(), 'prandel-browser-'))}`);
  if (downloads)
    options.setUserPreferences({ 'download.default_directory': downloads, 'download.prompt_for_download': false });
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
    .build();
  // What the page has not drawn yet is waited for; who wants to see nothing looks for all of it.
  driver.findElement = (locator) => driver.wait(until.elementLocated(locator), PATIENCE);
  const wait = driver.wait.bind(driver) as (...asked: unknown[]) => never;
  driver.wait = (condition: unknown, ms?: number, what?: unknown, pollMs = 60): never =>
    wait(condition, ms, what, pollMs);
  await resize(driver, 1280, 800);
  return driver;
}

export async function resize(driver: WebDriver, width: number, height: number): Promise<void> {
  await (driver as chrome.Driver).sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width,
    height,
    deviceScaleFactor: 1,
    mobile: false,
  });
}

export async function shoot(driver: WebDriver, path: string): Promise<void> {
  await writeFile(path, Buffer.from(await driver.takeScreenshot(), 'base64'));
}

/** The first visible element that holds exactly or partly this text, of the given kind. */
export async function see(driver: WebDriver, text: string, tag = '*', ms = PATIENCE): Promise<WebElement> {
  const quoted = text.includes("'") ? `"${text}"` : `'${text}'`;
  const path = `//${tag}[contains(normalize-space(.), ${quoted})][not(.//*[contains(normalize-space(.), ${quoted})]) or self::button or self::a]`;
  const found = await driver.wait(until.elementLocated(By.xpath(path)), ms).catch(async () => {
    const shown = await driver.findElement(By.css('body')).getText();
    throw new Error(`"${text}" did not appear; the page says:\n${shown.slice(0, 3000)}`);
  });
  return found;
}

export async function press(driver: WebDriver, text: string, tag = 'button'): Promise<void> {
  const target = await see(driver, text, tag);
  await driver.wait(until.elementIsEnabled(target), PATIENCE, `"${text}" stays disabled`);
  await driver.executeScript('arguments[0].scrollIntoView({ block: "center" })', target);
  // What comes in above it moves it away from under the click.
  await driver.wait(async () => {
    const before = await target.getRect();
    await driver.sleep(60);
    const after = await target.getRect();
    return before.x === after.x && before.y === after.y;
  }, PATIENCE);
  await target.click();
}

/** Types into the control of a label. */
export async function fill(driver: WebDriver, label: string, value: string): Promise<void> {
  const input = await driver.wait(
    until.elementLocated(
      By.xpath(`//label[.//span[normalize-space(.)='${label}']]//*[self::input or self::textarea or self::select]`),
    ),
    PATIENCE,
    `no field "${label}"`,
  );
  // Select all and type over: clearing alone is not seen by controlled fields.
  await input.sendKeys(Key.chord(Key.CONTROL, 'a'), value);
}

export async function text(driver: WebDriver, css: string): Promise<string> {
  return (await driver.wait(until.elementLocated(By.css(css)), PATIENCE, `no ${css}`)).getText();
}

const axeSource = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** No serious or critical finding of axe-core, and nothing wider than the window. */
export async function expectAccessible(driver: WebDriver): Promise<void> {
  await driver.executeScript(axeSource);
  const serious = await driver.executeAsyncScript<string[]>(
    "const done = arguments[0]; axe.run(document, { resultTypes: ['violations'] }).then((r) => done(r.violations.filter((v) => ['serious', 'critical'].includes(v.impact)).map((v) => v.id + ': ' + v.nodes.map((n) => n.html).slice(0, 2).join(' '))));",
  );
  expect(serious).toEqual([]);
  const [content, width] = await driver.executeScript<[number, number]>(
    'return [document.documentElement.scrollWidth, innerWidth]',
  );
  expect(content).toBeLessThanOrEqual(width);
}
