import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  DEMO_DAYS,
  foreignFile,
  foreignPull,
  PLAIN_SHAPE,
  simulateDay,
  type DaySpec,
  type Shape,
} from '@prandel/simulator';
import { By, Key, until } from 'selenium-webdriver';
import { expectAccessible, fill, PATIENCE, press, see, text } from './browser.ts';
import { base, closeDesk, driver, folder, openDesk, setUpShop } from './desk.ts';

// Which part, and is it worth it: five parts planned and run from files, two crossed, and a step that nobody planned, added in the bay.
const demo = DEMO_DAYS.find((d) => d.id === 'QG-0916-1')!;
const shape: Shape = { ...PLAIN_SHAPE, language: 'de', corrected: true, clock: 'elapsed' };

const turning = (n: number) => -3 + 8 / (1 + Math.exp(-(n - 4300) / 350));
/** A day in which the rounds follow each other as they were planned. */
const dayOf = (order: string, effects: DaySpec['effects'], seed: number) =>
  simulateDay({
    ...demo,
    ...{ seed, effects, mishaps: [], pullSd: 0.15, date: '2026-09-16T07:30:00Z' },
    rounds: order.split(' ').map((setup, i) => ({
      ...{ setup, settle: 2, counted: i > 0 && /^A\d/.test(setup) && i === order.split(' ').length - 1 ? 2 : 3 },
      ...{ startMinute: 62 * i, minutesPerPull: 5 },
    })),
  });

beforeAll(() => openDesk('SHOOTOUT'), 120_000);
afterAll(closeDesk);

async function drop(job: ReturnType<typeof simulateDay>, name: string): Promise<void> {
  const sent = job.pulls.map((pull, k) => [
    `${name}_${k}.csv`,
    Buffer.from(foreignFile([foreignPull(job, pull, 120)], shape)).toString('base64'),
  ]);
  await driver.executeScript(
    `const data = new DataTransfer();
     for (const [name, content] of arguments[0])
       data.items.add(new File([Uint8Array.from(atob(content), (c) => c.charCodeAt(0))], name));
     const target = document.querySelector('main h1');
     for (const type of ['dragover', 'drop'])
       target.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));`,
    sent,
  );
  await press(driver, `Import ${job.pulls.length} pulls`);
  await driver.wait(until.urlContains('/compare'), PATIENCE);
}
/** The address of the job that is open. */
const jobUrl = async () => /^.*\/jobs\/[0-9a-f-]{36}/.exec(await driver.getCurrentUrl())![0];
const cell = (label: string) => driver.wait(until.elementLocated(By.css(`input[aria-label="${label}"]`)), PATIENCE);
const typeInto = async (label: string, value: string) =>
  (await cell(label)).sendKeys(Key.chord(Key.CONTROL, 'a'), value);
const choose = async (label: string, words: string) => {
  await (await driver.wait(until.elementLocated(By.css(`button[aria-label^="${label}:"]`)), PATIENCE)).click();
  await (
    await driver.wait(until.elementLocated(By.xpath(`//*[@role='menuitemradio'][contains(., '${words}')]`)), PATIENCE)
  ).click();
};
const order = async () => {
  await driver.wait(until.elementLocated(By.css('tr[data-setup]')), PATIENCE);
  const rows = await driver.findElements(By.css('tr[data-setup]:not([data-place=""])'));
  return (await Promise.all(rows.map((r) => r.getAttribute('data-setup')))).join('');
};
const waitFor = (what: () => Promise<boolean> | boolean, words: string) => driver.wait(what, PATIENCE, words);

async function openJob(question: string, change: string): Promise<string> {
  await driver.get(`${base}/jobs/new`);
  await fill(driver, 'What is to be decided, in words', question);
  await fill(driver, 'With the change', change);
  await fill(driver, 'Vehicle', 'Pellow Strand 2.5 estate');
  await fill(driver, 'Window from, rpm', '3000');
  await fill(driver, 'Window to, rpm', '5800');
  await press(driver, 'Open the job and plan the day');
  await see(driver, 'Save the plan');
  return jobUrl();
}
async function addSetup(name: string, parts: string, hours: string): Promise<void> {
  await press(driver, 'Add a setup');
  await fill(driver, 'Its name', name);
  await driver.findElement(By.css('input[aria-label="Change 1 of the new setup"]')).sendKeys(name);
  await driver
    .findElement(By.xpath("//label[.//span[starts-with(normalize-space(.), 'Parts')]]//input"))
    .sendKeys(parts);
  await fill(driver, 'Fitting hours', hours);
  await press(driver, 'Add it');
  await see(driver, name, 'span');
  await waitFor(
    async () => (await driver.findElements(By.css('section[aria-label="Add a setup"]'))).length === 0,
    'the form stays',
  );
}
async function savePlan(url: string, shapeOfDay: string): Promise<void> {
  await driver.get(`${url}/plan`);
  await (await driver.wait(until.elementLocated(By.css(`[data-shape=${shapeOfDay}] input`)), PATIENCE)).click();
  await press(driver, 'Save the plan');
  await see(driver, 'The plan is saved.');
}

