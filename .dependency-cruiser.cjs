/** The import rule of the house: who may import whom. Held by `npm test`. */
const only = (from, allowed) => ({
  name: `${from}-imports-only-${allowed.join('-') || 'itself'}`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: {
    path: '^(core|media|engine|contract|server|web|cli|demo|e2e|tools)/',
    pathNot: `^(${[from, ...allowed].join('|')})/`,
  },
});

module.exports = {
  forbidden: [
    only('core', []),
    only('contract', ['core']),
    only('media', ['core']),
    only('engine', ['core', 'media']),
    only('server', ['core', 'media', 'engine', 'contract']),
    only('web', ['core', 'contract']),
    only('cli', ['core', 'media', 'engine', 'contract', 'server']),
    only('demo', ['core', 'media']),
    {
      name: 'core-is-pure',
      comment: 'core has no Node, DOM, disk, network or clock; Zod, re2js and papaparse are its only packages',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: {
        dependencyTypes: ['core', 'npm', 'npm-dev'],
        pathNot: 'node_modules/(zod|re2js|papaparse|@types/papaparse)/',
      },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true, dependencyTypesNot: ['type-only'] } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|build|node_modules/\\.cache)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'],
    },
  },
};
