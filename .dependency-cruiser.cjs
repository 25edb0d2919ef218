// The arrows of ARCHITECTURE.md, enforced, for tests, bench and tools too. tests/boundaries breaks each rule on purpose.
const { join } = require('node:path');

const PACKAGES = '(core|contract|server|standins|web)';

/** A package imports itself and these. */
const only = (name, allowed, comment) => ({
  name,
  comment,
  severity: 'error',
  from: { path: `^${name}/`, pathNot: '\\.spec\\.ts$|/testing/' },
  to: { path: `^(${PACKAGES.slice(1, -1)}|tests|bench|tools)/`, pathNot: `^(${[name, ...allowed].join('|')})/` },
});

/** The rooms along the corridor, and whose faces each may look at: those before it in the order of the job. */
const ROOMS = {
  house: [],
  driving: ['house'],
  audit: ['house', 'driving'],
  people: ['house', 'audit'],
  door: ['house', 'people'],
  seeing: ['house', 'people', 'driving'],
  counter: ['house', 'people', 'driving', 'seeing', 'backing'],
  slip: ['house', 'people', 'seeing', 'counter'],
  crediting: ['house', 'slip'],
  rules: ['house', 'people', 'seeing', 'slip'],
  filing: ['house', 'people', 'driving', 'seeing', 'counter', 'slip', 'crediting', 'rules'],
  proving: ['house', 'people', 'driving', 'seeing', 'slip', 'crediting', 'filing'],
  keeping: ['house', 'driving', 'seeing', 'filing', 'proving'],
  clearing: ['house', 'driving', 'seeing', 'crediting', 'filing'],
  backing: ['house', 'driving'],
  arriving: ['house', 'people', 'door', 'driving', 'seeing', 'counter', 'slip', 'filing', 'proving', 'clearing'],
  shelf: ['house', 'people', 'driving', 'audit', 'seeing'],
  rebuilding: ['house', 'people', 'driving', 'seeing', 'slip', 'rules', 'filing', 'crediting', 'tending'],
  tending: ['house', 'people', 'driving', 'seeing', 'slip', 'rules', 'filing', 'crediting', 'proving', 'keeping', 'shelf'],
};
/** Below the rooms, knowing none of them; and whom each may know. */
const BELOW = {
  db: [],
  drive: ['aside'],
  paper: [],
  aside: [],
  media: ['drive', 'aside'],
  live: ['db'],
  work: ['db', 'live'],
  http: ['live', 'media'],
  cli: ['drive'],
};
const rooms = Object.keys(ROOMS).join('|');
const below = Object.keys(BELOW).join('|');
const SPEC = '\\.spec\\.ts$';

const roomRules = Object.entries(ROOMS).map(([room, allowed]) => ({
  name: `room-${room}`,
  comment: 'a room looks at the faces of the rooms before it, never into them and never ahead',
  severity: 'error',
  from: { path: `^server/src/${room}/`, pathNot: SPEC },
  to: { path: `^server/src/(${rooms})/`, pathNot: `^server/src/(${room}/|(${allowed.join('|') || 'none'})/index\\.ts$)` },
}));
const belowRules = Object.entries(BELOW).map(([room, allowed]) => ({
  name: `below-${room}`,
  comment: 'what lies below the rooms knows none of them',
  severity: 'error',
  from: { path: `^server/src/${room}/`, pathNot: SPEC },
  to: {
    path: '^server/src/',
    pathNot: `^server/src/(${[room, ...allowed].join('|')})/|^server/src/(settings|clock)\\.ts$${room === 'work' ? '|^server/src/house/index\\.ts$' : ''}`,
  },
}));

/** Rooms of the interface: a destination knows none of the others. */
const DESTINATIONS = ['desk', 'door', 'lending', 'logbook', 'people', 'drive', 'rules', 'hand-in', 'intake', 'shelf'];
const WEB_BELOW = {
  api: [],
  theme: [],
  shared: ['api'],
  stick: ['shared'],
  sheet: ['api', 'shared', 'stick'],
  closer: ['api', 'shared', 'sheet', 'stick'],
};

