import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { DEEDS, may, ROLES, type Deed, type Role } from '@tally/core/rights';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { addPerson } from '../door/index.js';
import { record } from '../house/index.js';
import { changeSlip } from '../slip/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, NOW, openHouse, type TestHouse } from '../testing/house.js';
import { NASTY } from '../testing/nasty.js';
import { allRoutes, type Route } from '../testing/routes.js';
import { webOf } from '../testing/web.js';
import { ASKS, deedOf } from './asks.js';

/*
 * Every route of every room, asked for by somebody of every role, against the table in core (OWASP ASVS 4.0.3, 4.1.1, 4.1.3
 * and 4.2.1, from memory).
 */

let test: TestHouse;
let server: Server;
let base: string;
const cookies = new Map<Role, string>();
const PASSWORD = 'hazel-and-reed';
/** Asks by itself who is there, or is for whoever has a link: not of the table. */
const OPEN = /^\/api\/(session|health|certificate)|^\/api\/hand-in\/open$/;

beforeAll(async () => {
  test = await openHouse();
  server = createServer((await webOf(test)).app);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  await bring(test, await makeCard(join(test.folder, 'CARD'), { 'A/1.JPG': 500 }, 1));
  for (const role of ROLES) {
    await addPerson(test.house.db, role, PASSWORD, role, NOW);
    cookies.set(role, await signIn(role));
  }
});
afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await test.end();
});

async function signIn(name: string): Promise<string> {
  const response = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name, password: PASSWORD }),
  });
  return response.headers.getSetCookie()[0]!.split(';')[0]!;
}

/** An address of a route: what it is of is there or not, but the address is one. */
const addressOf = ({ path }: Route) =>
  path.replace(/:(\w+)/g, (_, name: string) => ({ place: 'shared', list: 'terms', size: 'sheet', what: 'people' })[name] ?? '1');

const ask = (method: string, path: string, cookie?: string, body: unknown = {}) => {
  const stop = new AbortController();
  const asked = fetch(base + path, {
    method,
    signal: stop.signal,
    headers: { ...(cookie ? { Cookie: cookie } : {}), 'Content-Type': 'application/json' },
    ...(['GET', 'HEAD'].includes(method) ? {} : { body: JSON.stringify(body) }),
  });
  // Headers are enough: a stream does not end.
  return asked.then(({ status }) => {
    stop.abort();
    return status;
  });
};

async function send(method: string, path: string, cookie: string, body: unknown): Promise<{ status: number; text: string }> {
  const hasBody = !['GET', 'HEAD', 'DELETE'].includes(method);
  const response = await fetch(base + path, {
    method,
    redirect: 'manual',
    headers: { Cookie: cookie, 'Content-Type': 'application/json' },
    ...(hasBody ? { body: JSON.stringify(body) } : {}),
  });
  return { status: response.status, text: (await response.text()).slice(0, 5_000) };
}

describe('who may what', () => {
  const inTable = ({ path }: Route) => !OPEN.test(path);

  it('stands in the table for every route there is, and for none that is not', () => {
    const routes = allRoutes(test.house).filter(inTable);
    const none = routes.filter((route) => deedOf(route.method, addressOf(route).replace('/api', '')) === null);
    expect(none.map(({ method, path }) => `${method} ${path}`)).toEqual([]);
    const there = new Set(routes.map(({ method, path }) => `${method} ${path.replace('/api', '')}`));
    // Lines that stand for one thing of a list, and what the protocol of uploads answers by itself.
    const finer = ['GET /lists/pictured', 'POST /lists/terms'];
    const odd = Object.keys(ASKS).filter((line) => !there.has(line) && !finer.includes(line) && !line.includes('/uploads'));
    expect(odd).toEqual([]);
  });

  it('stands in the docs as it is in core', () => {
    const docs = readFileSync(new URL('../../../docs/security.md', import.meta.url), 'utf8');
    const printed = docs
      .split('\n')
      .map((line) => line.split('|').map((cell) => cell.trim()))
      .filter(([, deed]) => deed !== undefined && Object.hasOwn(DEEDS, deed))
      .map(([, deed, , ...cells]) => [deed, ROLES.filter((_, column) => cells[column] === 'yes')]);
    expect(printed).toEqual(Object.entries(DEEDS).map(([deed, roles]) => [deed, [...roles]]));
  });

  it('every deed is asked for by some route', () => {
    const asked = new Set<Deed>(Object.values(ASKS));
    expect(Object.keys(DEEDS).filter((deed) => !asked.has(deed as Deed))).toEqual([]);
  });

  it.each(ROLES.map((role) => [role]))('all routes, asked for by a %s', async (role) => {
    const wrong: string[] = [];
    for (const route of allRoutes(test.house).filter(inTable)) {
      // What ends things or counts for the others is asked for at the end, and by nobody who may.
      const path = addressOf(route);
      const deed = deedOf(route.method, path.replace('/api', ''))!;
      const allowed = may(role, deed);
      if (allowed && path.startsWith('/api/accounts')) continue;
      const status = await ask(route.method, path, cookies.get(role));
      const passed = status !== 403 && status !== 401;
      if (passed !== allowed) wrong.push(`${route.method} ${path} (${deed}): ${status}`);
    }
    expect(wrong).toEqual([]);
  });

  it('nobody gets anywhere without a session', async () => {
    for (const route of allRoutes(test.house).filter(inTable))
      expect([route.path, await ask(route.method, addressOf(route))]).toEqual([route.path, 401]);
  });

  it('an address is read as the router reads it: no case, slash or method gets around the table', async () => {
    const looker = cookies.get('looker');
    const ways = [
      '/api/ACCOUNTS',
      '/api/accounts/',
      '/api//accounts',
      '/api/./accounts',
      '/api/accounts/1/',
      '/api/%61ccounts',
      '/api/x/../accounts',
    ];
    for (const way of ways) expect([way, [403, 404].includes(await ask('GET', way, looker))]).toEqual([way, true]);
    expect(await ask('HEAD', '/api/accounts', looker)).toBe(403);
    for (const method of ['PUT', 'OPTIONS', 'PATCH', 'DELETE'])
      expect([403, 404]).toContain(await ask(method, '/api/accounts', looker));
  });
});

