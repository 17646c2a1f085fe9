import { createApp } from './createApp.ts';
import { LiveBays } from './live/liveBays.ts';
import { loadDemo } from './demo.ts';

const port = Number(process.env.PORT ?? 4870);
const host = process.env.HOST ?? '127.0.0.1';
const app = await createApp();
if (process.env.PRANDEL_DEMO === '1') await loadDemo(app);
await app.get(LiveBays).startAll();
await app.listen(port, host);
process.send?.({ listening: port });
