import { createHash, createPrivateKey, createPublicKey, sign } from 'node:crypto';
import { describe, expect, test } from '@jest/globals';
import { newJob, newPull, newSetup, type Pull } from '@prandel/core';
import fc from 'fast-check';
import { linked } from '../evidence/chain.ts';
import { readPackage } from '../jobPackage/readPackage.ts';
import { unzipHere } from '../jobPackage/unzipHere.ts';
import { unzip, zip } from '../jobPackage/zip.ts';
import { writePackage } from '../jobPackage/writePackage.ts';
import { canonicalJson } from './canonicalJson.ts';
import { loggedDigests, pullDigest } from './pullDigests.ts';
import { plainSha256, sha256Text } from './sha256.ts';
import { fingerprint, signatureHolds } from './signature.ts';

const base64 = (hex: string) => Buffer.from(hex, 'hex').toString('base64');

describe('signatures', () => {
  // RFC 8032, section 7.1, TEST 1 and TEST 2 (secret key, public key, message, signature).
  const SECRET = '9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60';
  const PUBLIC = 'd75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a';
  const SIGNATURE =
    'e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b';
  const SECOND = {
    key: '3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c',
    signature:
      '92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00',
  };

  test('RFC 8032 section 7.1: tests 1 and 2 hold, and what the platform signs is what is checked here', () => {
    expect(signatureHolds(new Uint8Array(), base64(SIGNATURE), base64(PUBLIC))).toBe(true);
    expect(signatureHolds(new Uint8Array([0x72]), base64(SECOND.signature), base64(SECOND.key))).toBe(true);
    expect(signatureHolds(new Uint8Array([0x73]), base64(SECOND.signature), base64(SECOND.key))).toBe(false);
    const pkcs8 = Buffer.concat([Buffer.from('302e020100300506032b657004220420', 'hex'), Buffer.from(SECRET, 'hex')]);
    const key = createPrivateKey({ key: pkcs8, format: 'der', type: 'pkcs8' });
    expect(sign(null, Buffer.alloc(0), key).toString('hex')).toBe(SIGNATURE);
    expect(createPublicKey(key).export({ format: 'jwk' }).x).toBe(Buffer.from(PUBLIC, 'hex').toString('base64url'));
  });

  test('what is no key or no signature does not hold, and nothing is thrown (property)', () => {
    fc.assert(
      fc.property(fc.uint8Array(), fc.string(), fc.string(), (message, signature, key) => {
        expect(signatureHolds(message, signature, key)).toBe(false);
      }),
    );
  });

  test('a fingerprint is sixteen groups of four digits of the key’s SHA-256', () => {
    const digest = createHash('sha256').update(Buffer.from(PUBLIC, 'hex')).digest('hex');
    expect(fingerprint(base64(PUBLIC))).toMatch(/^([0-9a-f]{4} ){15}[0-9a-f]{4}$/);
    expect(fingerprint(base64(PUBLIC)).replaceAll(' ', '')).toBe(digest);
  });
});

describe('canonical JSON', () => {
  test('the sample of RFC 8785, section 3.2', () => {
    const sample = JSON.parse(
      String.raw`{"numbers":[333333333.33333329,1E30,4.50,2e-3,0.000000000000000000000000001],"string":"\u20ac$\u000F\u000aA'\u0042\u0022\u005c\\\"\/","literals":[null,true,false]}`,
    ) as unknown;
    expect(canonicalJson(sample)).toBe(
      String.raw`{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],"string":"€$\u000f\nA'B\"\\\\\"/"}`,
    );
  });

  test('members stand in the order of their UTF-16 code units (the example of RFC 8785, section 3.2.3)', () => {
    const names = ['\u20ac', '\r', '\ufb33', '1', '\ud83d\ude00', '\u0080', '\u00f6'];
    const text = canonicalJson(Object.fromEntries(names.map((n) => [n, 0])));
    expect(Object.keys(JSON.parse(text) as object)).toHaveLength(7);
    const places = ['\\r', '1', '\u0080', '\u00f6', '\u20ac', '\ud83d\ude00', '\ufb33'].map((n) =>
      text.indexOf(`"${n}"`),
    );
    expect(places).toEqual(places.toSorted((a, b) => a - b));
    expect(places[0]).toBeGreaterThan(0);
  });
});

