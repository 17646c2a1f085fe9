import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { Ajv } from 'ajv';
import { writePackage, zip } from '@prandel/formats';
import { DEMO_DAYS, simulateDay } from '@prandel/simulator';
import { LiveShop } from '../test/liveShop.ts';
import { upload } from '../test/shop.ts';

// Answers that are types of core, held against the schemas that the document shows of them.
const live = new LiveShop();
let wrong: (answer: string, value: unknown) => unknown;
beforeAll(async () => {
  await live.open(process.env.DOCUMENT_DATABASE_URL);
  const { components } = await live.ask<{ components: object }>('GET', '/openapi.json');
  const ajv = new Ajv({ strict: false, allErrors: true, validateFormats: false });
  ajv.addSchema({ $id: 'document', components });
  wrong = (answer, value) => {
    const check = ajv.getSchema(`document#/components/schemas/${answer}`)!;
    return check(value) ? null : check.errors!.slice(0, 3);
  };
});
afterAll(() => live.close());

test('what the server answers is what the document says, and the check can fail', async () => {
  const bays = await live.ask<{ id: string }[]>('GET', '/bays');
  expect(bays.length).toBeGreaterThan(0);
  expect(wrong('BaysAnswer', bays)).toBeNull();
  expect(wrong('BaysAnswer', [{ ...bays[0], fault: 7 }])).not.toBeNull();
  const bytes = await zip(writePackage(simulateDay(DEMO_DAYS[0]!)));
  const { id } = await live.ask<{ id: string }>('POST', '/packages', upload('file', [['day.zip', bytes]]));
  for (const job of [id, live.job]) {
    const stored = await live.ask<{ job: object }>('GET', `/jobs/${job}`);
    expect(wrong('JobAnswer', stored)).toBeNull();
    expect(wrong('JobAnswer', { ...stored, job: { ...stored.job, setups: 'A' } })).not.toBeNull();
    expect(wrong('ReportNumbers', await live.ask('GET', `/jobs/${job}/report.json`))).toBeNull();
  }
  expect(wrong('LearnedAnswer', await live.ask('GET', `/bays/${live.bay}/history`))).toBeNull();
});

test('the run sheet and every message of the live channel are as the document says, a pull long', async () => {
  await live.act('open-job', { job: live.job });
  const { messages, close } = await live.listen();
  await live.ready();
  await live.pull();
  await live.until('a pull in review', (sheet) => sheet.state === 'review');
  expect(wrong('SheetAnswer', await live.sheet())).toBeNull();
  close();
  expect(new Set(messages.map((message) => message.kind))).toEqual(new Set(['sheet', 'samples']));
  expect(messages.map((message) => wrong('LiveChannelMessage', message)).filter(Boolean)).toEqual([]);
});
