import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { writePackage, zip } from '@prandel/formats';
import { DEMO_DAYS, simulateDay } from '@prandel/simulator';
import pg from 'pg';

const root = new URL('..', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'prandel-launcher-'));

/** Runs ./prandel as a person would, from another folder. */
function prandel(...args: string[]): Promise<{ code: number | null; out: string; err: string }> {
  return new Promise((resolve, reject) => {
    const child = spawn(join(root, 'prandel'), args, { cwd: folder, env: { ...process.env, NODE_OPTIONS: '' } });
    let out = '';
    let err = '';
    child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.stderr.on('data', (chunk: Buffer) => (err += chunk.toString()));
    child.on('error', reject);
    child.on('close', (code) => resolve({ code, out, err }));
  });
}

describe('./prandel', () => {
  test('says how it is used', async () => {
    expect(await prandel()).toMatchObject({
      code: 0,
      err: expect.stringContaining('usage: ./prandel demo') as unknown,
    });
    expect((await prandel('fly')).code).toBe(2);
  });

  test('a taken port and a wrong option are told in one plain sentence', async () => {
    const server = net.createServer();
    await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready));
    const { port } = server.address() as net.AddressInfo;
    const taken = await prandel('start', '--port', String(port), '--data', join(folder, 'data'));
    server.close();
    expect(taken).toEqual({
      code: 1,
      out: '',
      err: `Port ${port} is taken by another program. Start with --port N and a free number.\n`,
    });
    expect(await prandel('start', '--port', 'x')).toMatchObject({
      code: 1,
      err: expect.stringMatching(/^--port x is no port number\. Options are/) as unknown,
    });
  });

  test('judges packages named relative to the folder where it was called', async () => {
    writeFileSync(join(folder, 'day.zip'), await zip(writePackage(simulateDay(DEMO_DAYS[4]!))));
    const { code, out } = await prandel('judge', 'day.zip', 'missing.zip');
    const [good, bad] = out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as { package: string; error?: string; verdicts?: { verdict: string }[] });
    expect(code).toBe(2);
    expect(good).toMatchObject({ package: 'day.zip', verdicts: [{ verdict: 'verified-loss' }] });
    expect(bad).toEqual({ package: 'missing.zip', error: 'There is no file or folder "missing.zip".' });
  });
});

describe('the private database', () => {
  const clusterUrl = new URL('../launcher/cluster.mjs', import.meta.url).href;
  type Cluster = { url: string; stop: () => Promise<unknown> };
  const startCluster = async (folder: string, databases?: string[]) => {
    const { startCluster: start } = (await import(clusterUrl)) as {
      startCluster: (folder: string, options: object) => Promise<Cluster>;
    };
    return start(folder, { fast: true, ...(databases ? { databases } : {}) });
  };
  const query = async <T extends object>(url: string, sql: string): Promise<T[]> => {
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    try {
      return (await client.query<T>(sql)).rows;
    } finally {
      await client.end();
    }
  };

  test('a folder that a killed run left half made is moved aside, not mended and not lost', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'prandel-half-'));
    mkdirSync(join(folder, 'postgres'));
    writeFileSync(join(folder, 'postgres', 'precious'), 'somebody’s bytes');
    const cluster = await startCluster(folder);
    try {
      expect(await query(cluster.url, 'SELECT 1 AS one')).toEqual([{ one: 1 }]);
      const aside = readdirSync(folder).filter((name) => name.startsWith('postgres.half-made-'));
      expect(aside).toHaveLength(1);
      expect(readFileSync(join(folder, aside[0]!, 'precious'), 'utf8')).toBe('somebody’s bytes');
    } finally {
      await cluster.stop();
    }
  });

  test('a second start finds what the first one stored; the role has no rights it does not need', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'prandel-again-'));
    const first = await startCluster(folder, ['prandel', 'other']);
    await query(first.url, 'CREATE TABLE kept AS SELECT 42 AS answer');
    // A run that was killed: its server is still up when the next one comes.
    const second = await startCluster(folder, ['prandel', 'other']);
    try {
      expect(await query(second.url, 'SELECT answer FROM kept')).toEqual([{ answer: 42 }]);
      const [role] = await query(
        second.url,
        'SELECT rolsuper, rolbypassrls, rolcreatedb, rolcreaterole FROM pg_roles WHERE rolname = current_user',
      );
      expect(role).toEqual({ rolsuper: false, rolbypassrls: false, rolcreatedb: false, rolcreaterole: false });
      const address = new URL(second.url);
      expect(address.hostname).toBe('127.0.0.1');
      address.password = 'wrong';
      await expect(query(address.href, 'SELECT 1')).rejects.toThrow(/password authentication failed/);
    } finally {
      await second.stop();
    }
  });
});