describe('what the log keeps of pulls', () => {
  const value = fc.oneof(fc.double(), fc.constantFrom(NaN, -0, 0, 1e-300, 5e-324));
  const text = fc.oneof(
    fc.constant(null),
    fc.string().map((s) => s.replace(/[^ -~]/g, '')),
  );
  const maybe = (min: number, max: number) => fc.option(fc.double({ min, max, noNaN: true }));
  const pulls = fc.record({
    values: fc.array(fc.tuple(value, value), { minLength: 1, maxLength: 12 }),
    short: fc.boolean(),
    ...{ reason: text, airC: maybe(-20, 50), intakeStartC: maybe(-20, 90), pressureHpa: maybe(900, 1050) },
  });

  function made({ values, short, reason, airC, intakeStartC, pressureHpa }: Made): Pull {
    return {
      ...newPull('A·1', 'A', 1),
      ...{ status: 'set-aside', reason, airC, intakeStartC, pressureHpa },
      ...{
        startedAt: '2026-05-02T08:20:00.000Z',
        numberState: { kind: 'scaled', factor: 1.07 },
        marks: ['cable lost'],
      },
      channels: [
        { name: 'time_s', values: Float64Array.from(values, (_, i) => i / 10) },
        {
          name: 'b_c',
          values: Float64Array.from(short ? values.slice(1) : values, ([b]) => (Math.abs(b) > 1e4 ? 0 : b)),
        },
        { name: 'a_c', values: Float64Array.from(values, ([, a]) => (Math.abs(a) > 1e4 ? 1 : a)) },
      ],
    };
  }
  interface Made {
    values: [number, number][];
    short: boolean;
    reason: string | null;
    airC: number | null;
    intakeStartC: number | null;
    pressureHpa: number | null;
  }

  test('a pull that went through a package has the digests that it had before (property)', async () => {
    await fc.assert(
      fc.asyncProperty(pulls, async (facts) => {
        const pull = made(facts);
        const job = {
          ...newJob('1', 'x'),
          setups: [newSetup('A', 'as arrived'), newSetup('B', 'part', 'A')],
          pulls: [pull],
        };
        const bytes = await zip(writePackage(job));
        const back = readPackage(await unzip(bytes)).job.pulls[0]!;
        expect(pullDigest(back)).toEqual(pullDigest(pull));
        // The way of a browser gives the same files.
        expect([...unzipHere(bytes)].map(([path, own]) => [path, plainSha256([own])])).toEqual(
          [...(await unzip(bytes))].map(([path, own]) => [path, plainSha256([own])]),
        );
      }),
      { numRuns: 60 },
    );
  });

  test('a sample, a status and a temperature each change their digest and not the other', () => {
    const pull = made({
      values: [
        [1, 2],
        [3, 4],
      ],
      short: false,
      reason: null,
      airC: 20,
      intakeStartC: 30,
      pressureHpa: 1000,
    });
    const own = pullDigest(pull);
    const channels = pull.channels.map((c) => ({ ...c, values: c.values.map((v, i) => (i === 1 ? v + 1e-12 : v)) }));
    expect(pullDigest({ ...pull, channels })).toEqual({
      samples: expect.not.stringMatching(own.samples!),
      facts: own.facts,
    });
    for (const other of [{ status: 'counted' }, { airC: 20.1 }, { round: 2 }, { setupId: 'B' }, { marks: [] }] as const)
      expect(pullDigest({ ...pull, ...other })).toEqual({
        samples: own.samples,
        facts: expect.not.stringMatching(own.facts),
      });
  });

  test('of several events the last one speaks, and one that tells facts alone leaves the samples', () => {
    const event = (detail: unknown) => ({
      ...{ at: '', person: 'x', kind: 'pull', what: '' },
      detail: JSON.stringify(detail),
    });
    const first = linked(
      null,
      event({ digests: { 'A·1': { samples: 's1', facts: 'f1' }, 'A·2': { samples: null, facts: 'g' } } }),
    );
    const second = linked(first, event({ digests: { 'A·1': { facts: 'f2' } } }));
    const third = linked(second, { ...event({}), detail: '{"digests": broken' });
    expect(Object.fromEntries(loggedDigests([first, second, third]))).toEqual({
      'A·1': { samples: 's1', facts: 'f2' },
      'A·2': { samples: null, facts: 'g' },
    });
  });
});

test('SHA-256 of "abc" (FIPS 180-4, example)', () => {
  expect(sha256Text('abc')).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
});
