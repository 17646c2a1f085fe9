import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { channelValues, type PullKind } from '@prandel/core';
import { LiveShop, pause } from '../test/liveShop.ts';

// A bay tells a roll-on from a sweep by what its rollers said.
const live = new LiveShop();
beforeAll(() => live.open(process.env.KINDS_DATABASE_URL));
afterAll(() => live.close());

/** Pulls of the job as they are stored, once there are so many. */
async function kinds(count: number): Promise<{ kind: PullKind; rows: number }[]> {
  for (let i = 0; i < 100; i += 1) {
    const { pulls } = (await live.stored()).job;
    if (pulls.length >= count)
      return pulls.map((p) => ({ kind: p.kind ?? 'sweep', rows: channelValues(p, 'time_s')!.length }));
    await pause(100);
  }
  throw new Error(`never ${count} pulls`);
}

test('a throttle step at a held speed is stored as a roll-on, with what came before it; a rising pull stays a sweep', async () => {
  await live.act('open-job', { job: live.job });
  await live.act('start-round', { setup: 'A' });
  await live.drive(1.5, 0.1, 60);
  await live.drive(2.5, 1, 60);
  await live.drive(1.2, 0);
  const [rollOn] = await kinds(1);
  expect(rollOn!.kind).toBe('roll-on');
  // Half a second before the pedal is what its anchor is told by.
  expect(rollOn!.rows).toBeGreaterThan(290);
  await live.drive(4, 1);
  await live.drive(1.2, 0);
  expect((await kinds(2)).map((p) => p.kind)).toEqual(['roll-on', 'sweep']);
}, 60_000);
