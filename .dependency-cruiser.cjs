/** Which room may import which: the house plan, enforced. */
const rooms = {
  core: [],
  formats: ['core'],
  simulator: ['core'],
  instruments: ['core', 'formats', 'simulator'],
  presentation: ['core'],
  cli: ['core', 'formats', 'presentation', 'simulator'],
  server: ['core', 'formats', 'simulator', 'presentation'],
  web: ['core', 'presentation', 'formats'],
  e2e: ['simulator', 'instruments', 'core', 'formats'],
};
const all = Object.keys(rooms);

module.exports = {
  forbidden: [
    ...all.map((room) => {
      const other = all.filter((name) => name !== room && !rooms[room].includes(name));
      return {
        name: `${room}-keeps-to-its-rooms`,
        severity: 'error',
        from: { path: `^${room}/` },
        to: { path: `^(${other.join('|')})/` },
      };
    }),
    {
      name: 'core-does-no-io',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      // The rest of formats needs Node; what a browser may use is behind this one door.
      name: 'web-takes-of-formats-only-the-seal',
      severity: 'error',
      from: { path: '^web/' },
      to: { path: '^formats/', pathNot: '^formats/src/seal/index\\.ts$' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'nothing-missing',
      severity: 'error',
      from: { path: '^[a-z0-9]+/' },
      to: { couldNotResolve: true, pathNot: '\\.css$|^vite/client$' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)dist/' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['prandel-source', 'import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.cjs', '.json'],
    },
  },
};

// For the picture in docs/architecture.md; not enumerable, so that dependency-cruiser does not see it.
Object.defineProperty(module.exports, 'rooms', { value: rooms });
