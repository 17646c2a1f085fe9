// Puts the server and the thread of its heavy work into a few files of server/dist/bundle, which load in half the time of two
// thousand. The compiled files stay beside them, for who changes the code.
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { rolldown } from 'rolldown';
import { ROOT } from './run.mjs';

/** Packages that stay by themselves: native ones, those with state that two copies would split, and CommonJS that does not bear it. */
const OUTSIDE = [
  ...['@node-rs/argon2', 'piscina', 'reflect-metadata', 'class-transformer', 'class-validator'],
  ...['pg', 'pg-boss', 'pino', 'ws'],
  ...['@nestjs/microservices', '@nestjs/websockets', '@fastify/static', 'pg-native'],
];

const isOutside = (id) => OUTSIDE.some((name) => id === name || id.startsWith(`${name}/`));
const folder = join(ROOT, 'server/dist/bundle');
const bundle = await rolldown({
  cwd: join(ROOT, 'server'),
  input: { main: 'dist/main.js', worker: 'dist/work/worker.js' },
  platform: 'node',
  external: isOutside,
  // Nest looks for packages of its own that are not installed, and asks for them in a try.
  checks: { unresolvedImport: false, mixedExports: false, circularDependency: false },
});
rmSync(folder, { recursive: true, force: true });
// Nest names what it makes after its class.
await bundle.write({ dir: folder, format: 'esm', keepNames: true, entryFileNames: '[name].js' });
await bundle.close();
