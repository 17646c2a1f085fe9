import { createHash } from 'node:crypto';
import { readFile, stat } from 'node:fs/promises';
import { homedir } from 'node:os';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { BayServer } from './bayServer.ts';
import { FolderWatcher } from './folderWatcher.ts';
import { SentFiles } from './sentFiles.ts';

const LOOK_MS = 500;
const BEAT_MS = 20_000;

const USAGE = `usage: prandel watch FOLDER --server URL --bay NAME [--token-file FILE] [--all] [--state FOLDER]
The access token is made on the shop's page People, for files of one bay. It is read from PRANDEL_TOKEN, or from a file that only
its owner may read. --all also sends what lies in the folder already.`;

/** Watches a folder until it is stopped. @returns exit code */
export async function watchCommand(
  args: readonly string[],
  say: (line: string) => void,
  signal: AbortSignal,
): Promise<number> {
  const read = optionsOf(args);
  if (typeof read === 'string') {
    say(`${read}\n${USAGE}`);
    return 2;
  }
  const { folder, server: url, bay, all, state } = read;
  const token = await tokenOf(read.tokenFile);
  if (typeof token !== 'string') {
    say(token.problem);
    return 2;
  }
  if (!(await stat(folder).catch(() => null))?.isDirectory()) {
    say(`There is no folder "${folder}".`);
    return 2;
  }
  const name = createHash('sha256').update(`${url}\n${bay}\n${folder}`).digest('hex').slice(0, 16);
  const path = join(state, `watch-${name}.json`);
  const sent = await SentFiles.open(path).catch((error: Error) => error);
  if (sent instanceof Error) {
    say(
      `The list of sent files, "${path}", cannot be used: ${sent.message}. Move it away and start again with --all; the server knows the files that it has.`,
    );
    return 2;
  }
  const server = new BayServer(url, bay, token, folder);
  const watcher = new FolderWatcher({ folder, server, sent, say });
  if (sent.fresh) {
    const old = all ? 0 : await watcher.leaveOld();
    if (old > 0)
      say(
        `${old} ${old === 1 ? 'file lies' : 'files lie'} there already and ${old === 1 ? 'is' : 'are'} left alone; --all sends them.`,
      );
    await sent.save();
  }
  say(`Watching ${folder} for ${bay} on ${url}.`);
  let beatMs = 0;
  let problem: string | null = null;
  let stumbled: string | null = null;
  while (!signal.aborted) {
    if (Date.now() - beatMs > BEAT_MS) {
      beatMs = Date.now();
      const now = await server.beat();
      if (now !== null && now !== problem) say(now);
      problem = now;
    }
    const stumbles = await watcher.look().then(
      () => null,
      (error: Error) => error.message,
    );
    if (stumbles !== null && stumbles !== stumbled) say(`Tried again until it works: ${stumbles}`);
    stumbled = stumbles;
    await pause(LOOK_MS, signal);
  }
  return 0;
}

interface Options {
  readonly folder: string;
  readonly server: string;
  readonly bay: string;
  readonly tokenFile: string | undefined;
  readonly all: boolean;
  readonly state: string;
}

/** @returns what is wrong, where something is */
function optionsOf(args: readonly string[]): Options | string {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        server: { type: 'string' },
        bay: { type: 'string' },
        'token-file': { type: 'string' },
        all: { type: 'boolean', default: false },
        state: { type: 'string' },
      },
    });
    const { server, bay } = values;
    const [folder] = positionals;
    if (folder === undefined || positionals.length > 1) return 'Name one folder.';
    if (!server || !URL.canParse(server)) return 'Say where the server is: --server http://bench:4300';
    if (!bay) return 'Say which bay the files are for: --bay "Bay 1"';
    const own = join(process.env.XDG_STATE_HOME ?? join(homedir(), '.local', 'state'), 'prandel');
    return {
      ...{ folder: resolve(folder), server: server.replace(/\/+$/, ''), bay, all: values.all },
      ...{ tokenFile: values['token-file'], state: values.state ?? own },
    };
  } catch (error) {
    return (error as Error).message;
  }
}

async function tokenOf(path: string | undefined): Promise<string | { readonly problem: string }> {
  const given = process.env.PRANDEL_TOKEN?.trim();
  if (path === undefined)
    return given ? given : { problem: 'Set PRANDEL_TOKEN to the access token, or name a file with --token-file.' };
  const info = await stat(path).catch(() => null);
  if (!info) return { problem: `There is no file "${path}".` };
  if (process.platform !== 'win32' && (info.mode & 0o077) !== 0)
    return { problem: `Others may read "${path}". Make it yours alone first: chmod 600 "${path}".` };
  const token = (await readFile(path, 'utf8')).trim();
  return token === '' ? { problem: `"${path}" is empty.` } : token;
}

function pause(ms: number, signal: AbortSignal): Promise<void> {
  return new Promise((done) => {
    const timer = setTimeout(end, ms);
    function end() {
      clearTimeout(timer);
      signal.removeEventListener('abort', end);
      done();
    }
    signal.addEventListener('abort', end, { once: true });
  });
}
