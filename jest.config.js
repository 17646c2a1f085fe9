const swc = {
  jsc: {
    target: 'es2023',
    parser: { syntax: 'typescript', decorators: true, tsx: true },
    transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
  },
  module: { type: 'es6' },
};

export default {
  testEnvironment: 'node',
  testEnvironmentOptions: { customExportConditions: ['prandel-source', 'node', 'node-addons'] },
  roots: ['core', 'formats', 'simulator', 'instruments', 'presentation', 'cli', 'server', 'web', 'e2e'].map(
    (room) => `<rootDir>/${room}`,
  ),
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  testPathIgnorePatterns: ['/node_modules/', '/dist/'],
  modulePathIgnorePatterns: ['/dist/'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.tsx?$': ['@swc/jest', swc] },
  setupFiles: ['<rootDir>/web/src/test/browserGlobals.ts'],
  testTimeout: 180000,
  testSequencer: '<rootDir>/jest.sequencer.js',
};
