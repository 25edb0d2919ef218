import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { addPerson } from '../door/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, NOW, openHouse, type TestHouse } from '../testing/house.js';
import { NASTY } from '../testing/nasty.js';
import { allRoutes } from '../testing/routes.js';
import { webOf } from '../testing/web.js';

let test: TestHouse;
let server: Server;
let base: string;
let cookie: string;
let intakeId: number;
let itemId: number;

beforeAll(async () => {
  test = await openHouse();
  const { app } = await webOf(test);
  server = createServer(app);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  // What is done to accounts at random is done to these, and not to whoever asks.
  for (const name of ['noor', 'ines', 'ola']) await addPerson(test.house.db, name, 'salt-and-marsh', 'helper', NOW);
  await addPerson(test.house.db, 'wren', 'hazel-and-reed', 'administrator', NOW);
  const filed = await bring(test, await makeCard(join(test.folder, 'FILED'), { 'A/1.JPG': 500 }, 1));
  await fileNow(test.house, filed);
  // One with nothing filed: most of what is asked for is not there yet.
  intakeId = await bring(test, await makeCard(join(test.folder, 'OPEN'), { 'A/2.JPG': 600, 'A/3.WAV': 700 }, 2));
  [{ id: itemId }] = await test.house.db.query<[{ id: number }]>('select min(id)::int as id from item where intake_id = $1', [
    intakeId,
  ]);
  cookie = (await ask('POST', '/api/session', { name: 'wren', password: 'hazel-and-reed' })).headers
    .getSetCookie()[0]!
    .split(';')[0]!;
});
afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await test.end();
});

const ask = (method: string, path: string, body?: unknown) =>
  fetch(base + path, {
    method,
    redirect: 'manual',
    headers: { ...(cookie ? { Cookie: cookie } : {}), ...(body === undefined ? {} : { 'Content-Type': 'application/json' }) },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });

const nasty = fc.constantFrom<unknown>(...NASTY);

const HOUSE_CREDIT = { creditLine: '{house}', copyrightNotice: null, termsId: null, kinds: ['pupil'], revision: 1 };

