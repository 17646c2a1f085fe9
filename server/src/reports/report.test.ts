import { beforeAll, describe, expect, test } from '@jest/globals';
import { measureWords, USUAL_UNITS } from '@prandel/presentation';
import { factsNamed, isCurved, judgeJob, USUAL_DAY, type Job } from '@prandel/core';
import { demoJobs } from '@prandel/simulator';
import { madeFrames, type MadeFrame } from '../frames/madeFrames.ts';
import { reportHtml, unitsOf } from './reportHtml.ts';

const caller = { shop: 'Quillmoor Garage', name: 'Ines R.', units: {} };
let jobs: Job[];
const about = (words: string) => jobs.find((job) => job.title.includes(words))!;
const frames = new Map<string, MadeFrame[]>();
const pages = new WeakMap<Job, Map<string, string>>();
/** The page of a job as it stands, made once for all tests that look at it. */
const html = (job: Job, units: Record<string, string> = {}) => {
  const own = pages.get(job) ?? new Map<string, string>();
  pages.set(job, own);
  const key = JSON.stringify(units);
  const page = own.get(key) ?? made(job, units);
  own.set(key, page);
  return page;
};
const made = (job: Job, units: Record<string, string>) => {
  // Samples, rollers and car of a job stay as they are in all of these tests; what is written around them changes.
  const key = [job.title, ...job.pulls.map((p) => `${p.id} ${p.status}`)].join();
  const of = frames.get(key) ?? madeFrames({ job, wanted: job.pulls.map((p) => p.id), known: [] });
  frames.set(key, of);
  const framed = {
    job,
    frames: of.map(({ pull, frame }) => [pull, frame] as const),
    samples: new Map(of.map((m) => [m.pull, m.samplesSha256])),
  };
  return reportHtml(framed, { ...caller, units });
};
/** What a customer reads: the text without markup, styles and charts. */
const read = (job: Job, units = {}) =>
  html(job, units)
    .replace(/<style[\s\S]*?<\/style>|<svg[\s\S]*?<\/svg>/g, ' ')
    .replace(/<[^>]+>/g, ' ')
    .replace(/&#x27;/g, "'")
    .replace(/&amp;/g, '&')
    .replace(/\s+/g, ' ');

beforeAll(() => {
  jobs = demoJobs();
});

describe('the report of a job', () => {
  test('opens with no network: fonts, styles and charts are inside, nothing is fetched or run', () => {
    for (const job of jobs) {
      const page = html(job);
      expect(page).toMatch(/^<!doctype html>/i);
      expect(page).not.toMatch(/<script|<link|<iframe|@import|https?:\/\/(?!www\.w3\.org)/);
      for (const [, where] of page.matchAll(/(?:src|href|url)\s*[=(]\s*["']?([^"')\s>]+)/g))
        expect(where).toMatch(/^(data:|#)/);
      expect(page).toContain('@page');
    }
  });

  test('says the result in the first words, as the verdict does, and never more', () => {
    for (const job of jobs) {
      const { verdicts } = judgeJob(job);
      const text = read(job);
      for (const v of verdicts) {
        const curved = isCurved(factsNamed(v.measure));
        const { subject, lower, higher } = measureWords(v.measure);
        const own = (v.gain?.value ?? 0) < 0 ? lower : higher;
        const sentence = {
          'verified-gain': curved ? 'more at the wheels than before' : `${own} than before`,
          'verified-loss': curved ? 'less at the wheels than before' : `${own} than before`,
          'no-meaningful-change': curved ? 'nothing changed that would matter' : 'is as before',
          'not-resolved': `cannot tell whether ${curved ? 'anything changed' : subject}`,
          'not-comparable': 'no result is claimed',
        }[v.verdict];
        expect(text).toContain(sentence);
        expect(text.indexOf(sentence)).toBeLessThan(text.indexOf('Measured curves'));
      }
      if (!verdicts.some((v) => v.verdict === 'verified-gain' && isCurved(factsNamed(v.measure))))
        expect(text).not.toContain('more at the wheels than before');
    }
  });

  test('lists every pull, those set aside with their reason and those marked with their mark', () => {
    const job = about('electric cooling fan');
    const marked: Job = {
      ...job,
      pulls: job.pulls.map((p, i) =>
        i === 4 ? { ...p, marks: ['Gate overridden (No time left): Oil: too warm'] } : p,
      ),
    };
    const text = read(marked);
    const aside = job.pulls.filter((p) => p.status === 'set-aside');
    expect(aside.length).toBeGreaterThan(0);
    for (const p of aside) expect(text).toContain(`set aside, ${p.reason}.`);
    expect(text).toContain('Gate overridden (No time left): Oil: too warm.');
    expect(text).toMatch(/How the number came about.*Means of the curves, as measured.*This day sees from ±\d\.\d %/s);
    const rows = html(marked).match(/<tr class="(settle|counted|aside)">/g) ?? [];
    expect(rows).toHaveLength(job.pulls.length);
  });

  test('states the question, correction, averaging, conditions, digest and who made it', () => {
    const job = about('gear oil');
    const text = read(job);
    expect(text).toContain(job.question.text || job.title);
    for (const words of ['SAE J1349', '200 rpm', 'Quillmoor Garage', 'Ines R.', 'Read with care', 'not engine power'])
      expect(text).toContain(words);
    expect(text).toMatch(/Digest of all inputs: [0-9a-f]{64}/);
    const digest = /inputs: ([0-9a-f]{64})/.exec(text)![1]!;
    expect(read(job)).toContain(digest);
    const other = { ...job, pulls: job.pulls.map((p, i) => (i === 0 ? { ...p, airC: p.airC! + 0.1 } : p)) };
    expect(read(other)).not.toContain(digest);
  });

  test('a pair that cannot be compared names the condition and claims nothing', () => {
    const text = read(about('shroud'));
    expect(text).toContain('Not comparable');
    expect(text).toMatch(/Intake air at start .* beyond 8 °C the pair is not comparable/);
    expect(text).not.toContain('Verified gain');
  });

  test('what could not be controlled is said: no return check, or that none was possible', () => {
    const job = about('electric cooling fan');
    const without: Job = {
      ...job,
      setups: job.setups.filter((s) => s.id !== 'A2'),
      pulls: job.pulls.filter((p) => p.setupId !== 'A2'),
      question: { ...job.question, plan: [{ setup: 'A', settle: 2, counted: 3 }] },
    };
    expect(read(job)).not.toContain('No return check');
    expect(read(without)).toContain('No return check was made.');
    const fixed: Job = { ...without, day: { ...USUAL_DAY, cannotBeUndone: 'The bracket was cut.' } };
    expect(read(fixed)).toContain('No return check was possible. The bracket was cut.');
    expect(read(fixed)).not.toContain('No return check was made.');
    const shut: Job = { ...job, setups: job.setups.map((s) => ({ ...s, closedCourseOnly: s.id === 'B' })) };
    expect(read(shut)).toContain('Closed course only.');
    expect(read(job)).not.toContain('Closed course only.');
  });

  test('says what was done to the car, by whom and how long, what else was disturbed, and which photos prove it', () => {
    const job = about('electric cooling fan');
    const photo = { path: 'photos/ab.png', name: 'fan in place.png', sha256: 'ab'.repeat(32), addedAt: '' };
    const day = {
      ...job.day!,
      fittings: job.day!.fittings.map((f) => (f.setup === 'B' ? { ...f, photos: [photo] } : f)),
    };
    const text = read({ ...job, day });
    expect(text).toMatch(/How the day was run House method/);
    expect(text).toMatch(/B \d\d:\d\d–\d\d:\d\d, 54 min Ines R\. belt-driven fan off, electric fan on/);
    expect(text).toContain('Photo in the job package: fan in place.png (SHA-256 abababababab…)');
    expect(text).toContain('top radiator hose electric fan, relay, shroud bracket, 210');
    expect(text).toContain('The reference is the car as it arrived: a worn or dirty old part');
    // C carries the fan of B as well: two things against the baseline.
    expect(text).toContain('C differs from A in 2 things: electric cooling fan, insulated manifold gasket.');
    expect(read(about('gear oil'))).not.toContain('How the day was run');
  });

  test('a house that wants other ways of judging or the peak large gets them larger, never instead of the verdict', () => {
    const job = about('electric cooling fan');
    const where = (text: string) => text.indexOf('How other ways of judging') < text.indexOf('Measured curves');
    expect(where(read(job))).toBe(false);
    expect(read(job)).not.toContain('Peak of the mean:');
    const schools = { ...job.method.schools, whichPullsSpeak: 'beside', peakOrCurve: 'peak' };
    const other = read({ ...job, method: { ...job.method, schools } });
    expect(where(other)).toBe(true);
    expect(other).toMatch(
      /Peak of the mean: 118\.\d kW at \d{4} rpm against 115\.\d kW at \d{4} rpm with A; single points, no ±\./,
    );
    expect(other.indexOf('more at the wheels than before')).toBeLessThan(other.indexOf('Peak of the mean:'));
  });

  test('speaks the units a person chose, in figures and charts alike', () => {
    const job = about('electric cooling fan');
    const kw = /between (\d+\.\d) and (\d+\.\d) kW more/.exec(read(job))!;
    const hp = /between (\d+\.\d) and (\d+\.\d) hp more/.exec(read(job, { ...USUAL_UNITS, power: 'hp' }))!;
    // 1 mechanical horsepower is 745.69987158 W (NIST SP 811); both ends were rounded to a tenth.
    for (const end of [1, 2]) expect(Math.abs(Number(hp[end]) / 1.341022 - Number(kw[end]))).toBeLessThan(0.16);
    expect(unitsOf({ power: 'PS', temperature: '°F' })).toEqual({ ...USUAL_UNITS, power: 'PS', temperature: '°F' });
    expect(unitsOf({ power: 'furlongs' })).toEqual(USUAL_UNITS);
  });

  test('words from outside cannot become markup', () => {
    const job = about('gear oil');
    const sly: Job = {
      ...job,
      title: '<script>alert(1)</script>',
      question: { ...job.question, text: '"><img src=x onerror=alert(1)>' },
      setups: job.setups.map((s) => ({ ...s, label: `${s.label}</svg><b onmouseover=x>` })),
      pulls: job.pulls.map((p, i) => (i === 3 ? { ...p, status: 'set-aside', reason: '<iframe src=x>' } : p)),
    };
    const page = html(sly);
    expect(page).not.toMatch(/<script|<img|<iframe|<b onmouseover/);
    expect(page).toContain('&lt;img src=x');
  });
});
