import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { Session } from '@tally/contract';
import { spawn, type ChildProcess } from 'node:child_process';
import { createServer, type Server } from 'node:http';
import { type AddressInfo, createServer as createProbe } from 'node:net';
import { fileURLToPath } from 'node:url';
import { NOW, openHouse, type TestHouse } from '../testing/house.js';
import { webOf } from '../testing/web.js';
import { addPerson } from './accounts.js';

/*
 * Against a provider of OpenID Connect that is not ours (the package oidc-provider, certified by its foundation), run as it
 * ships for the demonstration.
 */

const PROVIDER = fileURLToPath(new URL('../../../standins/dist/directory/provider.js', import.meta.url));
const PEOPLE = { mara: 'salt-on-the-sill', pim: 'otters-after-dark', roan: 'no-way-in-here' };
const SECRET = 'a-secret-of-the-demonstration';

let test: TestHouse;
let server: Server;
let provider: ChildProcess;
let base: string;
let issuer: string;

const freePort = () =>
  new Promise<number>((resolve) => {
    const probe = createProbe().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => resolve(port));
    });
  });

beforeAll(async () => {
  const port = await freePort();
  base = `http://127.0.0.1:${port}`;
  provider = spawn(process.execPath, [PROVIDER, '0', base], { stdio: ['ignore', 'pipe', 'ignore'] });
  issuer = await new Promise<string>((resolve) => {
    provider.stdout!.on('data', (said: Buffer) => {
      const found = /directory at (\S+)/.exec(said.toString());
      if (found) resolve(found[1]!);
    });
  });
  process.env['TALLY_DIRECTORY_SECRET'] = SECRET;
  const roles = { 'media desk': 'coordinator', volunteers: 'looker' } as const;
  test = await openHouse({ directory: { name: 'Trust directory', issuer, clientId: 'tally-stick', roles } });
  server = createServer((await webOf(test)).app);
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  await addPerson(test.house.db, 'wren', 'hazel-and-reed', 'administrator', NOW);
});
afterAll(async () => {
  delete process.env['TALLY_DIRECTORY_SECRET'];
  provider.kill();
  server.closeAllConnections();
  server.close();
  await test.end();
});

/** A browser, as far as this needs one: cookies by host, redirects followed one by one. */
function browser() {
  const jars = new Map<string, Map<string, string>>();
  return async (
    method: 'GET' | 'POST',
    address: string,
    form?: Record<string, string>,
  ): Promise<{ url: string; status: number; text: string }> => {
    let [url, how, body] = [address, method, form && new URLSearchParams(form)];
    for (let hops = 0; hops < 12; hops++) {
      const jar = jars.get(new URL(url).host) ?? new Map<string, string>();
      jars.set(new URL(url).host, jar);
      const cookie = [...jar].map(([name, value]) => `${name}=${value}`).join('; ');
      const response = await fetch(url, {
        method: how,
        redirect: 'manual',
        headers: { Cookie: cookie },
        ...(body ? { body } : {}),
      });
      for (const set of response.headers.getSetCookie()) {
        const [, name, value] = /^([^=]+)=([^;]*)/.exec(set)!;
        if (value) jar.set(name!, value);
        else jar.delete(name!);
      }
      const to = response.headers.get('location');
      if (!to) return { url, status: response.status, text: await response.text() };
      [url, how, body] = [new URL(to, url).href, 'GET', undefined];
    }
    throw new Error('goes round in circles');
  };
}

async function come(name: string, password: string) {
  const go = browser();
  const asked = await go('GET', `${base}/api/session/directory/begin`);
  const came = await go('POST', asked.url, { name, password });
  const session = await go('GET', `${base}/api/session`);
  return { go, came, session: session.status === 200 ? (JSON.parse(session.text) as Session) : null };
}