/** Bodies for each route and role; by hand 200 (TALLY_MALFORMED=200). */
const MALFORMED = Number(process.env['TALLY_MALFORMED'] ?? 2);

describe('malformed bodies', () => {
  const bodies = fc.oneof(
    fc.constantFrom<unknown>(...NASTY),
    fc.dictionary(fc.string({ maxLength: 12 }), fc.constantFrom<unknown>(...NASTY), { maxKeys: 4 }),
    fc.jsonValue(),
  );
  const seed = Number(process.env['TALLY_SEED'] ?? 1);

  it.each(ROLES.map((role) => [role]))(
    'of every route, sent by a %s: no 500, nothing of the inside is told',
    async (role) => {
      const samples = fc.sample(bodies, { numRuns: MALFORMED * 4, seed });
      const wrong: string[] = [];
      let at = 0;
      for (const route of allRoutes(test.house)) {
        // Signing out is no malformed request, and everybody else's sessions are kept for the others.
        if (/^\/api\/(live|session)/.test(route.path) || (route.method === 'DELETE' && route.path.includes('accounts'))) continue;
        if (route.path.endsWith('/code')) continue;
        for (let n = 0; n < MALFORMED; n++) {
          const body = samples[at++ % samples.length];
          const answer = await send(route.method, addressOf(route), cookies.get(role)!, body);
          if (answer.status === 401) wrong.push(`${route.method} ${route.path} signed ${role} out`);
          if ((answer.status >= 500 && answer.status !== 503) || /at \w+ \(|node_modules|\/src\//.test(answer.text))
            wrong.push(`${route.method} ${route.path} ${JSON.stringify(body)}: ${answer.status} ${answer.text.slice(0, 200)}`);
        }
      }
      expect(wrong.slice(0, 20)).toEqual([]);
    },
    3_600_000,
  );
});

describe('what is about persons', () => {
  const json = async (path: string, role: Role) =>
    (await fetch(base + path, { headers: { Cookie: cookies.get(role)! } })).json() as Promise<{ items: { serial: unknown }[] }>;

  it('is left out of answers to whoever may not see it, unless that was allowed', async () => {
    await test.house.db.query(`update item set serial = 'B77-1234'`);
    expect((await json('/api/intakes/1/items', 'helper')).items[0]!.serial).toBe('B77-1234');
    expect((await json('/api/intakes/1/items', 'looker')).items[0]!.serial).toBeNull();
    await test.house.db.query(`update person set sees_persons = true where name = 'looker'`);
    expect((await json('/api/intakes/1/items', 'looker')).items[0]!.serial).toBe('B77-1234');
    await test.house.db.query(`update person set sees_persons = false where name = 'looker'`);
  });

  it('a minor is a code to whoever only looks: in lists, in sentences, in what is found', async () => {
    const text = async (path: string, role: Role) =>
      (await fetch(base + path, { headers: { Cookie: cookies.get(role)! } })).text();
    const { contributorId } = test.slip;
    const [{ name, code }] = await test.house.db
      .query<[{ name: string; code: string }]>('update contributor set minor = true where id = $1 returning name, code', [
        contributorId,
      ])
      .then(([rows]: unknown[]) => rows as [{ name: string; code: string }]);
    await changeSlip(test.house, 1, test.slip, 'wren');
    for (const path of ['/api/contributors', '/api/intakes', '/api/intakes/1']) {
      const [helper, looker] = [await text(path, 'helper'), await text(path, 'looker')];
      expect([path, helper.includes(name), looker.includes(name), looker.includes(code)]).toEqual([path, true, false, true]);
    }
    await test.house.db.query(`insert into pictured (name, consent) values ('Evan Roe', 'no'), ($1, 'yes')`, [name]);
    const told = { at: test.clock.now, kind: 'credit', intakeId: 1, who: 'wren', text: `Evan Roe is in it, and ${name}.` };
    await record(test.house.db, told);
    expect(await text('/api/intakes/1/events', 'helper')).toContain('Evan Roe is in it');
    expect(await text('/api/intakes/1/events', 'looker')).toContain(`somebody is in it, and ${code}.`);
    await test.house.db.query(`update contributor set minor = false`);
    expect(await text('/api/contributors', 'looker')).toContain(name);
  });
});