/** Says on "Setups and pulls" what was changed for a setup. */
async function writeChange(setup: string, words: string): Promise<void> {
  const card = "//section[@aria-label='State of the setups']";
  await (await driver.wait(until.elementLocated(By.xpath(`${card}//button[.='Edit']`)), PATIENCE)).click();
  const field = By.css(`input[aria-label="Change 1 of ${setup}"]`);
  await (await driver.wait(until.elementLocated(field), PATIENCE)).sendKeys(words);
  await driver.findElement(By.xpath(`${card}//button[.='Save']`)).click();
  await waitFor(async () => (await driver.findElements(field)).length === 0, 'not saved');
}

describe('a shootout of five parts', () => {
  let url = '';

  test('parts are added with what they cost; the plan is moved about and says what each order finds', async () => {
    await driver.get(base);
    await setUpShop();
    await see(driver, 'New job');
    url = await openJob('Which of five parts frees the most power?', 'small crank pulley');
    await driver.get(`${url}/which/costs`);
    await typeInto('Parts of B', '200');
    await typeInto('Hours of B', 'half');
    await see(driver, 'Hours of B: type a number');
    await typeInto('Hours of B', '0,5');
    await press(driver, 'Save');
    for (const name of ['fan coupling', 'open-vane pump', 'alternator duct', 'long spacer'])
      await addSetup(name, '60', '0.5');
    await expectAccessible(driver);
    await driver.get(`${url}/plan`);
    await see(driver, 'Baseline after every second part');
    await (await driver.findElement(By.css('[data-shape=return] input'))).click();
    const before = await text(driver, '[data-testid=buys]');
    const rounds = async () =>
      (
        await Promise.all((await driver.findElements(By.css('[data-round]'))).map((r) => r.getAttribute('data-round')))
      ).join(' ');
    expect(await rounds()).toBe('A B C D E F A2');
    await press(driver, 'Add a round');
    await waitFor(async () => (await rounds()) === 'A B C D E F A2 A3', 'no further round');
    for (const place of [7, 6, 5]) {
      const all = await driver.findElements(By.css('[data-round]'));
      await all[place]!.findElement(By.css('button[aria-label^="Earlier"]')).click();
    }
    expect(await rounds()).toBe('A B C D A2 E F A3');
    await waitFor(
      async () => (await text(driver, '[data-testid=buys]')).includes('instead of'),
      'nothing is said of the move',
    );
    expect(before).toMatch(/^finds \d/);
    expect(await text(driver, '[data-testid=buys]')).toMatch(/finds \d+\.\d % instead of \d+\.\d % for \d+ min more/);
    // Dragged: the second round behind the third.
    const [, second, third] = await driver.findElements(By.css('[data-round]'));
    await driver.executeScript('arguments[0].scrollIntoView({ block: "center" })', second);
    const grip = await second!.findElement(By.css('[aria-label^="Drag"]'));
    await driver
      .actions()
      .move({ origin: grip })
      .press()
      .move({ origin: grip, x: 14, y: 2, duration: 200 })
      .move({ origin: third!, duration: 300 })
      .release()
      .perform();
    await waitFor(async () => (await rounds()).startsWith('A C B'), 'nothing was dragged');
    await expectAccessible(driver);
    await savePlan(url, 'second');
    expect(await rounds()).toBe('A B C A2 D E A3 F A4');
  });

  test('run from files as planned, ranked: ties are ties, what is open stands below the line', async () => {
    await driver.get(url);
    await see(driver, 'No pulls yet.');
    const effects = { B: () => 3.4, C: () => 3.3, D: () => 1.8, E: () => 0.1, F: turning };
    await drop(dayOf('A B C A2 D E A3 F A4', effects, 77), 'five');
    await driver.get(`${url}/which`);
    expect((await order()).slice(0, 2).split('').sort().join('')).toBe('BC');
    const page = await text(driver, 'main');
    expect(page).toContain('B or C: this day cannot tell which of them gains most.');
    expect(page).toMatch(/1 to 2/);
    expect(page).toContain('Not ranked');
    expect(await order()).not.toContain('E');
    expect(page).toContain('the shop’s labour rate is missing');
    await expectAccessible(driver);
  });

  test('rate, hours and budget: the order by money moves, the verdicts stay', async () => {
    const verdicts = async () =>
      (await Promise.all((await driver.findElements(By.css('tr[data-setup] td:nth-child(3)'))).map((c) => c.getText())))
        .map((words) => words.split('\n')[0])
        .sort()
        .join();
    const before = await verdicts();
    await typeInto('Labour rate an hour', '78');
    await typeInto('Currency of the shop', 'EUR');
    await press(driver, 'Keep for the shop');
    await see(driver, 'at the estimate');
    await driver.get(`${url}/which/costs`);
    await typeInto('Hours of C', '4');
    await typeInto('Noise of C', 'quieter');
    await typeInto('Difficulty of C', '7');
    await see(driver, 'Difficulty of C: a number from 1 to 5.');
    await typeInto('Difficulty of C', '2');
    await press(driver, 'Save');
    await waitFor(async () => (await (await cell('Hours of C')).getAttribute('value')) === '4', 'not kept');
    await driver.get(`${url}/which`);
    await choose('Order of the ranking', 'cost per sure kW');
    await waitFor(async () => (await order()).indexOf('B') < (await order()).indexOf('C'), 'dear hours do not matter');
    await typeInto('Labour rate an hour', '5');
    await waitFor(async () => (await order()).indexOf('C') < (await order()).indexOf('B'), 'cheap hours do not matter');
    expect(await verdicts()).toBe(before);
    await typeInto('Budget', '90');
    await see(driver, 'The best sure gain for that: C');
    await typeInto('Budget', '10');
    await see(driver, 'No verified part fits that budget.');
    expect(await text(driver, '[data-testid=chances]')).toMatch(/C 100 %|C 9\d %/);
    expect(await text(driver, 'main')).toContain('noise: quieter; difficulty: 2 of 5');
  });

  test('the use of the car turns the order round; gears say where to shift', async () => {
    await driver.get(`${url}/which/use`);
    await driver.wait(until.elementLocated(By.css('[data-testid=profiles] li')), PATIENCE);
    const lists = await driver.findElements(By.css('[data-testid=profiles] > div'));
    const first = async (name: string) => {
      for (const list of lists)
        if ((await list.getText()).startsWith(name)) return (await list.findElement(By.css('li .badge'))).getText();
      return '';
    };
    expect(await first('Circuit')).toBe('F');
    expect(await first('Street')).not.toBe('F');
    await typeInto('Share from 2000 rpm', '50');
    await see(driver, 'add up to 130 %');
    await press(driver, 'Circuit');
    await press(driver, 'Save the use');
    await fill(driver, 'Ratios, first gear first', '3.2 1.55 2.1');
    await fill(driver, 'Final drive', '3.46');
    await fill(driver, 'Tyre, around, m', '1.96');
    await fill(driver, 'Limiter or shift, rpm', '6000');
    await see(driver, 'Gear 3 (2.1) is shorter than gear 2 (1.55)');
    await fill(driver, 'Ratios, first gear first', '3.2 2.1 1.55 1.3');
    await press(driver, 'Save the gears');
    await see(driver, 'Between shifts in gear');
    await driver.wait(until.elementLocated(By.css('[data-testid=also-seen] li b')), PATIENCE);
    await driver.wait(
      async () => /limiter|into \d{4}/.test(await text(driver, 'section[aria-label="Gears"]')),
      PATIENCE,
      'the shifts between gears',
    );
    await expectAccessible(driver);
    await driver.get(`${url}/which`);
    await choose('Order of the ranking', 'the use of the car');
    await waitFor(async () => (await order()).startsWith('F'), 'the use does not matter');
  });

  test('every pair, curve facts, a curve of another job beneath, and what is taken along', async () => {
    await driver.get(`${url}/which/pairs`);
    await see(driver, 'the row less the column');
    await press(driver, 'CSV');
    await waitFor(() => {
      const name = readdirSync(folder).find((n) => n.endsWith('pairs.csv'));
      return name !== undefined && readFileSync(join(folder, name), 'utf8').split('\r\n').length > 25;
    }, 'no table of pairs');
    await expectAccessible(driver);
    await driver.get(`${url}/which/curves`);
    await see(driver, 'What the mean curves are like');
    await see(driver, 'turns at');
    await fill(driver, 'rpm, up to twelve', '3000 4500');
    await press(driver, 'Keep and print them');
    await waitFor(
      async () => (await text(driver, 'section[aria-label="Values at chosen engine speeds"]')).includes('4500 rpm'),
      'no values',
    );
    await expectAccessible(driver);
    await driver.get(`${url.replace('/jobs/', '/api/jobs/')}/report.html`);
    const report = await text(driver, 'body');
    expect(report).toContain('What this says');
    expect(report).toContain('Gain against all-in cost');
    expect(report).toContain('Conditions of every setup');
    expect(report).toContain('Values at chosen engine speeds');
  });
});

