import { createApp } from './createApp.ts';
import { Database, NewerSchemaError } from './database/database.ts';
import { LiveBays } from './live/liveBays.ts';
import { Housekeeping } from './operations/housekeeping.ts';
import { processKind } from './processKind.ts';
import { ProjectionsService } from './projections/projections.service.ts';
import { ShopKeys } from './seals/shopKeys.ts';
import { WorkPool } from './work/workPool.ts';
import { DemoYears } from './years/demoYears.ts';

// Started ahead of its database: what it is to know comes when it is known, the code is loaded by then.
if (process.env.PRANDEL_WAITS === '1') Object.assign(process.env, await told());
const port = Number(process.env.PORT ?? 4870);
const host = process.env.HOST ?? '127.0.0.1';
try {
  const app = await createApp();
  const kind = processKind();
  let demoShop: string | null = null;
  if (kind !== 'pages') {
    // The demo's shop is simulated: nobody else loads the simulator.
    if (process.env.PRANDEL_DEMO === '1') demoShop = await (await import('./demo.ts')).loadDemo(app);
    await app.get(LiveBays).startAll();
    app.get(Housekeeping).start();
    await app.get(ShopKeys).ensureAll();
  }
  if (kind !== 'bays') await app.get(ProjectionsService).start();
  await app.listen(port, host);
  if (kind !== 'pages')
    await app
      .get(Database)
      .leads.announce(process.env.PRANDEL_ADDRESS ?? `http://${host.includes(':') ? `[${host}]` : host}:${port}`);
  process.send?.({ listening: port });
  // The shop can be used at once; its two years come in behind.
  if (demoShop !== null && process.env.PRANDEL_DEMO_YEARS === '1') app.get(DemoYears).start(demoShop);
  if (kind !== 'bays') app.get(WorkPool).warm();
  // Whoever started this process is gone, perhaps killed: nobody would stop it any more.
  process.on('disconnect', () => {
    setTimeout(() => process.exit(1), 5000).unref();
    void app.close().finally(() => process.exit(0));
  });
} catch (error) {
  if (!(error instanceof NewerSchemaError)) throw error;
  console.error(error.message);
  process.exit(1);
}

function told(): Promise<NodeJS.ProcessEnv> {
  return new Promise((resolve) => {
    const gone = () => process.exit(1);
    process.once('disconnect', gone);
    process.once('message', (environment: NodeJS.ProcessEnv) => {
      process.off('disconnect', gone);
      resolve(environment);
    });
  });
}
