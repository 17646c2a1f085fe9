import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { nmeaSentence, writePackage, zip } from '@prandel/formats';
import {
  DEMO_DAYS,
  driveRoadDay,
  DUCT_ON_THE_ROAD,
  loggerCsv,
  loggerRecord,
  rmcBodies,
  simulateDay,
  speedCsv,
  withoutLogger,
} from '@prandel/simulator';
import { By, until } from 'selenium-webdriver';
import { expectAccessible, fill, PATIENCE, press, see, text } from './browser.ts';
import { base, choose, closeDesk, driver, folder, openDesk, settled, setUpShop } from './desk.ts';

// What is laid beside the pulls of a day: a logger's record of the afternoon, gauges read by hand, passes on the road.
const spec = DEMO_DAYS.find((d) => d.id === 'QG-0919-1')!;
const whole = withoutLogger(
  simulateDay({
    ...spec,
    rounds: ['A', 'B'].map((setup, i) => ({ setup, settle: 1, counted: 3, startMinute: 70 * i, minutesPerPull: 4 })),
  }),
);
const day = {
  ...whole,
  question: {
    ...whole.question,
    partChangesIntakeTemperature: false,
    measures: [
      { id: 'windowMeanPower', meaningful: 1 },
      { id: 'peak', channel: 'exhaust_c', meaningful: 10 },
      { id: 'roadTime', fromKmH: 80, toKmH: 120, meaningful: 1 },
    ] as const,
  },
};
const record = loggerRecord(day, { seed: 5, offsetS: 4211.6, ppm: 300, hz: 10, around: 10 });
const road = driveRoadDay(DUCT_ON_THE_ROAD);

let job = '';

beforeAll(async () => {
  await openDesk('BESIDE');
  writeFileSync(join(folder, 'day.zip'), await zip(writePackage(day)));
  writeFileSync(join(folder, 'afternoon.csv'), loggerCsv(record));
  writeFileSync(
    join(folder, 'other-day.csv'),
    loggerCsv({ ...record, rpm: record.rpm.map((_, i) => 1500 + 600 * Math.sin(i / 7)) }),
  );
  writeFileSync(join(folder, 'road.csv'), speedCsv(road.log));
  const sentences = rmcBodies(road.log, DUCT_ON_THE_ROAD.startAt).map(nmeaSentence);
  sentences[400] = `${sentences[400]!.slice(0, -2)}00`;
  writeFileSync(join(folder, 'road.nmea'), sentences.join('\r\n'));
}, 120_000);
afterAll(closeDesk);

const open = (path: string) => driver.get(`${job}${path}`);
const look = async (measure: string) => {
  await open('/compare');
  await settled();
  await (await see(driver, measure, 'button')).click();
  return text(driver, 'section[aria-label=Verdict]');
};

describe('a logger’s record of the afternoon', () => {
  test('without it nothing reads the exhaust gas', async () => {
    await driver.get(base);
    await setUpShop();
    await see(driver, 'No job today.');
    await driver.get(`${base}/jobs`);
    await choose('Job package file', join(folder, 'day.zip'));
    await driver.wait(until.urlMatches(/jobs\/[0-9a-f-]{36}$/), PATIENCE);
    job = await driver.getCurrentUrl();
    expect(await look('Exhaust gas')).toContain('not enough pulls that read the exhaust gas');
  });

  test('it is laid beside all eight pulls, with its clock told, and its channels are judged', async () => {
    await open('/import');
    await press(driver, 'A logger’s record');
    await choose('File of a logger', join(folder, 'afternoon.csv'));
    expect(await text(driver, '[data-testid=laid]')).toContain('Laid by engine speed on 8 pulls: A·1, A·2');
    await see(driver, '4211.');
    await see(driver, 'ppm faster');
    expect(await driver.findElements(By.css('[data-testid=overlay] svg'))).toHaveLength(8);
    await expectAccessible(driver);
    await press(driver, 'Add its channels to 8 pulls');
    await see(driver, 'Added exhaust gas, gearbox oil to 8 pulls.');
    expect(await look('Exhaust gas')).toMatch(/3 and 3 counted pulls/);
    await see(driver, 'Gearbox oil', 'button');
  });

  test('it comes off again, and its file stays', async () => {
    await open('');
    await press(driver, 'Take it off');
    await press(driver, 'Take it off');
    await see(driver, 'its file is kept');
    await driver.wait(
      async () => (await driver.findElements(By.css('section[aria-label=Loggers]'))).length === 0,
      PATIENCE,
    );
    expect(await look('Exhaust gas')).toContain('not enough pulls');
  });

  test('a record of another day is refused with its reason, and a person may place it', async () => {
    await open('/import');
    await press(driver, 'A logger’s record');
    await choose('File of a logger', join(folder, 'other-day.csv'));
    await see(driver, 'Is it of another day, or of another car?');
    const button = await see(driver, 'Add its channels', 'button');
    expect(await button.isEnabled()).toBe(false);
    await fill(driver, 'begins at second', '4211.6\n');
    await driver.executeScript('document.activeElement.blur()');
    await see(driver, 'Placed by hand on 8 pulls');
    await press(driver, 'Add its channels to 8 pulls');
    await see(driver, 'Added exhaust gas');
  });
});

