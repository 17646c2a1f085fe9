import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { channelValues } from '@prandel/core';
import { brokenRow } from '@prandel/formats';
import { DEMO_SHOP } from '@prandel/simulator';
import { By, Key, until } from 'selenium-webdriver';
import {
  ask,
  askOfOil,
  at,
  base,
  bench,
  closeDay,
  driver,
  expectOilTold,
  exported,
  fit,
  killServer,
  openDay,
  overriddenDay,
  pause,
  pull,
  PHOTO,
  PULL_SPEED,
  REST_SPEED,
  seeState,
  sheet,
  startAgain,
  truth,
} from './benchDay.ts';
import { expectAccessible, fill, press, resize, see, text, PATIENCE } from './browser.ts';

beforeAll(openDay, 120_000);
afterAll(closeDay);

let failed = false;
/** A step of the day; once one has failed, those that build on it are not even tried. */
function step(name: string, work: () => Promise<void>): void {
  test(
    name,
    async () => {
      if (failed) throw new Error('An earlier step of the day failed.');
      failed = true;
      await work();
      failed = false;
    },
    150_000,
  );
}

describe('a day in the bay, from the question to the return check', () => {
  step('Today shows what waits; the day is planned', async () => {
    await driver.get(base);
    await fill(driver, 'E-mail', DEMO_SHOP.email);
    await fill(driver, 'Password', DEMO_SHOP.password);
    await press(driver, 'Sign in');
    await see(driver, 'Needs you next');
    await see(driver, 'The bay is free');
    await driver.wait(async () => /1003\.\d/.test(await text(driver, 'section[aria-label="Air of Bay 2"]')), PATIENCE);
    await expectAccessible(driver);
    await see(driver, 'Does the electric steering pump free power at the wheels?');
    await press(driver, 'Plan it', 'a');
    await see(driver, 'With a return check');
    at.job = /jobs\/([0-9a-f-]{36})/.exec(await driver.getCurrentUrl())![1]!;
    await expectAccessible(driver);
    await fill(driver, 'Minutes of fitting', '45');
    await fill(driver, 'Forecast, coldest °C', '12');
    await fill(driver, 'Forecast, warmest °C', '27');
    await see(driver, 'The honest plan is another day.');
    await fill(driver, 'Forecast, warmest °C', '15');
    await press(driver, 'Save the plan');
    await ask('/session', { email: DEMO_SHOP.email, password: DEMO_SHOP.password });
    await driver.wait(
      async () =>
        (await ask<{ job: { day: { plan: { forecastC: number[] } } } }>(`/jobs/${at.job}`)).job.day.plan
          .forecastC?.[1] === 15,
      PATIENCE,
    );
    at.bay = (await ask<{ id: string; label: string }[]>('/bays')).find((b) => b.label === 'Bay 2')!.id;
  });

  step('the question is asked of a temperature too, before anything was pulled', async () => {
    await driver.get(`${base}/jobs/${at.job}`);
    await see(driver, 'Compared');
    await askOfOil();
    await press(driver, 'Save');
    await see(driver, 'oil, at its hottest, 4.0 °C would matter');
    await expectAccessible(driver);
  });

  step('the car goes on the rollers, and the baseline is pulled behind the gates', async () => {
    await driver.get(`${base}/bays/${at.bay}`);
    await see(driver, 'Which car is on the rollers?');
    await press(driver, 'Does the electric steering pump', 'button');
    await see(driver, 'Gear 4, safe from 1800 to 7100 rpm');
    await expectAccessible(driver);
    await press(driver, 'Start the round of A');
    await seeState('ready');
    await expectAccessible(driver);
    for (let k = 0; k < 3; k += 1) await pull();
    expect((await sheet()).round).toMatchObject({ countedSoFar: 1, next: { position: 4, status: 'counted' } });
    // Nobody touched anything: the interval gate alone holds the next pull back, with its countdown.
    await bench({ speed: 1 });
    await seeState('cooling');
    expect(await text(driver, '[data-testid=countdown]')).toMatch(/^[012]:\d\d$/);
    expect((await sheet()).verdicts).toEqual([]);
  });

  step('the screen is reloaded in the middle of a pull: nothing is missing', async () => {
    await bench({ speed: REST_SPEED });
    await seeState('ready');
    // Half as fast as life: a page may take its time to come back on a busy machine.
    await bench({ speed: 0.5, pedal: true });
    await seeState('pulling');
    await pause(4000);
    await driver.navigate().refresh();
    await seeState('pulling');
    const kept = () => driver.findElement(By.css('.state-say')).getText();
    await driver.wait(async () => Number(/(\d+) samples/.exec(await kept())?.[1] ?? 0) > 250, PATIENCE);
    await bench({ speed: PULL_SPEED });
    await seeState('review');
    await see(driver, 'Nothing wrong was found with pull 4.');
    await press(driver, 'It counts');
    await pull();
    await see(driver, 'Round 1 of A is complete.');
    await see(driver, 'of 5 cars of this model');
    const { job: now } = await exported();
    for (const p of now.pulls) {
      const time = channelValues(p, 'time_s')!;
      expect(time.length).toBeGreaterThan(600);
      for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
    }
  });

  step('the server is killed in the middle of a pull: every sample that was shown is there again', async () => {
    await fit('B');
    await bench({ speed: REST_SPEED });
    await seeState('ready');
    await bench({ speed: 1, pedal: true });
    await seeState('pulling');
    await pause(2500);
    const said = /(\d+) samples/.exec(await driver.findElement(By.css('.state-say')).getText());
    killServer();
    await see(driver, 'No line to the server.');
    const onScreen = Number(
      /(\d+) samples/.exec(await driver.findElement(By.css('.state-say')).getText())?.[1] ?? said![1],
    );
    expect(onScreen).toBeGreaterThan(100);
    await bench({ pedal: false });
    await startAgain();
    await driver.wait(async () => (await driver.findElements(By.css('.bay-lost'))).length === 0, PATIENCE);
    const { job: now } = await exported();
    const cut = now.pulls.at(-1)!;
    expect(cut).toMatchObject({
      setupId: 'B',
      status: 'set-aside',
      marks: ['The server stopped in the middle of this pull.'],
    });
    expect(channelValues(cut, 'time_s')!.length).toBeGreaterThanOrEqual(onScreen);
  });

  step('the fan is moved away: the gate holds and names it; put back, the round goes on', async () => {
    // Two settle pulls, and the first that counts.
    for (let k = 0; k < 3; k += 1) await pull();
    await bench({ fan: 'off', speed: 20 });
    await seeState('hold', 60_000);
    await see(driver, 'look at the fan');
    await bench({ speed: 3 });
    await expectAccessible(driver);
    await bench({ fan: 'on', speed: 20 });
    await seeState('ready', 60_000);
    await pull();
  });

  step('one pull is started against the gate on purpose, with a reason of one tap, and is marked', async () => {
    // The rollers run out, but the interval is far from over.
    await bench({ speed: 8 });
    await pause(2500);
    await bench({ speed: 1 });
    await seeState('cooling');
    const locked = await driver.findElement(By.css('.bay-btn.locked'));
    await driver.actions().move({ origin: locked }).press().pause(3300).release().perform();
    await press(driver, 'Cause is known');
    await see(driver, 'Gate overridden for the next pull: Cause is known.');
    await bench({ speed: 2, pedal: true });
    await seeState('pulling');
    await bench({ speed: PULL_SPEED });
    await seeState('review');
    await see(driver, 'Gate overridden (Cause is known)', 'li');
    await press(driver, 'It counts');
    const last = (await sheet()).round!.pulls.at(-1)!;
    expect(last).toMatchObject({
      status: 'counted',
      marks: [expect.stringContaining('Too soon after the last pull') as unknown],
    });
  });

  step('a pull is set aside with one key and one tap, after its result was seen, and the list says so', async () => {
    await see(driver, 'Round 1 of B is complete.');
    await (await driver.findElement(By.css('body'))).sendKeys('n');
    await press(driver, 'Straps tightened');
    await driver.wait(async () => (await driver.findElements(By.css('.asking'))).length === 0, PATIENCE);
    await (await driver.findElement(By.css('body'))).sendKeys('a');
    await press(driver, 'Knock heard');
    await driver.wait(async () => (await sheet()).round!.pulls.at(-1)!.status === 'set-aside', PATIENCE);
    expect((await sheet()).round!.pulls.at(-1)!.marks).toContain('set aside after seeing the result');
    expect((await sheet()).planComplete).toBe(false);
    await driver.wait(until.elementLocated(By.css('.round-cell[data-kind=set-aside]')), PATIENCE);
  });

  step('a cable is pulled in the middle of a pull: the screen says so, and the line comes back by itself', async () => {
    await press(driver, 'Another round of B');
    await bench({ speed: REST_SPEED });
    await seeState('ready');
    await bench({ speed: 1, pedal: true });
    await seeState('pulling');
    await pause(2000);
    await bench({ plug: { rollers: false } });
    await seeState('review');
    await see(driver, 'The rollers’ cable was lost in the middle of this pull.', 'li');
    await press(driver, 'Go on');
    await seeState('sensor-lost');
    await see(driver, 'Rollers silent: look at its cable.');
    await bench({ pedal: false, plug: { rollers: true } });
    // Two settle pulls, and the third counted pull of B that is still wanted; then the round is closed for time.
    for (let k = 0; k < 3; k += 1) await pull();
    expect((await sheet()).verdicts).toEqual([]);
    await press(driver, 'Close round early');
    await press(driver, 'Time');
    await seeState('between');
  });

  step('the return check ends the day: the verdict, whose interval holds the truth', async () => {
    await fit('A2');
    for (let k = 0; k < 4; k += 1) await pull();
    const said = await text(driver, '[data-testid=bay-verdict]');
    await expectAccessible(driver);
    const { job: now, judgement, events, files } = await exported();
    const verdict = judgement.verdicts[0]!;
    const real = truth(judgement);
    expect(verdict.gain!.lowPercent).toBeLessThan(real);
    expect(verdict.gain!.highPercent).toBeGreaterThan(real);
    expect(verdict.verdict).toBe('verified-gain');
    expect(said).toMatch(/^B, mean wheel power over the window: Verified gain\n\+\d\.\d ±\d\.\d kW/);
    await expectOilTold(judgement, said);
    expect(verdict.returnCheck).not.toBeNull();
    expect(brokenRow(events)).toBeNull();
    for (const kind of ['pull', 'override', 'set-aside', 'fitting', 'round', 'reading'])
      expect(events.map((row) => row.kind)).toContain(kind);
    expect(now.day!.fittings.map((f) => [f.setup, f.stoppedAt !== null])).toEqual([
      ['B', true],
      ['A2', true],
    ]);
    const [photo] = now.day!.fittings[0]!.photos!;
    expect(Buffer.from(files.get(photo!.path)!)).toEqual(readFileSync(PHOTO));
    await driver.get(`${base}/jobs/${at.job}`);
    await driver.wait(
      () => driver.executeScript('return document.querySelector(\'img[alt="today.png"]\')?.naturalWidth === 1280'),
      PATIENCE,
      'the photo of the fitting is not shown',
    );
    await see(driver, 'the chain of hashes holds');
    await see(driver, 'Gate overridden (Cause is known)');
    // Words follow at the desk: what was a tap is explained, and the chain goes on.
    await press(driver, 'write');
    await (
      await driver.findElement(By.css('input[aria-label^="Words about row"]'))
    ).sendKeys('the shop closes at six', Key.ENTER);
    await see(driver, '): the shop closes at six');
    await expectAccessible(driver);
  });

  step('the time from a sample’s arrival to its paint is measured, and the car leaves the rollers', async () => {
    await driver.get(`${base}/bays/${at.bay}`);
    await press(driver, 'Another round of A2');
    await bench({ speed: REST_SPEED });
    await seeState('ready');
    await bench({ speed: 1, pedal: true });
    await seeState('review');
    const delays = await driver.executeScript<number[]>('return window.prandelPaintDelays');
    expect(delays.length).toBeGreaterThan(80);
    delays.sort((a, b) => a - b);
    console.log(
      `sample to paint: median ${delays[Math.floor(delays.length / 2)]} ms, 95th ${delays[Math.floor(delays.length * 0.95)]} ms`,
    );
    await (await driver.findElement(By.css('body'))).sendKeys(' ');
    await see(driver, 'Close round early');
    await press(driver, 'Close round early');
    await press(driver, 'Time');
    await press(driver, 'Car off the rollers');
    await press(driver, 'Restored, it comes off');
    await see(driver, 'Which car is on the rollers?');
  });

  step('a tablet of the bay opens its run sheet when it is switched on; a desk opens Today', async () => {
    await driver.get(base);
    await see(driver, 'Which car is on the rollers?');
    await (await driver.findElement(By.css('body'))).sendKeys('b');
    await see(driver, 'Needs you next');
    await driver.get(base);
    await see(driver, 'Needs you next');
    await (await driver.findElement(By.css('body'))).sendKeys('?');
    await see(driver, 'Run sheet of the bay; there again: back to the desk');
    await expectAccessible(driver);
    await (await driver.findElement(By.css('body'))).sendKeys(Key.ESCAPE);
  });

  step('bays, records and bench are reachable, accessible, and fit smaller screens', async () => {
    for (const [path, words] of [
      ['/bays', 'Bench of the simulated car'],
      ['/records/method', 'House methods'],
      ['/records/model-card', 'Model cards'],
      ['/jobs/new', 'Claim being tested'],
    ] as const) {
      await driver.get(base + path);
      await see(driver, words);
      await expectAccessible(driver);
    }
    await driver.get(`${base}/records/model-card`);
    await press(driver, 'Tarn Vireo 1.8');
    await fill(driver, 'Gear nearest 1:1', '5');
    await press(driver, 'Save the model card');
    await see(driver, 'Tarn Vireo 1.8');
    await resize(driver, 390, 844);
    for (const path of ['/', '/bays', '/records/part', `/jobs/${at.job}/plan`, `/bays/${at.bay}`]) {
      await driver.get(base + path);
      await driver.wait(until.elementLocated(By.css('h1')), PATIENCE);
      await pause(600);
      await expectAccessible(driver);
    }
    await resize(driver, 1280, 800);
    await (await driver.findElement(By.css('body'))).sendKeys(Key.ESCAPE);
  });
});

describe('a day with the fan off for one setup, every gate overridden', () => {
  test('is not comparable, and no loss is claimed', async () => {
    await overriddenDay();
    const { job: now, judgement } = await exported();
    const verdict = judgement.verdicts[0]!;
    const counted = now.pulls.filter((p) => p.setupId === 'B' && p.status === 'counted');
    expect(counted).toHaveLength(2);
    expect(counted.every((p) => p.marks?.[0]?.startsWith('Gate overridden'))).toBe(true);
    expect(verdict.verdict).toBe('not-comparable');
    expect(verdict.reason).toBe('conditions');
    const conditions = verdict.conditions.findings.map((f) => f.code === 'condition-differs' && f.parameters.condition);
    expect(conditions).toContain('intakeStart');
  });
});
