import { DEMO_SHOP, demoJobs } from '@prandel/simulator';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { Database } from './database/database.ts';
import { JobStore } from './jobs/jobStore.ts';
import { PeopleService } from './people/people.service.ts';

/** Loads the demo shop once; a database that has a shop already is left alone. */
export async function loadDemo(app: NestExpressApplication): Promise<void> {
  const people = app.get(PeopleService);
  if (!(await people.isFirstStart())) return;
  const shopId = await people.firstStart({
    shop: DEMO_SHOP.name,
    name: DEMO_SHOP.person,
    email: DEMO_SHOP.email,
    password: DEMO_SHOP.password,
  });
  const store = app.get(JobStore);
  const jobs = [...demoJobs()].reverse();
  for (const job of jobs) {
    await app.get(Database).inShop(shopId, async (tx) => {
      const id = await store.insert(tx, shopId, job, null);
      await store.note(tx, shopId, id, DEMO_SHOP.person, 'Demo day, made by the simulator from a seed.');
    });
  }
}
