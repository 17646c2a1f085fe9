import { fork, type ChildProcess } from 'node:child_process';
import net from 'node:net';

/** The set-up code of servers that the tests start. */
export const SETUP_CODE = 'code of the browser tests';

/** Below the ports that the system hands out by itself: nothing else takes one between the look and the use. */
const PORTS = [20_000, 32_000] as const;

/** A port that is free on loopback now. */
export function freePort(): Promise<number> {
  const port = PORTS[0] + Math.floor(Math.random() * (PORTS[1] - PORTS[0]));
  return new Promise((resolve) => {
    const probe = net
      .createServer()
      .once('error', () => resolve(freePort()))
      .listen(port, '127.0.0.1', () => probe.close(() => resolve(port)));
  });
}

/** The built server as a process of its own, listening; `more` is added to its environment. */
export async function startServer(
  databaseUrl: string,
  port: number,
  more: NodeJS.ProcessEnv = {},
): Promise<ChildProcess> {
  const server = fork(new URL('../server/dist/bundle/main.js', import.meta.url).pathname, {
    env: {
      ...process.env,
      // As a shop runs it.
      NODE_ENV: 'production',
      NODE_OPTIONS: '',
      DATABASE_URL: databaseUrl,
      PORT: String(port),
      HOST: '127.0.0.1',
      PRANDEL_DEMO: '0',
      PRANDEL_SETUP_TOKEN: SETUP_CODE,
      ...more,
    },
    execArgv: [],
  });
  await new Promise((ready, failed) => {
    server.once('message', ready);
    server.once('exit', (code) => failed(new Error(`the server stopped with ${code}`)));
  });
  return server;
}

/** Speaks to the API as one person; the cookie of the first answer that sets one is kept. */
export class Api {
  cookie = '';
  constructor(readonly base: string) {}

  async ask<T>(path: string, body?: object): Promise<T> {
    const answer = await fetch(`${this.base}/api${path}`, {
      method: body ? 'POST' : 'GET',
      headers: { cookie: this.cookie, connection: 'close', 'content-type': 'application/json' },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
    this.cookie ||= answer.headers.get('set-cookie')?.split(';')[0] ?? '';
    const type = answer.headers.get('content-type') ?? '';
    return (type.includes('json') ? await answer.json() : Buffer.from(await answer.arrayBuffer())) as T;
  }
}

/** Rounds of a plan, as the API takes them. */
type Rounds = readonly { setup: string; settle: number; counted: number }[];

/** The question of a made-up job that is about the bay rather than about its answer: B against A, over a usual window. */
export const questionOf = (text: string, plan: Rounds) => ({
  text,
  baselineSetup: 'A',
  candidateSetups: ['B'],
  measures: [{ id: 'windowMeanPower', meaningful: 1 }],
  windowRpm: [3000, 6800],
  partChangesIntakeTemperature: false,
  plan,
});