describe('two parts crossed', () => {
  test('the setup with both is made by the form; what was run says whether they add up', async () => {
    const url = await openJob('Do the duct and the pulley add up?', 'alternator duct');
    // What was changed is said once, so that the setup with both is known for it.
    await driver.get(`${url}/which/costs`);
    await addSetup('clutched pulley', '118', '0.5');
    await driver.get(`${url}/which/crossed`);
    await see(driver, 'Two setups with changes of their own are needed first.');
    await driver.get(url);
    await writeChange('B', 'alternator duct');
    await driver.get(`${url}/which/crossed`);
    await press(driver, 'Add “alternator duct + clutched pulley”');
    await see(driver, 'Setup D is added');
    await savePlan(url, 'return');
    await driver.get(url);
    await see(driver, 'No pulls yet.');
    await drop(dayOf('A B C D A2', { B: () => 2.4, C: () => 3.2, D: () => 3.3 }, 12), 'crossed');
    await driver.get(`${url}/which/crossed`);
    expect(await text(driver, '[data-testid=interaction]')).toMatch(
      /^Together they bring less than the sum: \d\.\d % less/,
    );
    await expectAccessible(driver);
  });
});

describe('a build in steps', () => {
  test('a step that nobody planned is added in the bay with one tap; words follow at the desk', async () => {
    const job = dayOf('A B C', { B: () => 2.5, C: () => 5 }, 5);
    await driver.get(`${base}/bays`);
    await press(driver, 'New bay');
    await fill(driver, 'Name of the bay', 'Bay 3');
    await press(driver, 'Save the bay');
    await see(driver, 'No folder is watched.');
    const url = await openJob('What does each step bring?', 'electric pump');
    await savePlan(url, 'plain');
    await driver.get(url);
    await press(driver, 'Put it on Bay 3', 'a');
    await press(driver, 'What does each step bring?');
    const bay = /\/bays\/([0-9a-f-]{36})/.exec(await driver.getCurrentUrl())![1]!;
    /** Brings a file as the rollers' computer does. */
    const bring = (k: number) =>
      driver.executeAsyncScript<string>(
        `const [bay, name, content, done] = arguments;
         const form = new FormData();
         form.append('file', new File([Uint8Array.from(atob(content), (c) => c.charCodeAt(0))], name));
         fetch('/api/bays/' + bay + '/files', { method: 'POST', body: form }).then((r) => r.json()).then((a) => done(a.outcome));`,
        bay,
        `step_${k}.csv`,
        Buffer.from(foreignFile([foreignPull(job, job.pulls[k]!, 120)], shape)).toString('base64'),
      );
    await press(driver, 'Start the round of A');
    await waitFor(async () => !(await text(driver, 'body')).includes('Start the round of A'), 'no round');
    expect(await bring(0)).toBe('tray');
    await driver.get(`${base}/bays`);
    await press(driver, 'Look at it', 'a');
    await press(driver, 'Bring it in, and its kind by itself from now on');
    await driver.wait(until.urlContains('/bays/'), PATIENCE);
    const rounds = ['A', 'B', 'C'].map((id) => job.pulls.flatMap((p, k) => (p.setupId === id && k > 0 ? [k] : [])));
    const run = async (ks: readonly number[]) => {
      for (const k of ks) expect(await bring(k)).toBe('pull');
      await press(driver, 'It counts');
    };
    await run(rounds[0]!);
    await press(driver, 'Start fitting B');
    await press(driver, 'Stop the fitting clock: B is on');
    await press(driver, 'Start the round of B');
    await driver.sleep(500);
    await run(rounds[1]!);
    await press(driver, 'Fit something new');
    await press(driver, 'Something new, on top of B');
    await press(driver, 'Stop the fitting clock: C is on');
    await press(driver, 'Start the round of C');
    await driver.sleep(500);
    await run(rounds[2]!);
    await driver.get(`${url}/which/steps`);
    await see(driver, 'Added on the day');
    const steps = await Promise.all((await driver.findElements(By.css('tr[data-step]'))).map((r) => r.getText()));
    expect(steps).toHaveLength(2);
    expect(steps[1]).toMatch(/on top of B/);
    expect(steps.join('\n')).toMatch(/\+2\.\d %/);
    await driver.get(url);
    await writeChange('C', 'light pulleys');
    await driver.get(`${url}/which/steps`);
    await see(driver, 'light pulleys');
    await expectAccessible(driver);
  }, 120_000);
});
