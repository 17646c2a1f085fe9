import { execFileSync, type ChildProcess } from 'node:child_process';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { By, until, type WebDriver } from 'selenium-webdriver';
import { Api, freePort, questionOf, SETUP_CODE, startServer } from './application.ts';
import { expectAccessible, fill, openBrowser, press, see, PATIENCE } from './browser.ts';

// The people of a shop, as each of them sees it, and a second shop on the same server.
let server: ChildProcess;
let driver: WebDriver;
let base = '';
let job = '';
const database = process.env.TEAM_DATABASE_URL ?? '';
/** Session tokens by who they belong to. */
const cookies: Record<string, string> = {};
const OWNER = { email: 'ines@quillmoor.example', password: 'two settle pulls' };

beforeAll(async () => {
  if (!database) throw new Error('TEAM_DATABASE_URL is not set; run the tests with ./prandel test.');
  const port = await freePort();
  base = `http://127.0.0.1:${port}`;
  server = await startServer(database, port);
  const api = new Api(base);
  await api.ask('/first-start', { ...OWNER, shop: 'Quillmoor Garage', name: 'Ines R.', setupCode: SETUP_CODE });
  const setups = ['A', 'B'].map((id) => ({ id, label: id, changes: [], state: {} }));
  const opened = await api.ask<{ id: string }>('/jobs', {
    ...{ title: 'Does the intake help?', vehicle: { label: 'Tarn Vireo' }, setups },
    ...{ bay: { label: '', rollerInertiaKgM2: 26.4 }, question: questionOf('Does the intake help?', []) },
  });
  job = opened.id;
  await api.ask('/bays', { label: 'Bay 1', rollers: {}, instruments: {} });
  driver = await openBrowser();
});

afterAll(async () => {
  await driver?.quit();
  server?.kill('SIGTERM');
});

/** Keeps the session of who is signed in under a name, and signs nobody in. */
async function leaveAs(who: string): Promise<void> {
  cookies[who] = (await driver.manage().getCookies()).find((c) => c.name === 'prandel_session')!.value;
  await driver.manage().deleteAllCookies();
}

/** Takes up a kept session. */
async function as(who: string, path: string): Promise<void> {
  await driver.get(`${base}/sign-in`);
  await driver.manage().deleteAllCookies();
  await driver.manage().addCookie({ name: 'prandel_session', value: cookies[who]! });
  await driver.get(base + path);
}

async function joinBy(link: string, name: string): Promise<void> {
  await driver.get(`${base}/sign-in`);
  await driver.manage().deleteAllCookies();
  await driver.get(link);
  await expectAccessible(driver);
  await fill(driver, 'Your name', name);
  await fill(driver, 'Password', 'three settle pulls');
  await press(driver, 'Join the shop');
  await driver.wait(until.elementLocated(By.css('header.bar')), PATIENCE, 'never came in');
}

async function shownOnce(): Promise<string> {
  const link = await driver.wait(
    until.elementLocated(By.css('input[aria-label="One-time link"]')),
    PATIENCE,
    'no link',
  );
  return link.getAttribute('value') as Promise<string>;
}

const offered = async (words: string) =>
  (await driver.findElements(By.xpath(`//*[self::button or self::a][normalize-space(.)='${words}']`))).length;