describe('sign-in by the house’s directory', () => {
  it('is offered by its name', async () => {
    expect(await (await fetch(`${base}/api/session/directory`)).json()).toEqual({ name: 'Trust directory' });
  });

  it('lets somebody in with the role that their groups have; the second time it is the same account', async () => {
    const { session } = await come('mara.quill', PEOPLE.mara);
    expect(session).toMatchObject({ person: { name: 'mara.quill', role: 'coordinator' }, hasPassword: false, must: null });
    const again = await come('mara.quill', PEOPLE.mara);
    expect(again.session!.person.id).toBe(session!.person.id);
    expect((await come('pim.sedge', PEOPLE.pim)).session!.person.role).toBe('looker');
  });

  it('lets nobody in whose groups are no role here, and says so where one signs in', async () => {
    const { session, came } = await come('roan.tidewell', PEOPLE.roan);
    expect(session).toBeNull();
    expect(decodeURIComponent(came.url.replaceAll('+', ' '))).toContain('roan.tidewell is in no group that may come in here');
  });

  it('a role that changed there changes here, and ends what was open', async () => {
    const { go, session } = await come('mara.quill', PEOPLE.mara);
    await test.house.db.query(`update person set role = 'helper' where id = $1`, [session!.person.id]);
    const after = await come('mara.quill', PEOPLE.mara);
    expect(after.session!.person.role).toBe('coordinator');
    expect((await go('GET', `${base}/api/session`)).status).toBe(401);
  });

  it('who is retired here does not come by it either, and a name of here is not taken over', async () => {
    const { session } = await come('pim.sedge', PEOPLE.pim);
    await test.house.db.query('update person set retired_at = now() where id = $1', [session!.person.id]);
    expect((await come('pim.sedge', PEOPLE.pim)).session).toBeNull();
    // Somebody here was called so before: another account, another name.
    await test.house.db.query('delete from person where id = $1', [session!.person.id]);
    await addPerson(test.house.db, 'pim.sedge', 'somebody else here', 'administrator', NOW);
    const other = (await come('pim.sedge', PEOPLE.pim)).session!;
    expect(other.person.role).toBe('looker');
    const [row] = await test.house.db.query<{ name: string }[]>('select name from person where id = $1', [other.person.id]);
    expect(row!.name).toMatch(/^pim\.sedge [0-9a-f]{6}$/);
    // What this one does is told under its own name, not under that of somebody else.
    const [told] = await test.house.db.query<{ who: string }[]>(
      `select who from event where kind = 'sign-in' order by id desc limit 1`,
    );
    expect([told!.who, other.person.name]).toEqual([row!.name, row!.name]);
  });

  it('nobody comes back who did not ask: no state, another’s state, a code of one’s own', async () => {
    const go = browser();
    const asked = await go('GET', `${base}/api/session/directory/begin`);
    expect(asked.url).toContain(issuer);
    for (const query of ['code=made-up&state=made-up', 'code=x', 'error=access_denied', '']) {
      const came = await browser()('GET', `${base}/api/session/directory/back?${query}`);
      expect(came.url).toContain('/sign-in');
      const mine = await go('GET', `${base}/api/session/directory/back?${query}`);
      expect(mine.url).toContain('/sign-in');
    }
    expect((await go('GET', `${base}/api/session`)).status).toBe(401);
  });

  it('a second factor and a password are not set up by whoever has none here', async () => {
    const { go } = await come('mara.quill', PEOPLE.mara);
    expect((await go('POST', `${base}/api/session/second-factor`, {})).status).toBe(409);
  });

  it('a directory that is away keeps nobody out who has a password here', async () => {
    provider.kill();
    const away = await openHouse({
      directory: { name: 'Trust directory', issuer: 'http://127.0.0.1:9', clientId: 'x', roles: { staff: 'helper' } },
    });
    await addPerson(away.house.db, 'wren', 'hazel-and-reed', 'administrator', NOW);
    const other = createServer((await webOf(away)).app);
    await new Promise<void>((resolve) => other.listen(0, '127.0.0.1', resolve));
    const at = `http://127.0.0.1:${(other.address() as AddressInfo).port}`;
    const begun = await fetch(`${at}/api/session/directory/begin`, { redirect: 'manual' });
    expect([begun.status, await begun.json()]).toEqual([
      503,
      expect.objectContaining({ title: expect.stringContaining('does not answer') as unknown }),
    ]);
    const signedIn = await fetch(`${at}/api/session`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name: 'wren', password: 'hazel-and-reed' }),
    });
    expect(signedIn.status).toBe(200);
    other.close();
    await away.end();
  });
});
