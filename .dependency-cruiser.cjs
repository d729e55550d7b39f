// Who may import whom. Each folder has one reason to change; what is not allowed here is forbidden.
const MAY = {
  core: [],
  venue: ['core', 'store/venue', 'store/database'],
  // How answers look is said once, in the schemas: the desk takes their types.
  desk: ['core', 'venue/messages', 'prices/messages', 'schemas'],
  prices: ['core', 'venue/messages'],
  store: ['core'],
  access: [],
  schemas: ['core'],
  pages: ['desk', 'access', 'prices/messages', 'schemas', 'core', 'views', 'kit'],
  live: ['core', 'schemas'],
  client: ['core', 'live', 'schemas'],
  views: ['client', 'live', 'kit', 'core', 'schemas'],
  kit: [],
  workers: ['core'],
};

const rules = Object.entries(MAY).map(([folder, allowed]) => ({
  name: `${folder}-imports`,
  severity: 'error',
  from: { path: `^src/${folder}/` },
  to: { path: '^(src|demo|test|bench)/', pathNot: `^src/(${[folder, ...allowed].join('|')})(/|\\.ts$|$)` },
}));

module.exports = {
  forbidden: [
    ...rules,
    {
      name: 'core-folders-by-their-index',
      comment: 'Nothing reaches inside a folder of core: its index.ts lists what others may use.',
      severity: 'error',
      from: { path: '^src/', pathNot: '^src/core/' },
      to: { path: '^src/core/[^/]+/', pathNot: '^src/core/[^/]+/index\\.ts$' },
    },
    {
      name: 'core-folders-among-themselves',
      severity: 'error',
      from: { path: '^src/core/([^/]+)/' },
      to: { path: '^src/core/[^/]+/', pathNot: ['^src/core/$1/', '^src/core/[^/]+/index\\.ts$'] },
    },
    { name: 'core-is-pure', severity: 'error', from: { path: '^src/core/' }, to: { dependencyTypes: ['core'] } },
    { name: 'nothing-imports-start', severity: 'error', from: { path: '^src/', pathNot: '^src/start/' }, to: { path: '^src/start/' } },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
  ],
  options: { tsConfig: { fileName: 'tsconfig.json' }, tsPreCompilationDeps: true, doNotFollow: { path: 'node_modules' }, exclude: { path: '\\.astro$' } },
};