describe('a shop with people', () => {
  test('the owner invites a viewer and a technician by link', async () => {
    await driver.get(base);
    await fill(driver, 'E-mail', OWNER.email);
    await fill(driver, 'Password', OWNER.password);
    await press(driver, 'Sign in');
    await press(driver, 'People', 'a');
    await see(driver, 'Invite somebody');
    await expectAccessible(driver);
    const links: Record<string, string> = {};
    for (const [email, role] of [
      ['vera@quillmoor.example', 'Viewer'],
      ['tom@quillmoor.example', 'Technician'],
    ] as const) {
      await fill(driver, 'E-mail', email);
      await fill(driver, 'Role', role);
      await press(driver, 'Make a link');
      links[role] = await shownOnce();
      await press(driver, 'I have it');
      await see(driver, email);
    }
    await leaveAs('owner');
    await joinBy(links.Viewer!, 'Vera L.');
    await leaveAs('viewer');
    await joinBy(links.Technician!, 'Tom K.');
    await leaveAs('technician');
    // A link is used up.
    await driver.get(links.Viewer!);
    await see(driver, 'This link does not open anything');
  });

  test('a viewer sees the work and is offered no change', async () => {
    await as('viewer', '/jobs');
    await see(driver, 'Does the intake help?');
    expect([await offered('New job'), await offered('Import a job package'), await offered('People')]).toEqual([
      0, 0, 0,
    ]);
    await driver.get(`${base}/jobs/${job}`);
    await see(driver, 'The question');
    for (const words of ['Edit', 'Import pulls', 'Import', 'Arm a limit', 'Put it on Bay 1'])
      expect([words, await shownCount(words)]).toEqual([words, 0]);
    await expectAccessible(driver);
    await driver.get(`${base}/bays`);
    await see(driver, 'Bay 1');
    expect([await offered('New bay'), await offered('Edit'), await offered('Delete')]).toEqual([0, 0, 0]);
    await driver.get(`${base}/records/customer`);
    await see(driver, 'Customers');
    expect(await offered('New customer')).toBe(0);
    const bays = await driver.executeAsyncScript<{ id: string }[]>(
      "const done = arguments[0]; fetch('/api/bays').then((r) => r.json()).then(done)",
    );
    await driver.get(`${base}/bays/${bays[0]!.id}`);
    await see(driver, 'You may watch what happens here.');
    // Who types the address of what is not theirs is told so.
    await driver.get(`${base}/people`);
    await see(driver, 'This is for the owner of the shop.');
  });

  test('a technician works, and neither invites people nor deletes bays', async () => {
    await as('technician', '/jobs');
    await see(driver, 'New job', 'a');
    expect(await offered('People')).toBe(0);
    // The list is ordered by a column and narrowed by a word and a day; a reload finds it so.
    await press(driver, 'Car');
    await driver.wait(until.urlContains('sort=vehicle'), PATIENCE);
    await (await driver.findElement(By.css('input[aria-label="Find a job in this list"]'))).sendKeys('vir');
    await driver.wait(until.urlContains('q=vir'), PATIENCE);
    await driver.navigate().refresh();
    await see(driver, '1 job');
    await driver.wait(until.elementLocated(By.css('[data-column=vehicle][aria-sort=ascending]')), PATIENCE, 'no order');
    await driver.get(`${base}/jobs?from=2020-01-01&until=2020-12-31`);
    await see(driver, 'No job matches.');
    await driver.get(`${base}/jobs/${job}`);
    await press(driver, 'Edit');
    await see(driver, 'Would matter, %');
    await driver.get(`${base}/bays`);
    await see(driver, 'Edit', 'button');
    expect(await offered('Delete')).toBe(0);
  });

  test('another role ends the sessions; who is removed does not come back', async () => {
    await as('owner', '/people');
    await see(driver, 'Vera L.');
    await press(driver, 'Viewer');
    await (
      await driver.wait(
        until.elementLocated(By.xpath("//*[@role='menuitemradio'][contains(., 'Technician')]")),
        PATIENCE,
      )
    ).click();
    const sessionOf = (who: string) =>
      fetch(`${base}/api/session`, {
        headers: { cookie: `prandel_session=${cookies[who]!}`, connection: 'close' },
      });
    await driver.wait(async () => (await sessionOf('viewer')).status === 401, PATIENCE, 'the session goes on');
    const row = await driver.findElement(By.css('[data-person="tom@quillmoor.example"]'));
    await row.findElement(By.css('[aria-label="Remove Tom K."]')).click();
    await see(driver, 'Their sessions end at once');
    await row.findElement(By.xpath(".//button[normalize-space(.)='Remove']")).click();
    await driver.wait(async () => (await sessionOf('technician')).status === 401, PATIENCE, 'the session goes on');
    await as('technician', '/jobs');
    await see(driver, 'Sign in');
  });
});

describe('a second shop', () => {
  test('comes in by the operator’s link and sees nothing of the first', async () => {
    const secret = execFileSync(
      process.execPath,
      [new URL('../server/dist/shopCommand.js', import.meta.url).pathname, 'add', 'Harrow Works', 'odd@harrow.example'],
      { env: { ...process.env, NODE_OPTIONS: '', DATABASE_URL: database } },
    );
    await joinBy(`${base}/join#${secret.toString().trim()}`, 'Odd H.');
    await see(driver, 'Harrow Works · Odd H.');
    await driver.get(`${base}/jobs`);
    await see(driver, 'No jobs yet.');
    await driver.get(`${base}/jobs/${job}`);
    await see(driver, 'This shop has no such job.');
    await driver.get(`${base}/people`);
    await see(driver, 'odd@harrow.example');
    expect(await driver.findElement(By.css('body')).getText()).not.toContain('quillmoor');
  });
});

/** Buttons and links of these words that can be seen. */
async function shownCount(words: string): Promise<number> {
  const found = await driver.findElements(By.xpath(`//*[self::button or self::a][normalize-space(.)='${words}']`));
  const shown = await Promise.all(found.map((element) => element.isDisplayed()));
  return shown.filter(Boolean).length;
}
