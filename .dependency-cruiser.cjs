// The arrows of ARCHITECTURE.md, enforced.
const { join } = require('node:path');

const only = (name, from, allowed, comment) => ({
  name,
  comment,
  severity: 'error',
  from: { path: `^${from}/` },
  to: { path: '^(core|contract|server|standins|web)/', pathNot: `^(${[from, ...allowed].join('|')})/` },
});

const within = (room, allowed, comment) => ({
  name: `server-${room}`,
  comment,
  severity: 'error',
  from: { path: `^server/src/${room}/`, pathNot: '\\.spec\\.ts$' },
  to: { path: '^server/src/[a-z]+/', pathNot: `^server/src/(${[room, ...allowed].join('|')})/` },
});

module.exports = {
  forbidden: [
    {
      name: 'no-circular',
      severity: 'error',
      from: { pathNot: '^server/src/store/entities/' },
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    only('core-alone', 'core', [], 'core knows nobody'),
    only('contract', 'contract', ['core'], 'the wire knows core only'),
    only('server', 'server', ['core', 'contract'], 'nothing imports web or standins'),
    only('standins', 'standins', ['core'], 'stand-ins know core only'),
    only('web', 'web', ['core', 'contract'], 'the interface knows the wire and core'),
    {
      name: 'core-is-pure',
      comment: 'no input or output, no clock, no framework in core',
      severity: 'error',
      from: { path: '^core/src/', pathNot: '\\.spec\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-libraries',
      comment: 'core imports only small pure libraries',
      severity: 'error',
      from: { path: '^core/src/', pathNot: '\\.spec\\.ts$' },
      to: {
        path: 'node_modules',
        pathNot:
          'node_modules/(date-fns|@date-fns/utc|@sindresorhus/(slugify|transliterate)|fast-xml-parser|fastest-levenshtein|papaparse|@types/papaparse)/',
      },
    },
    within('desk', ['drive', 'media', 'store', 'paper'], 'use cases know neither http nor work'),
    within('drive', [], 'drives know nobody'),
    within('media', ['drive'], 'readers of media use the drive room to reach files'),
    within('paper', [], 'what is printed knows nobody'),
    within('store', [], 'the store knows nobody'),
    within('http', ['desk', 'store', 'access', 'live', 'media', 'paper'], 'routes are thin'),
    within('work', ['desk', 'drive', 'media', 'store'], 'jobs call use cases'),
    within('live', ['store'], 'events out'),
    within('access', ['store'], 'who signs in'),
    {
      name: 'media-files-through-drive',
      comment: 'use cases, routes and jobs reach the file system of media through drive/ only; stat and path are allowed',
      severity: 'error',
      from: { path: '^server/src/(http|store|access|live|work)/', pathNot: '\\.spec\\.ts$' },
      to: { dependencyTypes: ['core'], path: '^(node:)?fs' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules|(^|/)dist/' },
    exclude: { path: '(^|/)\\.angular/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: join(__dirname, 'web/tsconfig.json') },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types', 'default'] },
  },
};
