import { afterAll, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import type { CodeView, HandInLinkView, LinkView, RecoveryCodes, SecondFactorOffer, Session, SessionView } from '@tally/contract';
import type { Express } from 'express';
import { generate } from 'otplib';
import request from 'supertest';
import { never, NOW, openHouse, type TestHouse } from '../testing/house.js';
import { webOf } from '../testing/web.js';
import { account, addPerson, changeAccount, ensureAdministrator, makeAccount } from './accounts.js';
import { Once } from '../work/once.js';
import type { Work } from '../work/worker.js';
import { stepOf } from './second-factor.js';
import { doorWork } from './work.js';

let test: TestHouse;
let app: Express;
const PASSWORD = 'hazel-and-reed';
beforeAll(async () => {
  test = await openHouse();
  ({ app } = await webOf(test));
  await addPerson(test.house.db, 'wren', PASSWORD, 'administrator', NOW);
});
afterAll(() => test.end());
beforeEach(() => {
  test.clock.now = NOW;
});

/** What a room does by itself, once. */
const sweepNow = (work: Work) => work.sweep!(new Once(never, test.house.log));

let address = 0;
/** Signs in from somewhere else each time, so that counted guesses of one test are not those of another. */
const signIn = (name: string, password: string, code?: string, from = `10.0.${(address >> 8) & 255}.${++address & 255}`) =>
  request(app)
    .post('/api/session')
    .set('X-Forwarded-For', from)
    .send({ name, password, ...(code === undefined ? {} : { code }) });
const cookieOf = (response: request.Response) => response.headers['set-cookie']![0]!.split(';')[0]!;
const as = async (name: string, password = PASSWORD) => cookieOf(await signIn(name, password));
const call = (cookie: string) => {
  const of = (method: 'get' | 'post' | 'patch' | 'delete') => (path: string, body?: object) =>
    request(app)[method](`/api${path}`).set('Cookie', cookie).send(body);
  return { get: of('get'), post: of('post'), patch: of('patch'), del: of('delete') };
};
const events = async (kind: string) =>
  (
    await test.house.db.query<{ who: string | null; text: string }[]>('select who, text from event where kind = $1 order by id', [
      kind,
    ])
  ).map(({ who, text }) => `${who ?? '-'}: ${text}`);

describe('the first administrator', () => {
  it('comes by a code that is shown once, where nobody is there yet; there is one, whoever starts', async () => {
    const other = await openHouse();
    const first = (await ensureAdministrator(other.house.db, {}, NOW))!;
    expect(first).toMatchObject({ name: 'admin', code: expect.stringMatching(/^[A-Z2-9]{4}(-[A-Z2-9]{4}){3}$/) as unknown });
    expect(await ensureAdministrator(other.house.db, {}, NOW)).toBeNull();
    const signedIn = await request((await webOf(other)).app)
      .post('/api/session')
      .send({ name: 'admin', password: first.code });
    expect((signedIn.body as Session).must).toBe('choose a password');
    await other.end();
  });
});

describe('an account', () => {
  it('begins with a code, by which a password is chosen before anything else', async () => {
    const wren = call(await as('wren'));
    const made = (await wren.post('/accounts', { name: 'Tomas', role: 'coordinator' })).body as CodeView;
    expect(made.code).toMatch(/^[A-Z2-9]{4}(-[A-Z2-9]{4}){3}$/);
    const first = await signIn('tomas', made.code.toLowerCase().replaceAll('-', ' '));
    expect((first.body as Session).must).toBe('choose a password');
    const tomas = call(cookieOf(first));
    expect((await tomas.get('/desk')).status).toBe(403);
    expect((await tomas.post('/session/password', { wish: 'short' })).status).toBe(409);
    expect((await tomas.post('/session/password', { wish: 'q1w2e3r4t5y6' })).body).toMatchObject({ title: /everybody tries/ });
    expect(((await tomas.post('/session/password', { wish: 'spring tide at four' })).body as Session).must).toBeNull();
    expect((await tomas.get('/desk')).status).toBe(200);
    expect((await signIn('tomas', made.code)).status).toBe(401);
    expect((await signIn('Tomas', 'spring tide at four')).status).toBe(200);
  });

  it('a code ends by itself, and a forgotten password ends every session', async () => {
    const wren = call(await as('wren'));
    const { id, code } = (await wren.post('/accounts', { name: 'Noor', role: 'helper' })).body as CodeView;
    test.clock.now = new Date(NOW.getTime() + 4 * 24 * 3_600_000);
    expect((await signIn('Noor', code)).status).toBe(401);
    test.clock.now = NOW;
    const noor = call(cookieOf(await signIn('Noor', code)));
    await noor.post('/session/password', { wish: 'mud flats at noon' });
    const forgotten = (await wren.post(`/accounts/${id}/code`)).body as CodeView;
    expect((await noor.get('/session')).status).toBe(401);
    expect((await signIn('Noor', 'mud flats at noon')).status).toBe(401);
    expect((await signIn('Noor', forgotten.code)).status).toBe(200);
  });

  it('is retired and put back: nobody signs in meanwhile, and what was open is closed', async () => {
    await addPerson(test.house.db, 'ola', PASSWORD, 'helper', NOW);
    const wren = call(await as('wren'));
    const ola = call(await as('ola'));
    const list = (await wren.get('/accounts')).body as { id: number; name: string }[];
    const { id } = list.find(({ name }) => name === 'ola')!;
    expect((await wren.patch(`/accounts/${id}`, { retired: true })).body).toMatchObject({ retired: true, sessions: 0 });
    expect((await ola.get('/session')).status).toBe(401);
    expect((await signIn('ola', PASSWORD)).status).toBe(401);
    await wren.patch(`/accounts/${id}`, { retired: false });
    expect((await signIn('ola', PASSWORD)).status).toBe(200);
  });

  it('that may less from now on begins anew; one that ends, ends', async () => {
    await addPerson(test.house.db, 'sefa', PASSWORD, 'coordinator', NOW);
    const sefa = call(await as('sefa'));
    const { id } = (await test.house.db.query<{ id: number }[]>(`select id from person where name = 'sefa'`))[0]!;
    await changeAccount(test.house, id, { role: 'looker' }, 'wren');
    expect((await sefa.get('/session')).status).toBe(401);
    expect(((await signIn('sefa', PASSWORD)).body as Session).may).toEqual(['hand in', 'look']);
    const until = new Date(NOW.getTime() + 3_600_000).toISOString();
    await changeAccount(test.house, id, { until }, 'wren');
    const again = call(await as('sefa'));
    test.clock.now = new Date(NOW.getTime() + 3_700_000);
    expect((await again.get('/session')).status).toBe(401);
    expect((await signIn('sefa', PASSWORD)).status).toBe(401);
  });

  it('what was changed is told, and nothing that was so before', async () => {
    const { id } = await makeAccount(test.house, { name: 'Lark', role: 'hand-in', quotaFiles: 5 }, 'wren');
    const same = { name: 'Lark', role: 'hand-in', quotaFiles: 5, contributorId: null, ofKind: null, seesPersons: false } as const;
    const told = (await events('account')).length;
    await changeAccount(test.house, id, same, 'wren');
    expect(await events('account')).toHaveLength(told);
    await changeAccount(test.house, id, { ...same, role: 'looker', seesPersons: true }, 'wren');
    await changeAccount(test.house, id, { quotaFiles: 6, until: null }, 'wren');
    expect((await events('account')).slice(told)).toEqual([
      'wren: Lark: made looker (was hand-in), sees persons from now on.',
      'wren: Lark: bound otherwise.',
    ]);
  });

  it('is the only one of its name, and the last administrator stays', async () => {
    const wren = call(await as('wren'));
    expect((await wren.post('/accounts', { name: 'WREN', role: 'looker' })).status).toBe(409);
    const [me] = ((await wren.get('/accounts')).body as { id: number; name: string }[]).filter(({ name }) => name === 'wren');
    for (const change of [{ retired: true }, { role: 'helper' }, { until: '2027-01-01T00:00:00.000Z' }])
      expect((await wren.patch(`/accounts/${me!.id}`, change)).body).toMatchObject({ title: /only administrator/ });
    expect((await wren.patch('/accounts/99999', { retired: true })).status).toBe(404);
  });

  it('two administrators who retire each other at once: one of them remains', async () => {
    const ids: number[] = [];
    for (const name of ['kit', 'juno']) {
      const { id } = await makeAccount(test.house, { name, role: 'administrator' }, 'wren');
      ids.push(id);
    }
    const { id: wrenId } = (await test.house.db.query<{ id: number }[]>(`select id from person where name = 'wren'`))[0]!;
    await changeAccount(test.house, wrenId, { role: 'coordinator' }, 'kit');
    for (let round = 0; round < 10; round++) {
      const both = await Promise.allSettled(ids.map((id) => changeAccount(test.house, id, { retired: true }, 'the other')));
      expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
      for (const id of ids) await changeAccount(test.house, id, { retired: false }, 'test');
    }
    await changeAccount(test.house, wrenId, { role: 'administrator' }, 'kit');
    for (const id of ids) await changeAccount(test.house, id, { retired: true }, 'wren');
    expect(await account(test.house, wrenId)).toMatchObject({ role: 'administrator', retired: false });
  });
});

describe('a password of one’s own', () => {
  it('is changed by whoever knows it; every other session ends', async () => {
    await addPerson(test.house.db, 'ines', PASSWORD, 'helper', NOW);
    const [here, there] = [call(await as('ines')), call(await as('ines'))];
    expect((await here.post('/session/password', { now: 'wrong', wish: 'reeds in the wind' })).status).toBe(409);
    expect((await here.post('/session/password', { wish: 'reeds in the wind' })).status).toBe(409);
    expect((await here.post('/session/password', { now: PASSWORD, wish: 'reeds in the wind' })).status).toBe(200);
    expect([(await here.get('/session')).status, (await there.get('/session')).status]).toEqual([200, 401]);
    expect(await events('password')).toContainEqual(expect.stringMatching(/^ines: /));
  });

  it('is guessed no faster from inside than from outside', async () => {
    await addPerson(test.house.db, 'mateo', PASSWORD, 'helper', NOW);
    const mateo = call(await as('mateo'));
    const answers: number[] = [];
    for (let i = 0; i < 12; i++)
      answers.push((await mateo.post('/session/password', { now: `x${i}`, wish: 'reeds in the wind' })).status);
    expect(answers.at(-1)).toBe(429);
  });
});

describe('guessing', () => {
  it('is counted before it is looked at: a hundred at once are a hundred', async () => {
    await addPerson(test.house.db, 'halvard', PASSWORD, 'helper', NOW);
    const all = await Promise.all(Array.from({ length: 30 }, (_, i) => signIn('halvard', `guess ${i}`, undefined, '10.9.9.9')));
    expect(all.filter(({ status }) => status === 401).length).toBeLessThanOrEqual(8);
    expect(all.every(({ status }) => status === 401 || status === 429)).toBe(true);
  });

  it('a name that is nobody’s is not kept: it may be a password', async () => {
    await signIn('my secret password', 'x');
    expect((await events('sign-in refused')).join()).not.toContain('my secret password');
    expect((await events('sign-in refused')).at(-1)).toMatch(/^-: Name or password was wrong/);
  });
});

describe('sessions', () => {
  it('are listed and ended, one or all but this one', async () => {
    await addPerson(test.house.db, 'priya', PASSWORD, 'helper', NOW);
    const [a, b, c] = [call(await as('priya')), call(await as('priya')), call(await as('priya'))];
    const list = (await a.get('/session/all')).body as SessionView[];
    expect([list.length, list.filter(({ here }) => here).length]).toEqual([3, 1]);
    await a.del(`/session/all/${list.find(({ here }) => !here)!.id}`);
    expect([(await b.get('/session')).status, (await c.get('/session')).status].sort()).toEqual([200, 401]);
    await a.del('/session/all');
    expect([(await b.get('/session')).status, (await c.get('/session')).status, (await a.get('/session')).status]).toEqual([
      401, 401, 200,
    ]);
    expect((await a.del('/session/all/0000000000000000')).status).toBe(204);
    expect((await a.del('/session/all/x')).status).toBe(400);
  });

  it('end after seven days however much they are used', async () => {
    const wren = call(await as('wren'));
    for (let hours = 0; hours < 7 * 24; hours += 6) {
      test.clock.now = new Date(NOW.getTime() + hours * 3_600_000);
      expect([hours, (await wren.get('/session')).status]).toEqual([hours, 200]);
    }
    test.clock.now = new Date(NOW.getTime() + 7 * 24 * 3_600_000 + 1);
    expect((await wren.get('/session')).status).toBe(401);
  });

  it('a browser that signs in anew leaves no session behind', async () => {
    const before = await as('wren');
    await request(app).post('/api/session').set('Cookie', before).send({ name: 'wren', password: PASSWORD });
    expect((await call(before).get('/session')).status).toBe(401);
  });
});

describe('the second factor', () => {
  it('agrees with the vectors of RFC 6238, appendix B (SHA-1, the last six digits)', async () => {
    // The secret is the ASCII text 12345678901234567890, here in base32.
    const secret = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';
    const vectors: [number, string][] = [
      [59, '94287082'],
      [1_111_111_109, '07081804'],
      [1_111_111_111, '14050471'],
      [1_234_567_890, '89005924'],
      [2_000_000_000, '69279037'],
      [20_000_000_000, '65353130'],
    ];
    for (const [seconds, digits] of vectors) {
      expect(await stepOf(secret, digits.slice(-6), seconds * 1000)).toBe(Math.floor(seconds / 30));
      expect(await stepOf(secret, digits.slice(-6), (seconds + 90) * 1000)).toBeNull();
    }
  });

  it('is set up, asked for, used once each time, and lost with recovery codes', async () => {
    await addPerson(test.house.db, 'junia', PASSWORD, 'administrator', NOW);
    const junia = call(await as('junia'));
    const offer = (await junia.post('/session/second-factor')).body as SecondFactorOffer;
    expect(offer.address).toMatch(/^otpauth:\/\/totp\//);
    expect((await junia.post('/session/second-factor/confirm', { code: '000000' })).status).toBe(409);
    const at = (seconds: number) => generate({ secret: offer.secret, epoch: Math.floor(NOW.getTime() / 1000) + seconds });
    const { codes } = (await junia.post('/session/second-factor/confirm', { code: await at(0) })).body as RecoveryCodes;
    expect(codes).toHaveLength(10);

    expect((await signIn('junia', PASSWORD)).body).toMatchObject({ status: 401, needs: 'second factor' });
    expect((await signIn('junia', 'wrong')).body).not.toHaveProperty('needs');
    // The code that confirmed it was used.
    expect((await signIn('junia', PASSWORD, await at(0))).status).toBe(401);
    expect((await signIn('junia', PASSWORD, await at(30))).status).toBe(200);
    expect((await signIn('junia', PASSWORD, await at(30))).status).toBe(401);
    expect((await signIn('junia', PASSWORD, codes[0]!.toLowerCase())).status).toBe(200);
    expect((await signIn('junia', PASSWORD, codes[0])).status).toBe(401);

    expect((await junia.post('/session/second-factor')).status).toBe(409);
    expect((await junia.post('/session/second-factor/remove', { code: '123456' })).status).toBe(409);
    expect((await junia.post('/session/second-factor/remove', { code: codes[1]! })).status).toBe(204);
    expect((await signIn('junia', PASSWORD)).status).toBe(200);
  });

  it('can be demanded of administrators: until then they set it up, and do nothing else', async () => {
    (test.house.settings as { secondFactor: string }).secondFactor = 'administrators must';
    const wren = call(await as('wren'));
    expect((await wren.get('/session')).body).toMatchObject({ must: 'set up a second factor' });
    expect((await wren.get('/desk')).body).toMatchObject({ status: 403, needs: 'set up a second factor' });
    expect((await wren.post('/session/second-factor')).status).toBe(200);
    (test.house.settings as { secondFactor: string }).secondFactor = 'offered';
  });
});

describe('a hand-in link', () => {
  const made = async (said: object) => (await call(await as('wren')).post('/links', said)).body as HandInLinkView;
  const open = (token: string, cookie = '', instead?: boolean) =>
    request(app)
      .post('/api/hand-in/open')
      .set('Cookie', cookie)
      .send({ token, ...(instead === undefined ? {} : { instead }) });
  const file = (name: string, bytes: number) => ({
    path: name,
    bytes,
    modifiedMs: 1,
    quickHash: name.padEnd(32, '0').replace(/[^0-9a-f]/g, 'a'),
  });
  const announce = (cookie: string, files: object[], more: object = {}) =>
    call(cookie).post('/hand-in', { ...test.slip, name: 'PHONE', files, ...more });

  it('is an address and a code to scan, for so long', async () => {
    const link = await made({ hours: 72, name: 'class 7b' });
    expect(link.address).toBe(`http://127.0.0.1/hand-in#k=${link.token}`.replace('127.0.0.1', new URL(link.address).host));
    expect(link.picture).toMatch(/^data:image\/png;base64,/);
    expect(Date.parse(link.expiresAt) - NOW.getTime()).toBe(72 * 3_600_000);
    expect((await open(link.token)).status).toBe(200);
    test.clock.now = new Date(NOW.getTime() + 73 * 3_600_000);
    expect((await open(link.token)).status).toBe(410);
  });

  it('is bound to whom and what was said', async () => {
    const link = await made({ hours: 1, ...test.slip });
    const pupil = cookieOf(await open(link.token));
    const choices = (await call(pupil).get('/hand-in/choices')).body as { contributors: object[]; bound: object };
    expect(choices.contributors).toEqual([{ id: test.slip.contributorId, name: 'Ines Barrow' }]);
    expect(choices.bound).toMatchObject({ assignment: { title: 'Reed planting day' } });
    expect((await announce(pupil, [file('a.jpg', 5)], { contributorId: null, saysName: 'Eve' })).status).toBe(409);
    expect((await announce(pupil, [file('a.jpg', 5)], { assignmentId: null })).status).toBe(201);
    const [row] = await test.house.db.query<{ assignmentId: number }[]>(
      'select assignment_id as "assignmentId" from hand_in order by id desc limit 1',
    );
    expect(row!.assignmentId).toBe(test.slip.assignmentId);
  });

  it('holds its quota, also when two announce at once', async () => {
    const link = await made({ hours: 1, quotaBytes: 1000, quotaFiles: 3 });
    const pupil = cookieOf(await open(link.token));
    const both = await Promise.all([announce(pupil, [file('b.jpg', 600)]), announce(pupil, [file('c.jpg', 600)])]);
    expect(both.map(({ status }) => status).sort()).toEqual([201, 413]);
    expect((await announce(pupil, [file('d.jpg', 1), file('e.jpg', 1), file('f.jpg', 1)])).body).toMatchObject({
      title: /3 files/,
    });
    expect((await announce(pupil, [file('d.jpg', 1), file('e.jpg', 1)])).status).toBe(201);
  });

  it('takes nothing for which there is no room: 507, before a byte is sent', async () => {
    const link = await made({ hours: 1 });
    const pupil = cookieOf(await open(link.token));
    const answer = await announce(pupil, [file('huge.mov', 9e12)]);
    expect(answer.body).toMatchObject({ status: 507, title: /no room/ });
  });

  it('is listed with what came in, and ended at once, sessions too', async () => {
    const wren = call(await as('wren'));
    const link = await made({ hours: 1, name: 'class 8a', ofKind: 'pupil' });
    const pupil = cookieOf(await open(link.token));
    await announce(pupil, [file('g.jpg', 700)], { contributorId: null, saysName: 'Eve' });
    const listed = async () => ((await wren.get('/links')).body as LinkView[]).find(({ id }) => id === link.id);
    expect(await listed()).toMatchObject({
      name: 'class 8a',
      ofKind: 'pupil',
      handIns: 1,
      files: 1,
      bytes: 700,
      sessions: 1,
      revokedAt: null,
    });
    expect((await wren.del(`/links/${link.id}`)).status).toBe(204);
    expect((await call(pupil).get('/hand-in/choices')).status).toBe(401);
    expect((await open(link.token)).status).toBe(410);
    expect(await listed()).toMatchObject({ sessions: 0, revokedAt: NOW.toISOString() });
    expect((await wren.del(`/links/${link.id}`)).status).toBe(404);
    const said = await events('hand-in link');
    expect(said.slice(-2)).toEqual([expect.stringMatching(/class 8a was made/), expect.stringMatching(/class 8a was ended/)]);
  });

  it('is forgotten with whom it let in when its days are over; what came in by it stays', async () => {
    const link = await made({ hours: 1, name: 'long ago' });
    const pupil = cookieOf(await open(link.token));
    const { id: handInId } = (await announce(pupil, [file('h.jpg', 5)])).body as { id: number };
    test.clock.now = new Date(NOW.getTime() + 89 * 24 * 3_600_000);
    await sweepNow(doorWork(test.house));
    const people = () => test.house.db.query<{ n: number }[]>('select count(*)::int as n from person where id = $1', [link.id]);
    expect((await people())[0]!.n).toBe(1);
    test.clock.now = new Date(NOW.getTime() + 91 * 24 * 3_600_000);
    await sweepNow(doorWork(test.house));
    expect((await people())[0]!.n).toBe(0);
    const [handIn] = await test.house.db.query<{ personId: number | null }[]>(
      'select person_id as "personId" from hand_in where id = $1',
      [handInId],
    );
    expect(handIn).toEqual({ personId: null });
    expect((await events('retention')).join()).toMatch(/hand-in links .* were forgotten/);
  });

  it('never replaces somebody’s session unasked', async () => {
    const link = await made({ hours: 1 });
    const wren = await as('wren');
    expect((await open(link.token, wren)).body).toMatchObject({ status: 409, needs: 'instead' });
    expect((await call(wren).get('/session')).status).toBe(200);
    expect((await open(link.token, wren, true)).status).toBe(200);
    expect((await call(wren).get('/session')).status).toBe(401);
  });
});
