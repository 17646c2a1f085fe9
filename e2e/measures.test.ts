import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { channelValues, type Pull } from '@prandel/core';
import { DEMO_DAYS, simulateDay } from '@prandel/simulator';
import { By, until } from 'selenium-webdriver';
import { expectAccessible, fill, press, see, text, PATIENCE } from './browser.ts';
import { base, choose, closeDesk, driver, folder, openDesk, settled, setUpShop } from './desk.ts';

// A question of the answer to the pedal, from an empty shop over files of roll-ons to the verdict.
const day = simulateDay(DEMO_DAYS.find((d) => d.rollOns)!);

/** A roll-on as another program would have written it. */
function csv(pull: Pull): string {
  const of = (name: string) => channelValues(pull, name)!;
  const [time, rpm, throttle, torque] = ['time_s', 'engine_rpm', 'throttle_fraction', 'wheel_torque_nm'].map(of);
  const rows = Array.from(time!, (t, i) =>
    [t.toFixed(3), rpm![i]!.toFixed(1), (100 * throttle![i]!).toFixed(1), torque![i]!.toFixed(2)].join(','),
  );
  return `Time (s),Engine speed (rpm),Throttle (%),Wheel torque (N·m)\n${rows.join('\n')}`;
}

/** The counted roll-ons of a setup as files. */
const filesOf = (setup: string) =>
  day.pulls
    .filter((p) => p.kind === 'roll-on' && p.setupId === setup)
    .map((p) => {
      const path = join(folder, `roll-on-${p.id}.csv`);
      writeFileSync(path, csv(p));
      return path;
    });

beforeAll(() => openDesk('MEASURES'), 120_000);
afterAll(closeDesk);

describe('the answer to the pedal, from files of roll-ons', () => {
  test('the question is asked of it alone', async () => {
    await driver.get(base);
    await setUpShop();
    await see(driver, 'No job today.');
    await driver.get(`${base}/jobs/new`);
    await fill(driver, 'What is to be decided, in words', 'Does the stiffer spring answer sooner?');
    await fill(driver, 'With the change', 'stiffer spring');
    await fill(driver, 'Vehicle', 'Ambry Kite 1.2 turbo');
    const measure = await driver.findElement(By.xpath("//fieldset[@aria-label='Measures']//label[span='Measure']"));
    await (await measure.findElement(By.xpath(".//option[contains(., 'time to a torque')]"))).click();
    await see(driver, 'Would matter, %');
    await expectAccessible(driver);
    await press(driver, 'Open the job and import pulls');
  });

  test('its files are taken for roll-ons, and the verdict is told in seconds', async () => {
    for (const setup of ['A', 'B']) {
      await see(driver, `Choose the files of setup ${setup}`);
      await choose('Pull files', filesOf(setup).join('\n'));
      await see(driver, 'What the columns mean');
      await driver.findElement(By.xpath("//label[contains(., 'No, as measured')]//input")).click();
      await fill(driver, 'Settle pulls at the start', '1');
      await fill(driver, 'Station pressure, hPa', '1011');
      await fill(driver, 'Air in the bay, °C', '18');
      await fill(driver, 'Humidity, %', '50');
      await press(driver, `Import for setup ${setup}`);
      if (setup === 'A') await see(driver, 'Imported. Now the files of setup B.');
    }
    await see(driver, '4 counted of 5 pulls');
    const kind = await driver.wait(until.elementLocated(By.css('select[aria-label="Kind of B·2"]')), PATIENCE);
    expect(await kind.getAttribute('value')).toBe('roll-on');
    await press(driver, 'Compare', 'a');
    await settled();
    expect(await text(driver, '[data-testid=verdict]')).toBe('Verified quicker');
    expect(await text(driver, '[data-testid=gain]')).toMatch(/^\u22120\.\d\d$/);
    await driver.wait(until.elementLocated(By.css('section[aria-label="Roll-ons"] svg circle')), PATIENCE);
    await see(driver, 'quicker than before.');
    await expectAccessible(driver);
  });

  test('a pull of another kind leaves the verdict, and comes back', async () => {
    const compare = await driver.getCurrentUrl();
    const make = async (value: string) => {
      await driver.get(compare.replace('/compare', ''));
      const kind = await driver.wait(until.elementLocated(By.css('select[aria-label="Kind of B·2"]')), PATIENCE);
      await (await kind.findElement(By.css(`option[value=${value}]`))).click();
      await see(driver, `Made pull`);
      await driver.get(compare);
      await settled();
      return text(driver, 'section[aria-label=Verdict]');
    };
    expect(await make('hold')).toContain('4 and 3 counted pulls');
    expect(await make('roll-on')).toContain('4 and 4 counted pulls');
  });
});
