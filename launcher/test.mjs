import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { startCluster } from './cluster.mjs';
import { ensureBuilt, ensureDebian, ensurePackages } from './install.mjs';
import { ROOT, run } from './run.mjs';

/** A database for each group of tests that must not see the others' rows. */
const DATABASES = [
  ...['server', 'papers', 'browser', 'live', 'day', 'old', 'load', 'away'],
  ...[
    'rough',
    'doors',
    'people',
    'team',
    'fuzz',
    'heavy',
    'hostile',
    'lists',
    'records',
    'bays',
    'signin',
    'second',
    'document',
    'speed',
    'measures',
    'beside',
    'kinds',
    'logs',
    'times',
    'files',
    'dropped',
    'watched',
    'folder',
    'shootout',
    'parts',
    'seals',
    'memory',
    'proof',
  ],
];

/** What prints figures and judges none of them runs when it is asked for by its path. */
const WITHOUT_FIGURES = ['--testPathIgnorePatterns', '/node_modules/', '/dist/', 'e2e/speed.test.ts'];

/**
 * Every check and test in turn, or only the tests of these paths; the last line counts them. @returns exit code
 */
export async function runTests(paths = []) {
  await ensurePackages();
  const node = process.execPath;
  const lint = ['--max-old-space-size=4096', 'node_modules/eslint/bin/eslint.js', '.'];
  // The longest check reads sources alone: it runs beside the build and the others.
  const linted = paths.length > 0 ? null : run(node, lint, { quiet: true });
  await ensureDebian(['chromium', 'chromium-driver'], 'The browser tests');
  await ensureBuilt({ web: true });
  let passed = 0;
  let failed = 0;
  const steps = [
    ['formatter', ['node_modules/prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.']],
    [
      'rooms',
      [
        'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
        '--config',
        '.dependency-cruiser.cjs',
        '--output-type',
        'err',
        'core',
        'formats',
        'simulator',
        'instruments',
        'presentation',
        'cli',
        'server',
        'web',
        'e2e',
      ],
    ],
    ['picture of the rooms', ['launcher/architecture.mjs', '--check']],
    ['types', ['node_modules/typescript-7/bin/tsc', '-b']],
    ['schemas of the API', ['launcher/coreSchemas.mjs', '--check']],
    ['types of the API', ['launcher/apiTypes.mjs', '--check']],
    [
      'types of the tests',
      [
        'node_modules/typescript-7/bin/tsc',
        '-p',
        'tsconfig.tests.json',
        '--noEmit',
        '--emitDeclarationOnly',
        'false',
        '--composite',
        'false',
      ],
    ],
    ['lint', lint],
  ];
  const checks = paths.length > 0 ? [] : steps;
  for (const [name, args] of checks) {
    const { code, output } = await (args === lint ? linted : run(node, args, { quiet: true }));
    console.log(`${code === 0 ? 'ok    ' : 'FAILED'} ${name}`);
    if (code !== 0) console.log(output.trim().split('\n').slice(-60).join('\n'));
    if (code === 0) passed += 1;
    else failed += 1;
  }
  const folder = join(ROOT, '.prandel', `test-${process.pid}`);
  const report = join(folder, 'jest.json');
  const cluster = await startCluster(folder, {
    fast: true,
    databases: DATABASES.map((name) => `prandel_${name}`),
  });
  try {
    const env = {
      ...process.env,
      DATABASE_URL: cluster.url,
      ...Object.fromEntries(
        DATABASES.map((name) => [
          `${name.toUpperCase()}_DATABASE_URL`,
          cluster.url.replace('prandel_server', `prandel_${name}`),
        ]),
      ),
      NODE_OPTIONS: '--experimental-vm-modules --no-warnings',
    };
    const { code } = await run(
      node,
      [
        'node_modules/jest/bin/jest.js',
        '--maxWorkers=3',
        '--json',
        `--outputFile=${report}`,
        ...(paths.length > 0 ? paths : WITHOUT_FIGURES),
      ],
      { env },
    );
    const counts = JSON.parse(readFileSync(report, 'utf8'));
    passed += counts.numPassedTests;
    failed += counts.numFailedTests + counts.numRuntimeErrorTestSuites;
    if (code !== 0 && counts.numFailedTests + counts.numRuntimeErrorTestSuites === 0) failed += 1;
  } finally {
    await cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  console.log(`${passed} passed, ${failed} failed`);
  return failed === 0 ? 0 : 1;
}
