/** The arrows of docs/architecture.md. A line that breaks one belongs in another room. */
const room = (name, from, allowed) => ({
  name,
  severity: 'error',
  from: { path: from },
  to: { path: '^src/', pathNot: allowed },
});

module.exports = {
  forbidden: [
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    room('core-only-core', '^src/core/', ['^src/core/']),
    room('ui-nothing-of-ours', '^src/ui/', ['^src/ui/']),
    room('contract-core', '^src/contract/', ['^src/contract/', '^src/core/']),
    room('server-core-contract', '^src/server/', ['^src/server/', '^src/core/', '^src/contract/']),
    room('views-ui-core-client-contract', '^src/views/', [
      '^src/views/',
      '^src/ui/',
      '^src/core/',
      '^src/client/',
      '^src/contract/',
    ]),
    room('client-core-contract', '^src/client/', ['^src/client/', '^src/core/', '^src/contract/']),
    room('standins-apart', '^src/standins/', ['^src/standins/', '^src/core/']),
    room('pages-thin', '^src/(pages|middleware)', [
      '^src/(pages|views|server|ui|main|core|contract)',
      '^src/middleware',
    ]),
    {
      name: 'core-through-its-doors',
      severity: 'error',
      from: { path: '^src/core/([^/]+)/' },
      to: { path: '^src/core/[^/]+/', pathNot: ['^src/core/$1/', '^src/core/[^/]+/index\\.ts$'] },
    },
    {
      name: 'core-doors-from-outside',
      severity: 'error',
      from: { path: '^src/', pathNot: '^src/core/' },
      to: { path: '^src/core/', pathNot: '^src/core/[^/]+/index\\.ts$' },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^src/core/' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-libraries',
      severity: 'error',
      from: { path: '^src/core/' },
      to: {
        path: 'node_modules',
        pathNot:
          'node_modules/(scim2-parse-filter|scim-patch|luxon|decimal\\.js|joi|yaml|ical\\.js|rrule|@types/luxon)/',
      },
    },
    {
      name: 'core-knows-no-kind',
      comment: 'Planning, facts and intent reach resources only through their contract.',
      severity: 'error',
      from: { path: '^src/core/(planning|facts|intent|schedule|graph)/' },
      to: {
        path: '^src/core/(resources/(network|subnet|share|pool|host|publication|builder|image)|changes)',
      },
    },
    {
      name: 'server-rooms-through-their-doors',
      severity: 'error',
      from: { path: '^src/server/([^/]+)/' },
      to: { path: '^src/server/[^/]+/.', pathNot: ['^src/server/$1/', '^src/server/[^/]+/index\\.ts$'] },
    },
    {
      name: 'server-rooms-know-no-route',
      comment: 'What a room can do does not depend on how it is asked: only its routes.ts does.',
      severity: 'error',
      from: {
        path: '^src/server/',
        pathNot: '^src/server/(http/|pages/|(api|rooms|manifest)\\.ts|[^/]+/routes\\.ts|[^/]+/who\\.ts)',
      },
      to: { path: '^src/server/http/' },
    },
    {
      name: 'machinery-knows-no-area',
      severity: 'error',
      from: {
        path: '^src/server/(http|db|clock|write|outside|access)/',
        pathNot: '/(routes|manifest)\\.ts$',
      },
      to: {
        path: '^src/server/',
        pathNot:
          '^src/server/(http|db|clock|write|outside|access|live|trail|app\\.ts|problem\\.ts|log\\.ts|client-address\\.ts)',
      },
    },
    {
      name: 'product-knows-no-demo',
      comment: 'Only the program that puts a process together knows that there may be one.',
      severity: 'error',
      from: { path: '^src/', pathNot: '^src/(demo|main)/' },
      to: { path: '^src/demo/' },
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.mjs', '.js', '.astro', '.json'] },
    exclude: { path: '\\.module\\.css$' },
  },
};