module.exports = {
  forbidden: [
    {
      name: 'no-circular',
      severity: 'error',
      from: { pathNot: '^server/src/db/entities/' },
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    only('core', [], 'core knows nobody'),
    only('contract', ['core'], 'the wire knows core only'),
    only('server', ['core', 'contract'], 'nothing imports web or standins'),
    only('standins', ['core'], 'stand-ins know core only'),
    only('web', ['core', 'contract'], 'the interface knows the wire and core'),
    {
      name: 'specs-stay-in-their-package',
      comment: 'unit tests stand beside their code; stand-ins for devices are theirs to use',
      severity: 'error',
      from: { path: '^(core|contract|server|web)/.*(\\.spec\\.ts$|/testing/)' },
      to: { path: `^${PACKAGES}/|^(tests|bench|tools)/`, pathNot: '^$1/|^core/|^contract/|^standins/src/|^tests/fixtures/' },
    },
    {
      name: 'nobody-imports-tests',
      severity: 'error',
      from: { pathNot: '^tests/' },
      to: { path: '^tests/', pathNot: '^tests/fixtures/' },
    },
    {
      name: 'tools-stand-alone',
      comment: 'set-up runs before anything is installed: plain Node, and what was built',
      severity: 'error',
      from: { path: '^tools/', pathNot: '^tools/(screenshots|bench|check-source|parts/transpile)\\.mjs$' },
      to: { pathNot: '^tools/|^(node:)?[a-z_/]+$', dependencyTypesNot: ['core'] },
    },
    {
      name: 'bench-and-journeys-from-outside',
      comment: 'what is measured or journeyed through is the built product, not its source',
      severity: 'error',
      from: { path: '^(bench|tests/journeys)/' },
      to: { path: `^${PACKAGES}/src/` },
    },
    {
      name: 'core-is-pure',
      comment: 'no input or output, no clock, no framework in core',
      severity: 'error',
      from: { path: '^core/src/', pathNot: SPEC },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-libraries',
      comment: 'core imports only small pure libraries',
      severity: 'error',
      from: { path: '^core/src/', pathNot: SPEC },
      to: {
        path: 'node_modules',
        pathNot:
          'node_modules/(@xmldom/xmldom|date-fns|@date-fns/utc|@sindresorhus/(slugify|transliterate)|canonicalize|chrono-node|fast-xml-parser|fastest-levenshtein|i18n-iso-countries|papaparse|@types/papaparse)/',
      },
    },
    ...roomRules,
    ...belowRules,
    {
      name: 'rooms-are-wired-above',
      comment: 'main, composition, answers, works, tally and the stories wire the rooms; nobody imports them',
      severity: 'error',
      from: { path: `^server/src/(${rooms}|${below})/`, pathNot: SPEC },
      to: { path: '^server/src/(main|composition|answers|works|tally|story|credit-story)\\.ts$' },
    },
    {
      name: 'specs-look-at-faces',
      comment: 'a test looks into its own room, and at the faces of the others',
      severity: 'error',
      from: { path: `^server/src/(${rooms}|${below})/.*${SPEC}` },
      to: { path: `^server/src/(${rooms})/`, pathNot: `^server/src/($1/|(${rooms})/index\\.ts$)` },
    },
    {
      name: 'tests-look-at-faces',
      severity: 'error',
      from: { path: '^tests/|^server/src/testing/' },
      to: { path: `^server/src/(${rooms})/`, pathNot: '/index\\.ts$' },
    },
    {
      name: 'sql-in-stores-only',
      comment: 'stores and db/ know TypeORM and the driver; live and work keep connections of their own',
      severity: 'error',
      from: { path: '^server/src/', pathNot: `/store(/|\\.ts$)|^server/src/(db|testing)/|^server/src/live/bus\\.ts$|${SPEC}` },
      to: { path: 'node_modules/(typeorm|pg|@types/pg)/' },
    },
    {
      name: 'entities-in-stores-only',
      severity: 'error',
      from: { path: '^server/src/', pathNot: `/store(/|\\.ts$)|^server/src/(db|testing)/|${SPEC}` },
      to: { path: '^server/src/db/(entities|migrations)/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'stores-do-not-act',
      comment: 'a store asks the database: it reads no settings, no files, no clock, and calls no use case',
      severity: 'error',
      from: { path: '/store(/|\\.ts$)', pathNot: SPEC },
      to: {
        path: '^server/src/(settings|clock)\\.ts$|^server/src/(drive/|media/|paper/|live/bus|http/|cli/)|^(node:)?fs',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'express-in-routes-only',
      comment: 'only routes and http/ know Express',
      severity: 'error',
      from: { path: '^server/src/', pathNot: `routes\\.ts$|^server/src/http/|^server/src/testing/|${SPEC}` },
      to: { path: 'node_modules/(express|@types/express|@tus/server|cookie|helmet|compression)/' },
    },
    {
      name: 'commander-in-commands-only',
      severity: 'error',
      from: { path: '^server/src/', pathNot: 'commands\\.ts$|^server/src/(cli/|tally\\.ts$)' },
      to: { path: 'node_modules/commander/' },
    },
    {
      name: 'media-files-through-drive',
      comment: 'only drive/ and media/ open files of cards and places; rooms keep to their own data folder through them',
      severity: 'error',
      from: {
        path: `^server/src/(${rooms}|${below})/`,
        // The data folder of the server itself, and what a person names on the command line.
        pathNot: `^server/src/(drive|media|aside)/|^server/src/arriving/hand-in\\.ts$|^server/src/proving/(receipt|manifests|tally-command|show-command|original-command)\\.ts$|^server/src/clearing/restore\\.ts$|^server/src/cli/(read|write)-file\\.ts$|^server/src/rules/rule-command\\.ts$|^server/src/arriving/(read-folder|look-command)\\.ts$|^server/src/(http/certificates|door/directory)\\.ts$|^server/src/backing/(making|contents|bringing-back|seal|destinations|drill|passphrase)\\.ts$|${SPEC}`,
      },
      to: { dependencyTypes: ['core'], path: '^(node:)?fs' },
    },
    ...DESTINATIONS.map((one) => ({
      name: `web-${one}`,
      comment: 'a destination knows none of the others',
      severity: 'error',
      from: { path: `^web/src/${one}/`, pathNot: SPEC },
      to: { path: `^web/src/(${DESTINATIONS.join('|')}|app)/`, pathNot: `^web/src/${one}/` },
    })),
    ...Object.entries(WEB_BELOW).map(([one, allowed]) => ({
      name: `web-below-${one}`,
      comment: 'what destinations share knows none of them',
      severity: 'error',
      from: { path: `^web/src/${one}/`, pathNot: SPEC },
      to: { path: '^web/src/[a-z-]+/', pathNot: `^web/src/(${[one, ...allowed].join('|')})/` },
    })),
  ],
  options: {
    doNotFollow: { path: 'node_modules|(^|/)dist/' },
    exclude: { path: '(^|/)(\\.angular|\\.tally)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: join(__dirname, 'web/tsconfig.json') },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types', 'default'] },
  },
};