/** What each route takes when it is asked rightly: what is wrong is put into it at one or two places. */
const RIGHT: () => Readonly<Record<string, Readonly<Record<string, unknown>>>> = () => ({
  'POST /api/session': { name: 'nobody', password: 'wrong' },
  'POST /api/hand-in': {
    ...test.slip,
    name: 'PHONE',
    saysName: 'Noor Vale',
    files: [{ path: 'a/b.jpg', bytes: 10, modifiedMs: 5, quickHash: '0'.repeat(32) }],
  },
  'POST /api/hand-in/:id/done': { withoutMissing: true },
  'POST /api/links': { hours: 3, name: 'class 7b', ofKind: 'pupil', quotaBytes: 5_000, quotaFiles: 3, ...test.slip },
  'POST /api/session/password': { now: 'wrong', wish: 'mud and reeds and tide' },
  'POST /api/session/second-factor': {},
  'POST /api/session/second-factor/confirm': { code: '123456' },
  'POST /api/session/second-factor/remove': { code: '123456' },
  'POST /api/accounts': {
    ...{ name: 'kit', role: 'hand-in', until: '2026-05-01T00:00:00.000Z', ofKind: 'pupil', quotaBytes: 1, quotaFiles: 1 },
    ...{ seesPersons: true, ...test.slip },
  },
  'PATCH /api/accounts/:id': {
    name: 'noor',
    role: 'looker',
    retired: false,
    until: null,
    seesPersons: true,
    secondFactor: false,
  },
  'POST /api/accounts/:id/code': {},
  'POST /api/contributors/:id/forget': { sure: true },
  'POST /api/hand-in/open': { token: 'x'.repeat(30) },
  'POST /api/assignments': {
    ...{ title: 'Reeds', slug: 'reeds', code: 'R1', from: '2026-04-01', to: '2026-04-02', place: 'Marsh', expectedCards: 2 },
    expectedContributorIds: [test.slip.contributorId],
  },
  'POST /api/assignments/unsorted': {},
  'POST /api/contributors': {
    name: 'Ada Reed',
    code: 'AR',
    email: 'a@b.example',
    inside: ['email'],
    termsId: 7,
    creditLine: '{house}',
  },
  'POST /api/cards/:id/move': { to: 'in' },
  'POST /api/loans': {
    things: [{ kind: 'card', id: 1 }],
    contributorId: test.slip.contributorId,
    due: '2026-05-01',
    note: 'for a day',
  },
  'POST /api/loans/back': { things: [{ kind: 'card', id: 1 }], unused: true },
  'POST /api/scans': { label: 'C-001', move: true },
  'POST /api/things': { kind: 'reader', label: 'R-9', name: 'Pocket reader' },
  'POST /api/rules': { rule: { folderLine: '{captured:yyyy}', fileLine: '{original}_{n}' }, note: 'why', from: 1 },
  'POST /api/places/:place/check': { how: 'fast identity', names: true, strict: false },
  'POST /api/places/:place/known': {},
  'POST /api/rebuild': { placeIds: ['shared'] },
  'POST /api/places/:place/adopt': {
    folders: [
      { folder: 'a/b', contributorId: test.slip.contributorId, assignmentId: null, title: 'Old things', day: '2020-02-02' },
    ],
  },
  'POST /api/mends/plan': { kind: 're-file', itemIds: [itemId], contributorId: test.slip.contributorId, day: '2026-04-01' },
  'POST /api/mends': { ask: { kind: 'rename folder', folder: '2026', to: '2027' }, seal: 'x' },
  'POST /api/mends/:id/back': {},
  'POST /api/intakes/:id/file': { seal: 'x' },
  'POST /api/intakes/:id/halt': { wish: 'pause' },
  'POST /api/intakes/:id/clear': { files: 1, items: [itemId], letGo: true, keep: false, sure: true },
  'POST /api/intakes/:id/restore': { cardOf: intakeId },
  'POST /api/intakes/:id/let-go': { anyway: true },
  'PATCH /api/intakes/:id/slip': {
    ...{ ...test.slip, cardLabel: 'C-9', onInsert: 'show', creditLine: '{house}', termsId: 3, locationId: 4, addWords: ['a'] },
    removeWordIds: [1],
  },
  'PATCH /api/intakes/:id/taken': { itemIds: [itemId], taken: true },
  'PATCH /api/intakes/:id/aside': { itemIds: [itemId], reason: 'gone' },
  'POST /api/intakes/:id/here': { key: 'abcdef0123456789', open: true },
  'PATCH /api/contributors/:id': { name: 'Ada Reed', code: 'AR', retired: false, given: 'Ada', web: '', termsId: 9, revision: 1 },
  'PATCH /api/assignments/:id': {
    ...{ title: 'Reeds', slug: 'reeds', code: 'R1', from: '2026-04-01', to: '2026-04-02', place: 'Marsh', expectedCards: 2 },
    ...{
      expectedContributorIds: [test.slip.contributorId],
      retired: true,
      words: ['reeds'],
      locationId: 5,
      embargoUntil: '2026-05-01',
    },
  },
  'PATCH /api/intakes/:id/judged': {
    ...{ itemIds: [itemId], verdict: 'select', description: 'words', role: 'main', profile: 'flat', turned: 1 },
    ...{ useFromMs: 1, useToMs: 2 },
  },
  'PATCH /api/intakes/:id/belongs': { itemIds: [itemId], contributorId: null, assignmentId: null, wasAssignmentIds: [null] },
  'PATCH /api/intakes/:id/clock': { make: 'Halden', model: 'M4', serial: null, shift: { kind: 'clock', seconds: 60 } },
  'POST /api/intakes/:id/track': { gpx: '<gpx/>' },
  'PATCH /api/credit': {
    ...{
      itemIds: [itemId],
      was: { creditLine: [null], termsId: [null, 3] },
      creditLine: '{contributor.name} / {house}',
      copyrightNotice: null,
      termsId: null,
    },
    ...{ locationId: null, addWords: ['reeds', 'mud flat'], removeWordIds: [1], contributorId: null, description: 'a\nb' },
    ...{ addPictured: ['Tomas Reed'], removePicturedIds: [1] },
  },
  'POST /api/contributors/:id/merge': { into: 1 },
  'POST /api/assignments/:id/merge': { into: 1 },
  'POST /api/contributors/:id/agreements': { what: 'photographs', signedOn: '2026-01-01', until: null },
  'PATCH /api/agreements/:id': { what: 'photographs', signedOn: '2026-01-01', until: '2027-01-01' },
  'PUT /api/agreements/:id/scan': { scan: '%PDF-' },
  'POST /api/lists/:list': { name: 'Ask', stance: 'ask first', sentence: '', web: 'https://example.org', until: '2027-01-01' },
  'PATCH /api/lists/:list/:id': { name: 'Ask', stance: 'ask first', until: null, retired: false, revision: 1 },
  'POST /api/lists/:list/:id/merge': { into: 1 },
  'POST /api/words': {
    ...{ labels: [{ language: 'pt', text: 'caniço', preferred: true }], broader: [1], listed: true, note: 'n' },
  },
  'PUT /api/words/:id': { labels: [{ language: '', text: 'reed', preferred: true }], broader: [1], listed: true, revision: 1 },
  'PATCH /api/words/:id': { retired: true },
  'POST /api/words/:id/merge': { into: 1 },
  'PATCH /api/house-credit': HOUSE_CREDIT,
  'POST /api/import/:what': { csv: 'code,name' },
  'PATCH /api/shelf/judged': { itemIds: [itemId], verdict: 'hold', description: 'words', turned: 2 },
  'POST /api/shelf/fetch/before': { question: 'by:IB "grey heron" -raw' },
  'POST /api/bundles': { name: 'Annual report', parentId: null, note: 'n' },
  'PATCH /api/bundles/:id': { name: 'Cover', parentId: 1, note: '', revision: 1 },
  'POST /api/bundles/:id/items': { itemIds: [itemId] },
  'PATCH /api/bundles/:id/without': { itemIds: [itemId] },
  'PATCH /api/bundles/:id/order': { itemIds: [itemId], before: 1 },
  'PUT /api/intakes/:id/bundles': { bundleIds: [1] },
  'POST /api/standing': { name: 'Herons', question: 'heron spring 2025 is:"not proven twice"', tells: true },
  'PATCH /api/standing/:id': { name: 'Herons', question: 'in:2026 taken:2026-04', tells: false, revision: 1 },
  'POST /api/standing/:id/seen': {},
  'GET /api/places/:place/tree': { folder: '2026/2026-04', after: 'a', limit: 5 },
  'GET /api/places/:place/folder': { folder: '2026', after: 'x', limit: 5 },
  'GET /api/places/:place/findings': { kind: 'case apart', folder: 'a', after: 3, limit: 5 },
  'GET /api/places/:place/found': { kind: 'stray', afterKind: 'stray', afterFolder: 'a', limit: 5 },
  'GET /api/places/:place/says': { folder: '2026' },
  'GET /api/mends': { before: 7, limit: 5 },
  'GET /api/leads-to': { path: '2026/2026-04/a.jpg' },
  'GET /api/shelf': { question: 'heron -raw taken:2026 bundle:1', from: 0, count: 50, order: 'name', descending: 'false' },
  'GET /api/shelf/question': { question: 'taken by Ines Barrow for reed planting day' },
  'GET /api/shelf/made-of': { question: '"a b" camera:"x y"' },
  'GET /api/shelf/list.csv': { question: '', order: 'taken', columns: 'name,taken' },
  'GET /api/shelf/list.tsv': { question: '-', columns: 'name,on card' },
  'GET /api/shelf/fetch.zip': { items: String(itemId), names: 'card' },
  'GET /api/figures': { question: 'late', by: 'season' },
  'GET /api/figures.csv': { question: '', by: 'camera' },
  'GET /api/words': { typed: 'ree', limit: 5 },
  'GET /api/words/list': { after: 'reed 5', typed: 're', which: 'all' },
  'GET /api/intakes': {
    words: 'reed',
    state: 'open',
    contributor: 'IB',
    assignment: 'x',
    from: '2026-01-01',
    to: '2026-12-31',
    offset: 1,
    limit: 5,
  },
  'GET /api/intakes/export.csv': { words: 'reed', columns: 'number,date' },
  'GET /api/intakes/export.tsv': { words: 'reed', columns: 'number,date' },
  'GET /api/intakes/:id/items': { since: 0 },
  'GET /api/intakes/:id/clearance': { full: 'true', items: itemId },
  'GET /api/intakes/:id/receipt.pdf': { paper: 'A4' },
  'GET /api/labels.pdf': { labels: 'C-001,C-002', form: 'sheet', skip: 1 },
  'GET /api/rules/material': { intake: intakeId },
  'GET /api/links': { before: 7, limit: 3 },
  'GET /api/audit': { kind: 'sign-in', who: 'wren', from: '2026-04-01', to: '2026-04-30', after: 9, limit: 5 },
  'GET /api/audit.csv': { kind: 'sign-in' },
});

