import { chmod, mkdir, mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { summariseFile } from '@prandel/formats';
import { standInCommand, standInPulls, writeInPieces } from '../standIn.ts';
import { BayServer } from './bayServer.ts';
import { FolderWatcher } from './folderWatcher.ts';
import { SentFiles } from './sentFiles.ts';
import { watchCommand } from './watch.ts';

// A folder into which foreign software writes, and a server of our own making that notes what it is sent.
let folder = '';
let state = '';
let server: Server;
let got: string[] = [];
let status = 201;
beforeEach(async () => {
  [folder, state] = [await mkdtemp(join(tmpdir(), 'watched-')), await mkdtemp(join(tmpdir(), 'state-'))];
  [got, status] = [[], 201];
  server = createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      if (request.headers.authorization !== 'Bearer prandel_x') return void response.writeHead(401).end('{}');
      if (request.url === '/api/bays') return void response.end(JSON.stringify([{ id: '7', label: 'Bay 1' }]));
      const name = /filename="([^"]+)"/.exec(Buffer.concat(parts).toString('latin1'))?.[1];
      if (name && status === 201) got.push(name);
      response
        .writeHead(status)
        .end(JSON.stringify({ outcome: 'pull', pulls: ['A-1'], code: null, message: null, detail: 'no room' }));
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
});
afterEach(async () => {
  server.close();
  for (const path of [folder, state]) await rm(path, { recursive: true });
});

