import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { DEMO_DAYS, foreignFile, foreignPull, PLAIN_SHAPE, simulateDay, type Shape } from '@prandel/simulator';
import { By, Key, until } from 'selenium-webdriver';
import { expectAccessible, fill, PATIENCE, press, see, text } from './browser.ts';
import { base, closeDesk, driver, openDesk, setUpShop } from './desk.ts';

// A day of 26 files as foreign software writes it, dropped on Today: A, B, A, B, with a gain of three per cent.
const spec = DEMO_DAYS.find((d) => d.id === 'QG-0910-2')!;
const job = simulateDay({
  ...spec,
  seed: 31,
  effects: { B: () => 3 },
  rounds: [7, 7, 6, 6].map((pulls, i) => ({
    ...{ setup: 'AB'[i % 2]!, settle: 2, counted: pulls - 2, startMinute: 75 * i, minutesPerPull: 4 },
  })),
});
const shape: Shape = { ...PLAIN_SHAPE, language: 'de', corrected: true, clock: 'elapsed' };
const files = job.pulls.map((pull, k): [string, Uint8Array] => [
  `export_${(k * 7) % job.pulls.length}.csv`,
  foreignFile([foreignPull(job, pull, 120)], shape),
]);

beforeAll(() => openDesk('DROPPED'), 120_000);
afterAll(closeDesk);

/** Drops files on the page as the system's file manager does. */
async function drop(list: readonly [string, Uint8Array][]): Promise<void> {
  const sent = list.map(([name, bytes]) => [name, Buffer.from(bytes).toString('base64')]);
  await driver.executeScript(
    `const data = new DataTransfer();
     for (const [name, content] of arguments[0]) {
       const bytes = Uint8Array.from(atob(content), (c) => c.charCodeAt(0));
       data.items.add(new File([bytes], name));
     }
     const target = document.querySelector('main h1');
     for (const type of ['dragover', 'drop'])
       target.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));`,
    sent,
  );
}
const ticks = () => driver.findElements(By.css('.dayTick'));
const labels = async () => Promise.all((await ticks()).map((t) => t.getAttribute('aria-label')));
const setups = async () => (await labels()).map((l) => /setup (\w+)/.exec(l!)![1]).join('');
const key = (k: string) => driver.actions().sendKeys(k).perform();

describe('a day of files', () => {
  test('26 files and a photo dropped on Today: the question is typed, the rest is there', async () => {
    await driver.get(base);
    await setUpShop();
    await see(driver, 'New job');
    await driver.get(`${base}/`);
    await see(driver, 'New job');
    await drop([...files, ['holiday.jpg', new Uint8Array([1, 2])]]);
    await see(driver, '26 files wait');
    await fill(driver, 'What is to be decided, in words', 'Does the thermostat add power?');
    await press(driver, 'Open the job and lay out 26 files');
    await see(driver, 'Import 26 pulls', 'button');
    expect(await setups()).toBe('A'.repeat(7) + 'B'.repeat(7) + 'A'.repeat(6) + 'B'.repeat(6));
    const page = await text(driver, 'main');
    expect(page).toContain('When: 26 from the lines above their numbers');
    expect(page).toContain('air in the bay, station pressure and humidity from the lines above');
    expect(page).toContain('intake at start from channels; coolant at start and oil at start not known');
    expect(page).toContain('1 file is no file of pulls and was not sent: holiday.jpg');
    expect(page).toMatch(/SAE J1349.*Printed \d\.\d{3}, computed from their weather \d\.\d{3}/s);
    expect((await labels()).filter((l) => l!.endsWith('settle'))).toHaveLength(8);
    await expectAccessible(driver);
  });

  test('keys: set aside with its reason, another setup, undo', async () => {
    const first = (await ticks())[4]!;
    await first.click();
    await key('s');
    await see(driver, 'Why', 'span');
    expect(await text(driver, 'main')).toContain('Say why Pull 5 is set aside.');
    await driver.findElement(By.css('[aria-label="Why it is set aside"]')).sendKeys('tyre slipped');
    await driver.findElement(By.css('h1')).click();
    await key(Key.ARROW_DOWN);
    await key('b');
    expect((await labels())[5]).toMatch(/setup B, counted/);
    await key('z');
    expect((await labels()).slice(4, 6)).toEqual([
      expect.stringMatching(/set aside/) as unknown,
      expect.stringMatching(/setup A, counted/) as unknown,
    ]);
  });

  test('drag: a round to another setup and back, a pull alone', async () => {
    const lane = (id: string) => driver.findElement(By.css(`.dayLane[data-setup="${id}"]`));
    const drag = async (css: string, place: number, id: string) => {
      const [from, over] = [await (await driver.findElements(By.css(css)))[place]!.getRect(), await lane(id).getRect()];
      const x = Math.round(from.x + from.width / 2);
      const actions = driver.actions().move({ x, y: Math.round(from.y + from.height / 2) });
      const y = Math.round(over.y + over.height / 2);
      await actions
        .press()
        .move({ x: x + 6, y: y - 4, duration: 200 })
        .move({ x, y, duration: 100 })
        .release()
        .perform();
    };
    await drag('.dayRound', 1, 'A');
    expect((await setups()).slice(0, 14)).toBe('A'.repeat(14));
    await key('z');
    expect((await setups()).slice(7, 14)).toBe('B'.repeat(7));
    await drag('.dayTick', 9, 'A');
    expect((await setups()).slice(7, 14)).toBe('BBABBBB');
    await key('z');
    expect((await setups()).slice(7, 14)).toBe('BBBBBBB');
  });

  test('imported at once, and judged', async () => {
    await press(driver, 'Import 26 pulls');
    await driver.wait(until.urlContains('/compare'), PATIENCE);
    await see(driver, 'Verified gain');
    const page = await text(driver, 'main');
    expect(page).toMatch(/\+[2-3]\.\d/);
  });

  test('the second day of the same shape: one click', async () => {
    const next = simulateDay({ ...spec, seed: 32, effects: { B: () => 0 }, date: '2026-09-17T08:30:00Z' });
    await driver.get(`${base}/`);
    await see(driver, 'New job');
    await drop(next.pulls.map((p, k) => [`next_${k}.csv`, foreignFile([foreignPull(next, p, 120)], shape)]));
    await fill(driver, 'What is to be decided, in words', 'Does it help a second car?');
    await press(driver, `Open the job and lay out ${next.pulls.length} files`);
    await see(driver, 'As you said the last time');
    await press(driver, `Import ${next.pulls.length} pulls`);
    await driver.wait(until.urlContains('/compare'), PATIENCE);
  });
});