test('gauges are typed like a sheet, pasted from one, and marked as read by hand', async () => {
  await open('');
  const button = await driver.wait(until.elementLocated(By.css('button[aria-label="Gauges of setup A"]')), PATIENCE);
  await driver.executeScript('arguments[0].scrollIntoView({ block: "center" })', button);
  await button.click();
  const cell = (column: string, pull: string) =>
    driver.wait(until.elementLocated(By.css(`input[aria-label="${column}, ${pull}"]`)), PATIENCE);
  const add = await driver.wait(until.elementLocated(By.css('button[aria-label="Add the gauge"]')), PATIENCE);
  await add.click();
  const first = await cell('oil, highest', 'A·1');
  await driver.executeScript(
    'const d = new DataTransfer(); d.setData("text", "98\\t4.4\\n101,5\\t4.2\\n103\\t4.1"); arguments[0].dispatchEvent(new ClipboardEvent("paste", { clipboardData: d, bubbles: true, cancelable: true }))',
    first,
  );
  expect(await (await cell('oil, highest', 'A·2')).getAttribute('value')).toBe('101,5');
  expect(await (await cell('oil pressure, highest', 'A·3')).getAttribute('value')).toBe('4.1');
  await (await cell('oil, highest', 'A·4')).sendKeys('3000');
  await see(driver, 'outside -60–400 °C');
  const wrong = await cell('oil, highest', 'A·4');
  await wrong.clear();
  await wrong.sendKeys('104');
  await press(driver, 'Keep the readings');
  await driver.wait(async () => (await driver.findElements(By.css('[role=dialog]'))).length === 0, PATIENCE);
  await open('/compare');
  await settled();
  await (await see(driver, 'Oil', 'button')).click();
  const heat = await text(driver, 'section[aria-label="Heat, pull by pull"]');
  expect(heat).toContain('by hand');
  expect(heat).toContain('101.5');
});

describe('a road check', () => {
  const passes = async () => (await driver.findElements(By.css('section[aria-label=Passes] tbody tr'))).length;

  test('says first where it is allowed, then takes passes as they are typed', async () => {
    await open('/road');
    await see(driver, 'Never on a public road.');
    expect(await driver.findElements(By.css('form[aria-label="Type a pass"]'))).toHaveLength(0);
    await press(driver, 'The course is closed');
    const add = async (setup: string, direction: string, seconds: string) => {
      const before = await passes();
      await driver.findElement(By.css(`[aria-label="Setup of the pass"] [aria-label="Setup ${setup}"]`)).click();
      await driver.findElement(By.xpath(`//*[@aria-label='Direction of the pass']/button[.='${direction}']`)).click();
      await fill(driver, 'Seconds', `${seconds}\n`);
      await driver.wait(async () => (await passes()) === before + 1, PATIENCE, 'the pass did not come in');
    };
    for (const [setup, out, back] of [
      ['A', '6.42', '6.85'],
      ['A', '6.45', '6.88'],
      ['B', '6.10', '6.51'],
      ['B', '6.13', '6.48'],
    ] as const) {
      await add(setup, 'out', out);
      await add(setup, 'back', back);
    }
    await fill(driver, 'Seconds', '600');
    await see(driver, 'Type seconds from 0.3 to 120.');
    await see(driver, 'Verified quicker');
    await see(driver, 'Type mass, gearing and tyre of the car');
    await expectAccessible(driver);
  });

  test('the rollers’ forecast stands beside it once the car is known', async () => {
    await fill(driver, 'Mass as driven, kg', '1200');
    await fill(driver, 'Gear × final drive', '4.6');
    await fill(driver, 'Rolling radius, m', '0.3');
    await press(driver, 'Keep the car');
    await see(driver, 'Drag fitted to the baseline’s passes');
    expect(await text(driver, '[data-testid=road-agreement]')).toMatch(/Road and rollers|Whether road and rollers/);
    expect(await driver.findElements(By.css('[data-testid=road-picture] circle'))).toHaveLength(8 + 2);
  });

  test('passes are found in the log of a receiver and in a CSV, and a pass that is removed comes back', async () => {
    const before = await passes();
    await choose('File of a speed log', join(folder, 'road.nmea'));
    await see(driver, '1 broken sentences were left out, the first in line 401.');
    await driver
      .findElement(
        By.xpath("(//select[contains(@aria-label, 'Setup of the pass at 30')])[1]/option[starts-with(., 'B')]"),
      )
      .click();
    await press(driver, 'Keep 16 passes');
    await driver.wait(async () => (await passes()) === before + 16, PATIENCE);
    const remove = await driver.findElement(By.css('button[aria-label="Remove pass 1"]'));
    await driver.executeScript('arguments[0].scrollIntoView({ block: "center" })', remove);
    await remove.click();
    await driver.wait(async () => (await passes()) === before + 15, PATIENCE);
    await press(driver, 'Undo');
    await driver.wait(async () => (await passes()) === before + 16, PATIENCE);
    await choose('File of a speed log', join(folder, 'road.csv'));
    await see(driver, 'Name the direction of every pass first.');
    await press(driver, 'Leave them');
    await choose('File of a speed log', join(folder, 'broken.csv'));
    await see(driver, 'No column is road speed, or none is time.');
  });

  test('the report tells the road in its own words', async () => {
    await driver.get(`${job.replace('/jobs/', '/api/jobs/')}/report.html`);
    const page = await driver.findElement(By.css('body')).getText();
    expect(page).toContain('On the road');
    expect(page).toMatch(/The run from 80 to 120 km\/h on the road is between [\d.]+ and [\d.]+ % quicker than before/);
  });
});