/** A value with something nasty at one of its leaves, or in its place, or beside it. */
function spoil(value: unknown, where: number, what: unknown): unknown {
  if (Array.isArray(value))
    return where % 3 === 0 ? [...(value as unknown[]), what] : value.map((one) => spoil(one, where >> 1, what));
  if (typeof value !== 'object' || value === null) return what;
  const entries = Object.entries(value);
  const at = where % (entries.length + 1);
  if (at === entries.length) return { ...value, ['x'.repeat(1 + (where % 3))]: what };
  return Object.fromEntries(entries.map(([key, one], index) => [key, index === at ? spoil(one, where >> 2, what) : one]));
}

const inPath = (value: unknown) =>
  encodeURIComponent((typeof value === 'string' ? value : JSON.stringify(value ?? '')).replace(/[\ud800-\udfff]/g, '?')).slice(
    0,
    2_000,
  );
const inQuery = (values: object) =>
  Object.entries(values)
    .map(([key, value]) => `${inPath(key)}=${inPath(value)}`)
    .join('&');

describe('no input gives a 500', () => {
  it('every route, with something nasty in its address, its query or its body', async () => {
    const routes = allRoutes(test.house);
    expect(routes.length).toBeGreaterThan(50);
    // Every route that takes a body or a query is known here: nasty things in the right place get further than at the door.
    const right = RIGHT();
    const taking = routes.filter(
      ({ method, path }) => method !== 'GET' && !/uploads|again|give-back|given-back|DELETE/.test(path) && method !== 'DELETE',
    );
    expect(taking.map(({ method, path }) => `${method} ${path}`).filter((name) => !(name in right))).toEqual([]);
    const answers = new Map<number, number>();
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...routes.filter(({ path }) => path !== '/api/live' && !(path === '/api/session'))),
        fc.record({
          inId: fc.option(nasty, { freq: 4, nil: undefined }),
          where: fc.nat(10_000),
          what: nasty,
          again: fc.option(nasty),
        }),
        async ({ method, path }, { inId, where, what, again }) => {
          const known = path.includes('/items/:id') ? itemId : intakeId;
          const address = path.replace(/:(\w+)/g, (_, name: string) =>
            inPath(
              inId ??
                (name === 'id'
                  ? known
                  : name === 'list'
                    ? 'terms'
                    : name === 'place'
                      ? 'shared'
                      : name === 'what'
                        ? 'people'
                        : what),
            ),
          );
          const whole = right[`${method} ${path}`];
          // Now and then it is asked rightly.
          const once = whole && (again === null ? whole : spoil(whole, where * 7 + 3, again));
          const spoilt = once && (where % 8 === 0 ? once : spoil(once, where, what));
          const isGet = method === 'GET' || method === 'DELETE';
          const query = isGet && spoilt && typeof spoilt === 'object' ? `?${inQuery(spoilt)}` : '';
          const answer = await ask(method, address + query, isGet ? undefined : (spoilt ?? what));
          const words = await answer.text();
          answers.set(answer.status, (answers.get(answer.status) ?? 0) + 1);
          if (answer.status >= 500 && answer.status !== 503)
            throw new Error(`${method} ${address}${query} ${JSON.stringify(spoilt)}: ${words}`);
          expect(words).not.toContain(test.folder + '/data');
        },
      ),
      { numRuns: Number(process.env['TALLY_FUZZ'] ?? 500) },
    );
    // Some of it was let in, most was not.
    expect(answers.get(400)).toBeGreaterThan(80);
    expect((answers.get(200) ?? 0) + (answers.get(204) ?? 0) + (answers.get(201) ?? 0)).toBeGreaterThan(25);
  });

  it.each([
    ['GET', '/api/intakes?words=a%00b', undefined, 400],
    ['GET', '/api/intakes?from=0000-01-01', undefined, 400],
    ['PATCH', '/api/intakes/ID/judged', { itemIds: [1], useFromMs: 2 ** 31 }, 400],
    ['POST', '/api/rules', { rule: { folderLine: 'a\u0000', fileLine: '{n}' }, note: 'x', from: 1 }, 400],
    ['POST', '/api/rules', { rule: { folderLine: 'a', fileLine: '{n}' }, note: 'x', from: 2 ** 40 }, 400],
    // JSON can hold half of a pair of surrogates (RFC 7493, section 2.1, forbids it), and no column keeps it.
    ['PATCH', '/api/house-credit', { ...HOUSE_CREDIT, kinds: ['pupil', '\ud800'] }, 400],
    ['PATCH', '/api/intakes/ID/judged', { itemIds: [1], ['\udc00']: 'key' }, 400],
    ['GET', '/api/intakes/ID/receipt.pdf', undefined, 200],
  ] as const)('%s %s: %j is %d', async (method, path, body, status) => {
    expect((await ask(method, path.replace('ID', String(intakeId)), body)).status).toBe(status);
  });

  it('a whole character beyond U+FFFF is text', async () => {
    const answer = await ask('POST', '/api/words', { labels: [{ language: '', text: 'reed \u{1f33e}', preferred: true }] });
    expect(answer.status).toBe(201);
    expect(await (await ask('GET', '/api/words/list?typed=reed')).text()).toContain('\u{1f33e}');
  });
});
