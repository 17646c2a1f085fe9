import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, readlinkSync } from 'node:fs';
import { join } from 'node:path';
import { freePort } from './application.ts';

const root = new URL('..', import.meta.url).pathname;
export const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** The environment of somebody at a terminal. */
function environment(): NodeJS.ProcessEnv {
  const env = { ...process.env, NODE_OPTIONS: '' };
  delete (env as NodeJS.ProcessEnv).DATABASE_URL;
  return env;
}

/** Runs ./prandel to its end. */
export function prandel(folder: string, ...args: string[]): Promise<{ code: number | null; out: string }> {
  return new Promise((resolve, reject) => {
    const child = spawn(join(root, 'prandel'), args, { cwd: folder, env: environment() });
    let out = '';
    child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.stderr.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.on('error', reject);
    child.on('close', (code) => resolve({ code, out }));
  });
}

/** Processes whose parent is this one, by what they run. */
function below(parent: number): { pid: number; words: string; uid: number }[] {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .flatMap((name) => {
      try {
        const status = readFileSync(`/proc/${name}/status`, 'utf8');
        if (!new RegExp(`^PPid:\\t${parent}$`, 'm').test(status)) return [];
        const words = readFileSync(`/proc/${name}/cmdline`, 'utf8').replaceAll('\0', ' ').trim();
        return [{ pid: Number(name), words, uid: Number(/^Uid:\t(\d+)/m.exec(status)![1]) }];
      } catch {
        return [];
      }
    });
}

export function alive(pid: number): boolean {
  try {
    return existsSync(`/proc/${pid}/exe`) && readlinkSync(`/proc/${pid}/exe`) !== '';
  } catch {
    return false;
  }
}

/** Everything that ./prandel start runs: launcher, database, the bays' process and the pages' process. */
export class Stack {
  /** What the terminal shows. */
  told = '';
  readonly data: string;
  port = 0;
  #running: ChildProcess | null = null;

  constructor(folder: string) {
    this.data = join(folder, 'data');
  }

  get base(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  get running(): boolean {
    return this.#running !== null;
  }

  /** @returns once it greets; the port stays what it was */
  async start(): Promise<void> {
    this.port ||= await freePort();
    this.told = '';
    const child = spawn(join(root, 'prandel'), ['start', '--port', String(this.port), '--data', this.data], {
      cwd: root,
      env: environment(),
    });
    this.#running = child;
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (chunk: Buffer) => (this.told += chunk.toString()));
    for (let k = 0; k < 1200 && !this.told.includes('Ctrl-C stops'); k += 1) {
      if (child.exitCode !== null) throw new Error(`it stopped: ${this.told}`);
      await pause(100);
    }
    if (!this.told.includes('Ctrl-C stops')) throw new Error(`it did not start: ${this.told}`);
  }

  async stop(): Promise<void> {
    const child = this.#running;
    this.#running = null;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    await ended;
  }

  get setupCode(): string {
    return /set-up code: (\S+)/.exec(this.told)![1]!;
  }

  get launcher(): number {
    return this.#running!.pid!;
  }

  /** What the launcher started. */
  children(words = ''): { pid: number; words: string; uid: number }[] {
    return below(this.launcher).filter((p) => p.words.includes(words));
  }

  /** The process of the bays or of the pages. */
  server(kind: 'bays' | 'pages'): number {
    const found = this.children('server/dist/bundle/main.js').find(({ pid }) =>
      readFileSync(`/proc/${pid}/environ`, 'utf8').split('\0').includes(`PRANDEL_PROCESS=${kind}`),
    );
    if (!found) throw new Error(`no process of the ${kind}`);
    return found.pid;
  }

  get database(): number {
    return this.children('bin/postgres')[0]!.pid;
  }

  /** Kills the launcher and waits until nothing of what it started is left. @returns what was left */
  async killLauncher(): Promise<number[]> {
    const pids = this.children().map(({ pid }) => pid);
    process.kill(this.launcher, 'SIGKILL');
    this.#running = null;
    for (let k = 0; k < 200 && pids.some(alive); k += 1) await pause(50);
    return pids.filter(alive);
  }

  async healthy(): Promise<boolean> {
    const answer = await fetch(`${this.base}/api/health`, { headers: { connection: 'close' } }).catch(() => null);
    return answer?.status === 200;
  }

  async untilHealthy(): Promise<void> {
    for (let k = 0; k < 400; k += 1) {
      if (await this.healthy()) return;
      await pause(100);
    }
    throw new Error(`never healthy: ${this.told}`);
  }
}
