import type { Fitting, Job } from '@prandel/core';
import { USUAL_REGISTERS } from '@prandel/formats';
import { DEMO_SHOP, demoJobs, demoRecords, LIVE_BAY, liveJob, ROLLERS } from '@prandel/simulator';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { eq, sql } from 'drizzle-orm';
import { Database } from './database/database.ts';
import { changeBay, insertBay, readBays } from './bays/bayStore.ts';
import { pulls, shops } from './database/schema.ts';
import { insertRecord } from './records/recordFields.ts';
import { JobStore } from './jobs/jobStore.ts';
import { digestsOf } from './jobs/pullDigests.ts';
import { PeopleService } from './people/people.service.ts';

const PORTS = process.env.PRANDEL_STAND_INS;

/**
 * Points the demo's bay at the stand-ins that were started with it. Their clock is moved on when an earlier run, with time
 * running fast, left it in the future: a bay's clock never goes back.
 */
async function connectBay(app: NestExpressApplication, shopId: string): Promise<void> {
  if (!PORTS) return;
  const ports = JSON.parse(PORTS) as Record<'rollers' | 'weather' | 'bus' | 'aux', number>;
  const address = (port: number) => ({ host: '127.0.0.1', port });
  const instruments = {
    rollers: address(ports.rollers),
    weather: address(ports.weather),
    bus: address(ports.bus),
    aux: address(ports.aux),
    registers: USUAL_REGISTERS,
  };
  const latest = await app.get(Database).inShop(shopId, async (tx) => {
    const known = (await readBays(tx)).find((bay) => bay.label === LIVE_BAY.label);
    if (known) await changeBay(tx, shopId, known.id, undefined, { instruments });
    else await insertBay(tx, shopId, { label: LIVE_BAY.label, rollers: LIVE_BAY, instruments });
    const [row] = await tx.select({ at: sql<string | null>`max(${pulls.startedAt})` }).from(pulls);
    return row?.at ? new Date(row.at).getTime() : 0;
  });
  const ahead = Math.ceil((latest - Date.now()) / 1000) + 600;
  if (latest > Date.now() && process.env.PRANDEL_BENCH)
    await fetch(process.env.PRANDEL_BENCH, { method: 'POST', body: JSON.stringify({ skipSeconds: ahead }) });
}

function loadRecords(app: NestExpressApplication, shopId: string): Promise<void> {
  return app.get(Database).inShop(shopId, async (tx) => {
    for (const record of demoRecords()) await insertRecord(tx, shopId, record);
  });
}

/** Demo days that happen on the day of the first start, so that Today has something to show. */
const TODAY = new Set(
  demoJobs()
    .slice(0, 2)
    .map((job) => job.id),
);

/** The same day, by whole days later: the last one that was over by then. */
function movedTo(job: Job, now: Date): Job {
  const last = Math.max(...job.pulls.map((p) => Date.parse(p.startedAt!)));
  const days = Math.floor((now.getTime() - last) / 86_400_000);
  const moved = (at: string) => new Date(Date.parse(at) + days * 86_400_000).toISOString();
  const fittingMoved = (f: Fitting): Fitting => ({
    ...f,
    startedAt: moved(f.startedAt),
    stoppedAt: f.stoppedAt && moved(f.stoppedAt),
  });
  return {
    ...job,
    openedAt: moved(job.openedAt!),
    pulls: job.pulls.map((p) => ({ ...p, startedAt: p.startedAt && moved(p.startedAt) })),
    weather: job.weather.map((w) => ({ ...w, at: moved(w.at) })),
    ...(job.day ? { day: { ...job.day, fittings: job.day.fittings.map(fittingMoved) } } : {}),
  };
}

/**
 * Loads the demo shop once; a database that has a shop already is left alone.
 * @returns the demo's shop; null where another shop is on this server
 */
export async function loadDemo(app: NestExpressApplication): Promise<string | null> {
  const people = app.get(PeopleService);
  const existing = await people.shopOf(DEMO_SHOP.email);
  if (existing) {
    await connectBay(app, existing);
    return existing;
  }
  if (!(await people.isFirstStart())) return null;
  const shopId = await people.firstStart({
    shop: DEMO_SHOP.name,
    name: DEMO_SHOP.person,
    email: DEMO_SHOP.email,
    password: DEMO_SHOP.password,
  });
  for (const other of DEMO_SHOP.others) await people.add(shopId, { ...other, password: DEMO_SHOP.password });
  await app
    .get(Database)
    .inShop(shopId, (tx) => tx.update(shops).set({ currency: 'EUR', hourlyRate: 78 }).where(eq(shops.shopId, shopId)));
  await loadRecords(app, shopId);
  // The bay of the finished jobs: it has no instruments, but it remembers.
  const instruments = { rollers: null, weather: null, bus: null, aux: null, registers: USUAL_REGISTERS };
  await app
    .get(Database)
    .inShop(shopId, (tx) => insertBay(tx, shopId, { label: ROLLERS.label, rollers: ROLLERS, instruments }));
  const store = app.get(JobStore);
  const jobs = [...demoJobs(), liveJob()];
  for (const made of jobs) {
    const now = new Date();
    const job =
      made.openedAt === null
        ? { ...made, openedAt: now.toISOString() }
        : TODAY.has(made.id)
          ? movedTo(made, now)
          : made;
    await app.get(Database).inShop(shopId, async (tx) => {
      const id = await store.insert(tx, shopId, job, null);
      await store.note(
        tx,
        shopId,
        id,
        DEMO_SHOP.person,
        job.pulls.length > 0 ? 'Demo day, made by the simulator from a seed.' : 'Demo job, ready for the bay.',
        'edit',
        { digests: digestsOf(job.pulls) },
      );
    });
  }
  await connectBay(app, shopId);
  return shopId;
}