const url = () => `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
async function watcher(more: { read?: (path: string) => Promise<Uint8Array> } = {}) {
  const clock = { ms: 1_000_000 };
  const said: string[] = [];
  const sent = await SentFiles.open(join(state, 'sent.json'));
  const own = new FolderWatcher({
    ...{ folder, sent, ...more, say: (line) => said.push(line), now: () => clock.ms },
    server: new BayServer(url(), 'bay 1', 'prandel_x', folder),
  });
  const after = async (ms: number) => {
    clock.ms += ms;
    await own.look();
  };
  return { own, said, after };
}
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));
const write = (name: string, text: string) => writeFile(join(folder, name), text);

describe('a watched folder', () => {
  test('a file that grows is sent once it was still for two seconds, and never twice, also after a restart', async () => {
    const { after, said } = await watcher();
    await write('run 1.csv', 'a');
    await after(0);
    await write('run 1.csv', 'ab');
    await after(1500);
    await after(1500);
    expect(got).toEqual([]);
    await after(600);
    expect([got, said]).toEqual([['run 1.csv'], ['run 1.csv: taken as A·1']]);
    await write('copy of run 1.csv', 'ab');
    await write('.hidden', 'x');
    await write('run 2.csv.part', 'x');
    await after(0);
    await after(2100);
    const again = await watcher();
    await again.after(0);
    await again.after(2100);
    expect(got).toEqual(['run 1.csv']);
    await write('run 1.csv', 'abc');
    await again.after(0);
    await again.after(2100);
    expect(got).toEqual(['run 1.csv', 'run 1.csv']);
  });

  test('while the server is away files wait, and come in the order in which they were written', async () => {
    const { own, after, said } = await watcher();
    status = 503;
    for (const k of [3, 1, 2]) {
      await write(`run ${k}.csv`, `pull ${k}`);
      await pause(15);
    }
    await after(0);
    await after(2100);
    expect([got, own.waiting, said]).toEqual([[], 3, ['no room 3 files wait in the folder.']]);
    status = 201;
    await after(1000);
    expect(got).toEqual([]);
    await after(1100);
    expect([got, own.waiting]).toEqual([['run 3.csv', 'run 1.csv', 'run 2.csv'], 0]);
  });

  test('a file that another program holds is tried again and keeps no other waiting', async () => {
    let held = true;
    const { after, said } = await watcher({
      read: (path) => {
        if (held && path.endsWith('held.csv'))
          return Promise.reject(Object.assign(new Error('busy'), { code: 'EBUSY' }));
        return Promise.resolve(Buffer.from(path.endsWith('held.csv') ? 'x' : 'y'));
      },
    });
    await write('held.csv', 'x');
    await write('free.csv', 'y');
    await after(0);
    await after(2100);
    await after(500);
    expect([got, said.filter((l) => l.includes('held'))]).toEqual([
      ['free.csv'],
      ['held.csv: held by another program; tried again.'],
    ]);
    held = false;
    await after(500);
    expect(got).toEqual(['free.csv', 'held.csv']);
  });

  test('what the command is not told, or may not use, it says', async () => {
    const said: string[] = [];
    const run = (...args: string[]) => watchCommand(args, (line) => said.push(line), AbortSignal.abort());
    delete process.env.PRANDEL_TOKEN;
    expect(await run(folder, '--bay', 'Bay 1')).toBe(2);
    expect(await run(folder, '--bay', 'Bay 1', '--server', url())).toBe(2);
    const file = join(state, 'token');
    await writeFile(file, 'prandel_x', { mode: 0o644 });
    await chmod(file, 0o644);
    expect(await run(folder, '--bay', 'Bay 1', '--server', url(), '--token-file', file)).toBe(2);
    await chmod(file, 0o600);
    await write('old.csv', 'old');
    expect(await run(folder, '--bay', 'Bay 1', '--server', url(), '--token-file', file, '--state', state)).toBe(0);
    expect(said.map((l) => l.split('\n')[0])).toEqual([
      'Say where the server is: --server http://bench:4300',
      'Set PRANDEL_TOKEN to the access token, or name a file with --token-file.',
      expect.stringMatching(/^Others may read/),
      '1 file lies there already and is left alone; --all sends them.',
      `Watching ${folder} for Bay 1 on ${url()}.`,
    ]);
    const list = join(
      state,
      (await readdir(state)).find((name) => name.startsWith('watch-'))!,
    );
    for (const damaged of ['{"a', 'null']) {
      await writeFile(list, damaged);
      expect(await run(folder, '--bay', 'Bay 1', '--server', url(), '--token-file', file, '--state', state)).toBe(2);
      expect(said.at(-1)).toContain('start again with --all');
    }
  });

  test('a folder that is gone for a while is told once, and watched again when it is back', async () => {
    const said: string[] = [];
    const stopping = new AbortController();
    process.env.PRANDEL_TOKEN = 'prandel_x';
    const running = watchCommand(
      [folder, '--bay', 'Bay 1', '--server', url(), '--state', state],
      (line) => said.push(line),
      stopping.signal,
    );
    const heard = async (words: string) => {
      for (let k = 0; k < 100 && !said.some((line) => line.includes(words)); k++) await pause(100);
      expect(said.filter((line) => line.includes(words))).toHaveLength(1);
    };
    await heard('Watching');
    await rm(folder, { recursive: true });
    await heard('ENOENT');
    await pause(1200);
    await mkdir(folder);
    await write('back.csv', 'again');
    await heard('back.csv: taken');
    await heard('ENOENT');
    stopping.abort();
    expect(await running).toBe(0);
    delete process.env.PRANDEL_TOKEN;
  });

  test('a wrong token, and a bay that is not there', async () => {
    const away = async (bay: string, token: string) =>
      new BayServer(url(), bay, token, folder).send('x.csv', Buffer.from('x'), '');
    expect(await away('Bay 1', 'prandel_y')).toMatchObject({
      kind: 'away',
      why: expect.stringMatching(/not known there/) as unknown,
    });
    expect(await away('Bay 9', 'prandel_x')).toMatchObject({
      kind: 'away',
      why: expect.stringMatching(/no bay "Bay 9".*It has: Bay 1/) as unknown,
    });
  });

  test('the stand-in writes a whole day: pieces, decimal commas, one file a pull, Enter between setups', async () => {
    const said: string[] = [];
    let entered = 0;
    const pieces: number[] = [];
    const wrote = writeInPieces(join(folder, 'piece.csv'), Buffer.from('0123456789'), async () => {
      pieces.push((await stat(join(folder, 'piece.csv'))).size);
    });
    await wrote;
    expect(pieces).toEqual([3, 6, 9, 10]);
    expect(
      standInPulls(new Date(1_790_000_000_000))
        .map((p) => p.setup)
        .join(''),
    ).toBe('AAAAABBBBBA2A2A2A2');
    expect(
      await standInCommand(
        [],
        (line) => said.push(line),
        () => Promise.resolve(),
      ),
    ).toBe(2);
    const day = standInCommand(
      [folder, '--every', '0'],
      (line) => said.push(line),
      () => {
        entered += 1;
        return entered > 1 ? Promise.reject(new Error('enough')) : Promise.resolve();
      },
    );
    await expect(day).rejects.toThrow('enough');
    expect(said.filter((l) => l.endsWith('of setup A'))).toHaveLength(5);
    expect(said.at(-1)).toBe('Setup B: begin its round on the run sheet, then press Enter.');
    const text = await readFile(join(folder, 'lauf_01.csv'), 'utf8');
    expect(text).toMatch(/^Datum: \d\d\.\d\d\.\d{4} \d\d:\d\d:\d\d/);
    expect(summariseFile('lauf_01.csv', Buffer.from(text)).pulls).toMatchObject([{ recorded: { source: 'header' } }]);
  }, 20_000);
});
