// Arrows point down only: apps → usecases → formats → core, stage → core, contracts → core. Nothing imports from an app.
const from = (path) => ({ path, pathNot: '\\.spec\\.ts$' });
const only = (name, path, allowed) => ({ name, severity: 'error', from: from(path), to: { path: '^(packages|apps)/', pathNot: [path, ...allowed] } });
/** The rooms of core from the ground up: each may know those before it. */
const ROOMS =
  'geometry image noise surface compile cost blocks light recognise coverage derive generate document mesh material blend terrain graph pack paint deliver'.split(
    ' ',
  );
const room = (name) => `^packages/core/src/${name}/`;
const knowsOnly = (name, i) => ({
  name: `core-${name}-knows-what-is-below`,
  severity: 'error',
  from: from(room(name)),
  to: { path: '^packages/core/src/[^/]+/', pathNot: ROOMS.slice(0, i + 1).map(room) },
});
/** Protocols and workers serve views, and the stage's room shows whatever stands behind its source: none of them knows a view. */
const knowsNoView = (path) => ({
  name: `no-view-below-${path.split('/').pop()}`,
  severity: 'error',
  from: from(`^${path}/`),
  to: { path: '^apps/web/src/views/' },
});
module.exports = {
  forbidden: [
    only('core-stands-alone', '^packages/core/', []),
    only('contracts-know-core', '^packages/contracts/', ['^packages/core/']),
    only('formats-know-core', '^packages/formats/', ['^packages/core/']),
    only('stage-knows-core', '^packages/stage/', ['^packages/core/']),
    only('usecases-know-formats-and-core', '^packages/usecases/', ['^packages/(core|formats)/']),
    only('no-app-imports-an-app-server', '^apps/server/', ['^packages/(core|formats|contracts|usecases)/']),
    only('no-app-imports-an-app-cli', '^apps/cli/', ['^packages/(core|formats|contracts|usecases)/']),
    only('no-app-imports-an-app-quarry', '^apps/quarry/', ['^packages/(core|formats)/']),
    // A device knows bundles, and nothing of who made them.
    only('no-app-imports-an-app-target', '^apps/target/', ['^packages/(core|formats|stage)/']),
    only('no-app-imports-an-app-web', '^apps/web/', ['^packages/']),
    // Validators of documents and requests are the server's: they would weigh on every page.
    {
      name: 'no-validators-in-the-browser',
      severity: 'error',
      from: from('^apps/web/'),
      to: { path: '^packages/contracts/src/(index|validate|api|documents)', dependencyTypesNot: ['type-only'] },
    },
    { name: 'core-is-pure', severity: 'error', from: from('^packages/core/'), to: { dependencyTypes: ['core'] } },
    { name: 'no-node-in-the-browser', severity: 'error', from: from('^(apps/(web|target)|packages/stage)/'), to: { dependencyTypes: ['core'] } },
    ...ROOMS.map(knowsOnly),
    ...['apps/web/src/workers', 'apps/web/src/services', 'apps/web/src/stage', 'apps/web/src/ui'].map(knowsNoView),
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'resolvable', severity: 'error', from: { pathNot: '\\.spec\\.ts$' }, to: { couldNotResolve: true } },
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.base.json' },
    doNotFollow: { path: 'node_modules' },
    exclude: { path: ['\\.spec\\.ts$', 'apps/[^/]+/spec/', 'karma\\.conf'] },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'node', 'default', 'types'] },
  },
};
