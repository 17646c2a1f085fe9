import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { VERDICTS } from '@prandel/core';
import { writePackage, zip } from '@prandel/formats';
import { DEMO_DAYS, simulateDay } from '@prandel/simulator';
import { NEW_JOB, TestShop, upload } from '../test/shop.ts';

let shop: TestShop;
const ask: TestShop['ask'] = (...asked) => shop.ask(...asked);
beforeAll(async () => {
  shop = await TestShop.open(process.env.LISTS_DATABASE_URL);
});
afterAll(() => shop?.close());

describe('lists of jobs', () => {
  test('a list of many jobs is paged by key: every job once, newest first', async () => {
    for (let i = 0; i < 53; i += 1) await ask('POST', '/api/jobs', { ...NEW_JOB, title: `Question ${i}` });
    const seen: string[] = [];
    let after = '';
    for (let page = 0; page < 5; page += 1) {
      const body = (await ask('GET', `/api/jobs${after ? `?after=${encodeURIComponent(after)}` : ''}`)).body as {
        jobs: { id: string; updatedAt: string }[];
        next: string | null;
      };
      seen.push(...body.jobs.map((j) => `${j.updatedAt} ${j.id}`));
      if (!body.next) break;
      after = body.next;
    }
    expect(seen.length).toBe(53);
    expect(new Set(seen).size).toBe(seen.length);
    expect(
      [...seen]
        .sort()
        .reverse()
        .map((s) => s.slice(0, 24)),
    ).toEqual(seen.map((s) => s.slice(0, 24)));
  });

  test('the list is ordered by any of its columns, either way, and pages follow one another in that order', async () => {
    const pages = async (order: string) => {
      const seen: string[] = [];
      for (let next: string | null = ''; next !== null;) {
        const { status, body } = await ask(
          'GET',
          `/api/jobs?${order}${next ? `&after=${encodeURIComponent(next)}` : ''}`,
        );
        expect(status).toBe(200);
        const page = body as { jobs: Record<string, string>[]; next: string | null };
        seen.push(...page.jobs.map((job) => `${job[/sort=(\w+)/.exec(order)![1]!]}~${job.id}`));
        ({ next } = page);
      }
      return seen;
    };
    for (const sort of ['number', 'title', 'vehicle']) {
      const rising = await pages(`sort=${sort}`);
      expect(rising.length).toBeGreaterThan(50);
      expect(new Set(rising).size).toBe(rising.length);
      const bytes = (a: string, b: string) => Buffer.compare(Buffer.from(a), Buffer.from(b));
      const byColumn = (a: string, b: string) =>
        bytes(a.slice(0, -37), b.slice(0, -37)) || bytes(a.slice(-36), b.slice(-36));
      expect(rising).toEqual([...rising].sort(byColumn));
      expect(await pages(`sort=${sort}&direction=falling`)).toEqual([...rising].reverse());
    }
    expect((await ask('GET', '/api/jobs?sort=shop')).status).toBe(400);
    expect(
      (await ask('GET', `/api/jobs?sort=opened&after=${crypto.randomUUID()}~2026-13-45%2000:00:00%2B00`)).status,
    ).toBe(400);
  });

  test('a list by verdict begins with verified gains, and pages go on where the last one ended', async () => {
    const take = async (day: number) => {
      const bytes = await zip(writePackage(simulateDay(DEMO_DAYS[day]!)));
      return ((await ask('POST', '/api/packages', upload('file', [['day.zip', bytes]]))).body as { id: string }).id;
    };
    const taken = [await take(4), await take(0)];
    const list = async (more = '') =>
      (await ask('GET', `/api/jobs?sort=verdict${more}`)).body as unknown as {
        jobs: { id: string; state: string; verdicts: { verdict: string }[] }[];
        next: string | null;
      };
    const known = async () =>
      (await list()).jobs.filter((job) => taken.includes(job.id) && job.state === 'judged').length === taken.length;
    for (let k = 0; k < 300 && !(await known()); k += 1) await new Promise((again) => setTimeout(again, 100));
    const first = await list();
    const ranks = first.jobs.map((job) =>
      Math.min(6, ...job.verdicts.map((v) => VERDICTS.indexOf(v.verdict as never) + 1)),
    );
    expect(ranks.slice(0, 2).every((rank) => rank < 6)).toBe(true);
    expect(ranks).toEqual([...ranks].sort((a, b) => a - b));
    const rest = await list(`&after=${encodeURIComponent(first.next!)}`);
    const ids = [...first.jobs, ...rest.jobs].map((job) => job.id);
    expect(new Set(ids).size).toBe(ids.length);
    const turned = (await list(`&direction=falling&after=${encodeURIComponent(first.next!)}`)).jobs;
    expect(turned.some((job) => rest.jobs.some(({ id }) => id === job.id))).toBe(false);
    expect((await ask('GET', '/api/jobs?sort=verdict&after=x~1')).status).toBe(400);
  });

  test('jobs are found by beginnings of words that all have to be there, and by verdict; a pattern is only a word', async () => {
    const found = async (search: string) => {
      const { status, body } = await ask('GET', `/api/jobs?${search}`);
      expect(status).toBe(200);
      const { jobs, total } = body as { jobs: { title: string }[]; total: number };
      expect(total).toBeGreaterThanOrEqual(jobs.length);
      return jobs.map(({ title }) => title);
    };
    const [setup] = NEW_JOB.setups;
    const body = {
      ...NEW_JOB,
      title: 'Searched 100% for',
      setups: [setup, { ...NEW_JOB.setups[1], label: 'Zephyrine duct' }],
    };
    const { id } = (await ask('POST', '/api/jobs', body)).body as { id: string };
    expect(await found('q=zephyRINE%20searched')).toEqual(['Searched 100% for']);
    expect(await found('q=zephyrine%20elsewhere')).toEqual([]);
    expect(await found('q=100%25')).toEqual(['Searched 100% for']);
    expect(await found('q=z%25phyrine')).toEqual([]);
    // Beginnings of words are enough, accents and case do not matter, the middle of a word is not its beginning.
    expect(await found('q=z%C3%A9ph%20SEARCH')).toEqual(['Searched 100% for']);
    expect(await found('q=phyrine')).toEqual([]);
    // Two letters may be the beginning of anything; in a number they are a part of it.
    expect(await found('q=zephyrine%20xq')).toEqual(['Searched 100% for']);
    expect(await found('q=zephyrine%20xqu')).toEqual([]);
    expect(await found('q=zephyrine&verdict=verified-gain')).toEqual([]);
    expect(await found(`q=zephyrine&from=${encodeURIComponent('2030-01-01T00:00:00.000Z')}`)).toEqual([]);
    const { version } = (await ask('GET', `/api/jobs/${id}`)).body as { version: number };
    expect((await ask('PATCH', `/api/jobs/${id}`, { version, title: 'Renamed' })).status).toBe(204);
    expect(await found('q=zephyrine%20renamed')).toEqual(['Renamed']);
    expect((await ask('GET', '/api/jobs?verdict=splendid')).status).toBe(400);
    expect((await ask('DELETE', `/api/jobs/${id}`)).status).toBe(204);
    expect(await found('q=zephyrine')).toEqual([]);
  });
});
