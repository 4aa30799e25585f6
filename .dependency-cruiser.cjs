/** The import rule of the house: who may import whom. Held by `npm test`. */
const only = (from, allowed) => ({
  name: `${from}-imports-only-${allowed.join('-') || 'itself'}`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: {
    path: '^(core|media|engine|contract|server|web|cli|demo|desk|e2e|tools)/',
    pathNot: `^(${[from, ...allowed].join('|')})/`,
  },
});

/** Folders of a package in their order: none imports one that comes after it. @param base what all of them may import */
const layers = (root, folders, base = '^$') =>
  folders.slice(0, -1).map((folder, at) => ({
    name: `${root}-${folder}-imports-nothing-above`,
    severity: 'error',
    from: { path: `^${root}/${folder}/`, pathNot: '\\.test\\.' },
    to: { path: `^${root}/(${folders.slice(at + 1).join('|')})/`, pathNot: base },
  }));

module.exports = {
  forbidden: [
    // Rates are exact fractions that everything counts in.
    ...layers('core', ['numbering', 'timing', 'pixels', 'spec', 'plan'], '^core/timing/rate\\.ts$'),
    ...layers('web', ['pieces', 'stage', 'pages']),
    {
      name: 'pages-stand-apart',
      comment: 'what pages share lies in pieces, stage or state',
      severity: 'error',
      from: { path: '^web/pages/([^/]+)/', pathNot: '\\.test\\.' },
      to: { path: '^web/pages/[^/]+/', pathNot: '^web/pages/$1/' },
    },
    only('core', []),
    only('contract', ['core']),
    only('media', ['core']),
    only('engine', ['core', 'media']),
    only('server', ['core', 'media', 'engine', 'contract', 'desk']),
    // What it believes it reads with code of its own.
    only('desk', []),
    only('web', ['core', 'contract']),
    only('cli', ['core', 'engine']),
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
    {
      name: 'packages-are-named',
      comment: 'a package names in its own package.json what it imports',
      severity: 'error',
      from: { pathNot: '\\.test\\.' },
      to: {
        dependencyTypes: ['npm-no-pkg', 'npm-unknown'],
        pathNot: '^node_modules/@shale|^(core|media|engine|contract|server|web|cli|demo|desk)/',
      },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true, dependencyTypesNot: ['type-only'] } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|build|node_modules/\\.cache)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'],
    },
  },
};
