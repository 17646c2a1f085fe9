import { webcrypto } from 'node:crypto';
import { beforeAll, expect, test } from '@jest/globals';
import { WatchedFolder, type Sent } from './watchedFolder.ts';

beforeAll(() => {
  Object.defineProperty(globalThis, 'crypto', { value: webcrypto, configurable: true });
});

/** A folder of our own making, as a browser gives it to a page. */
function folderOf(files: Map<string, { text: string; changedMs: number; held?: boolean }>) {
  return {
    name: 'pulls',
    async *values() {
      await Promise.resolve();
      yield { kind: 'directory' as const, name: 'older' };
      for (const [name, { text, changedMs, held }] of files)
        yield {
          kind: 'file' as const,
          name,
          getFile: () =>
            held
              ? Promise.reject(new Error('in use'))
              : Promise.resolve({
                  ...{ name, size: text.length, lastModified: changedMs },
                  arrayBuffer: () => Promise.resolve(new TextEncoder().encode(text).buffer),
                } as unknown as File),
        };
    },
  };
}

test('still files are sent once, in the order in which they were written; old ones, litter and held ones are not', async () => {
  const files = new Map([['old.csv', { text: 'old', changedMs: 1 }]]);
  const sent: string[] = [];
  const said: string[] = [];
  let kept: readonly string[] = [];
  let ms = 0;
  let away = false;
  const watched = new WatchedFolder({
    folder: folderOf(files),
    send: (file): Promise<Sent> => {
      if (away) return Promise.reject(new Error('no line'));
      sent.push(file.name);
      return Promise.resolve({ outcome: 'pull', pulls: [`A-${sent.length}`], code: null, message: null });
    },
    sent: new Set(),
    keep: (digests) => (kept = digests),
    say: (line) => said.push(line),
    now: () => ms,
  });
  const after = async (more: number) => {
    ms += more;
    await watched.look();
  };
  expect(await watched.leaveOld()).toBe(1);
  files.set('b.csv', { text: 'second', changedMs: 20 });
  files.set('a.csv', { text: 'first', changedMs: 10 });
  files.set('~lock.csv', { text: 'x', changedMs: 5 });
  files.set('held.csv', { text: 'held', changedMs: 30, held: true } as never);
  await after(0);
  files.set('b.csv', { text: 'second and more', changedMs: 25 });
  await after(1900);
  expect([sent, watched.waiting]).toEqual([[], 2]);
  await after(200);
  await after(2000);
  expect(sent).toEqual(['a.csv', 'b.csv']);
  expect(said).toEqual(['a.csv: taken as A·1', 'b.csv: taken as A·2']);
  expect(kept).toHaveLength(2);
  files.set('copy of a.csv', { text: 'first', changedMs: 40 });
  files.set('held.csv', { text: 'held', changedMs: 30 });
  away = true;
  await after(0);
  await expect(after(2100)).rejects.toThrow('no line');
  away = false;
  await after(700);
  expect(sent).toEqual(['a.csv', 'b.csv', 'held.csv']);
  expect(watched.waiting).toBe(0);
});
