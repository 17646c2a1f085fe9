import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from '@jest/globals';
import * as core from './index.ts';

// Every function of the public door shows one example in its docstring; here each is worked out and held against what it says.
const SRC = fileURLToPath(new URL('.', import.meta.url));

interface Documented {
  readonly name: string;
  readonly doc: string;
  readonly body: string;
}

const documented: Documented[] = readdirSync(SRC, { recursive: true, encoding: 'utf8' })
  .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'))
  .flatMap((name) => {
    const text = readFileSync(join(SRC, name), 'utf8');
    return [...text.matchAll(/(\/\*\*(?:(?!\*\/)[\s\S])*\*\/\n)?^export function (\w+)[\s\S]*?^}\n/gm)].map(
      ([body, doc = '', own]) => ({ name: own!, doc, body }),
    );
  })
  .filter(({ name }) => name in core);

/** Works an expression out with everything of the door in reach. */
function worth(expression: string): unknown {
  // eslint-disable-next-line @typescript-eslint/no-implied-eval -- docstrings are ours
  return (new Function(...Object.keys(core), `return (${expression})`) as (...all: unknown[]) => unknown)(
    ...Object.values(core),
  );
}

/** A number agrees to the six significant digits that are shown. */
function agrees(value: unknown, shown: string): void {
  const wanted = worth(shown);
  if (typeof value !== 'number' || typeof wanted !== 'number') return expect(value).toEqual(wanted);
  expect(Math.abs(value - wanted)).toBeLessThanOrEqual(0.51e-5 * Math.max(Math.abs(value), 1e-9));
}

describe('the public functions of core', () => {
  test('are all found', () => {
    expect(documented.length).toBeGreaterThan(110);
  });

  test.each(documented.map((d) => [d.name, d] as const))('%s does what its example says', (_, { doc, body }) => {
    const example = /@example ([\s\S]*?)\s*\/\/ (.*)\n/.exec(doc);
    expect(example).not.toBeNull();
    agrees(worth(example![1]!.replace(/\n \* ?/g, ' ')), example![2]!.trim());
    if (/\bthrow new\b/.test(body)) expect(doc).toContain('@throws');
  });
});
