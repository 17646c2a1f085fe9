import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { ROOT } from './run.mjs';

/**
 * Draws docs/architecture.md's picture of the rooms from the rules that CI enforces, so that it cannot be out of date.
 * `node launcher/architecture.mjs` writes it, `--check` only tells whether it is as it should be (exit code 1 when not).
 */
const { rooms } = createRequire(import.meta.url)('../.dependency-cruiser.cjs');
const FILE = join(ROOT, 'docs/architecture.md');
const [BEGIN, END] = ['<!-- rooms: begin, made by launcher/architecture.mjs -->', '<!-- rooms: end -->'];
const lines = Object.entries(rooms).flatMap(([room, may]) => may.map((other) => `  ${room} --> ${other}`));
const picture = ['```mermaid', 'flowchart BT', ...lines, '```'].join('\n');
const before = readFileSync(FILE, 'utf8');
const [head, rest] = before.split(BEGIN);
const after = `${head}${BEGIN}\n\n${picture}\n\n${END}${rest.split(END)[1]}`;
if (process.argv.includes('--check')) process.exitCode = after === before ? 0 : 1;
else writeFileSync(FILE, after);
