import { spawn } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { writePackage, zip } from '@prandel/formats';
import { DEMO_DAYS, simulateDay } from '@prandel/simulator';

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
