import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { BodyView, Desk, ItemsAnswer, LogPage, PlanView, Problem, RuleMaterial, RulesAnswer, Session } from '@tally/contract';
import type { Express } from 'express';
import { hostname } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import sharp from 'sharp';
import { Bus } from '../live/bus.js';
import { makeCard, realPictures } from '../testing/cards.js';
import { bring, fileNow, NOW, openHouse, type TestHouse } from '../testing/house.js';
import { z } from 'zod';
import { hostsOf } from './hosts.js';
import { webOf } from '../testing/web.js';
import { addPerson, ensureAdministrator } from '../door/index.js';

let test: TestHouse;
let app: Express;
let bus: Bus;
let cookie: string;
let intakeId: number;
const PASSWORD = 'hazel-and-reed';

beforeAll(async () => {
  test = await openHouse();
  ({ app, bus } = await webOf(test));
  bus.start();
  const { db } = test.house;
  await addPerson(db, 'wren', PASSWORD, 'administrator', NOW);
  const card = join(test.folder, 'CARD');
  await realPictures(card, 4, 'jhead/normal-digicams');
  await makeCard(card, { 'SOUND/1.WAV': 1000 }, 3);
  const large = sharp({ create: { width: 900, height: 600, channels: 3, background: '#0f5b4c' } });
  await large.jpeg().toFile(join(card, 'DCIM/100REAL/large.jpg'));
  intakeId = await bring(test, card);
  cookie = (await signIn(PASSWORD)).headers['set-cookie']![0]!.split(';')[0]!;
});
afterAll(async () => {
  await bus.stop();
  await test.end();
});

const signIn = (password: string, name = 'wren') => request(app).post('/api/session').send({ name, password });
const get = (path: string) => request(app).get(path).set('Cookie', cookie);
const problemOf = (response: { type: string; body: unknown }): Problem => {
  expect(response.type).toBe('application/problem+json');
  return Problem.parse(response.body);
};

describe('signing in', () => {
  it('sets a cookie that no script and no other site can use', async () => {
    const response = await signIn(PASSWORD);
    expect(response.status).toBe(200);
    expect(Session.parse(response.body)).toMatchObject({
      person: { name: 'wren', role: 'administrator' },
      zone: 'Europe/London',
      now: NOW.toISOString(),
    });
    const flags = response.headers['set-cookie']![0]!;
    expect(flags).toMatch(/HttpOnly/i);
    expect(flags).toMatch(/SameSite=Strict/i);
  });

  it('a wrong password and an unknown name get the same answer', async () => {
    const [wrong, unknown] = [await signIn('not-it', 'wren-2'), await signIn('not-it', 'nobody')];
    expect([wrong.status, unknown.status]).toEqual([401, 401]);
    expect(problemOf(wrong)).toEqual(problemOf(unknown));
  });

  it('guessing has to wait, even with the right password then', async () => {
    await addPerson(test.house.db, 'tomas', PASSWORD, 'coordinator', NOW);
    for (let guess = 0; guess < 8; guess++) expect((await signIn(`guess-${guess}`, 'tomas')).status).toBe(401);
    const refused = await signIn(PASSWORD, 'tomas');
    expect(refused.status).toBe(429);
    expect(Number(refused.headers['retry-after'])).toBeGreaterThan(60);
    expect((await signIn(PASSWORD)).status).toBe(200);
  });

  it('signing out ends the session for good; an old one ends by itself', async () => {
    const own = (await signIn(PASSWORD)).headers['set-cookie']![0]!.split(';')[0]!;
    const ask = () => request(app).get('/api/session').set('Cookie', own);
    expect((await ask()).status).toBe(200);
    expect((await request(app).delete('/api/session').set('Cookie', own)).status).toBe(204);
    expect((await ask()).status).toBe(401);
    const late = (await signIn(PASSWORD)).headers['set-cookie']![0]!.split(';')[0]!;
    test.clock.now = new Date(NOW.getTime() + 13 * 3_600_000);
    expect((await request(app).get('/api/session').set('Cookie', late)).status).toBe(401);
    test.clock.now = NOW;
  });

  it('passwords are kept as Argon2id only', async () => {
    const [{ hash }] = await test.house.db.query<[{ hash: string }]>(
      `select password_hash as hash from person where name = 'wren'`,
    );
    expect(hash).toMatch(/^\$argon2id\$/);
  });

  it('the first administrator is made once', async () => {
    expect(await ensureAdministrator(test.house.db, {}, NOW)).toBeNull();
  });
});

describe('every route is closed by default', () => {
  it.each([
    '/api/desk',
    '/api/intakes',
    '/api/intakes/1/items',
    '/api/items/1/picture/sheet',
    '/api/live',
    '/api/contributors',
    '/api/nothing-here',
    '/api/intakes/export.csv',
  ])('%s', async (path) => {
    expect((await request(app).get(path)).status).toBe(401);
    expect((await request(app).get(path).set('Cookie', 'tally_session=made-up')).status).toBe(401);
  });

  it('except health', async () =>
    expect((await request(app).get('/api/health')).body).toEqual({ ok: true, backup: 'by hand', backupAt: null }));

  it('changes asked for by other sites are refused', async () => {
    const ask = (headers: Record<string, string>) =>
      request(app).post('/api/contributors').set('Cookie', cookie).set(headers).send({ name: 'Eve', code: 'EV' });
    expect((await ask({ 'Sec-Fetch-Site': 'cross-site' })).status).toBe(403);
    expect((await ask({ Origin: 'http://evil.example' })).status).toBe(403);
    expect((await ask({ Origin: 'null' })).status).toBe(403);
    expect((await ask({ 'Sec-Fetch-Site': 'same-origin' })).status).toBe(201);
  });

  it('nothing is answered under a name that is not the server’s', async () => {
    const ask = (host: string, path = '/api/health') => request(app).get(path).set('Host', host);
    for (const host of ['evil.example', 'evil.example:4700', '127.0.0.1.evil.example', 'localhost.evil.example', 'a b', ''])
      for (const path of ['/api/health', '/desk', `/api/intakes/${intakeId}/receipt.pdf`])
        expect((await ask(host, path).set('Cookie', cookie)).status).toBe(421);
    for (const host of ['localhost', 'LOCALHOST:4700', '127.0.0.1:80', '[::1]:4700', hostname()])
      expect((await ask(host)).status).toBe(200);
    const answers = hostsOf({ host: '127.0.0.1', hosts: ['tally.marsh.example'], publicUrl: 'https://pictures.example:8443/x' });
    expect(['tally.marsh.example', 'pictures.example', 'marsh.example'].map(answers)).toEqual([true, true, false]);
  });

  it('pages may run nothing from elsewhere', async () => {
    const page = await request(app).get('/desk');
    expect(page.text).toContain('Tally Stick');
    expect(page.headers['content-security-policy']).toContain("script-src 'self' 'wasm-unsafe-eval'");
    expect(page.headers['x-powered-by']).toBeUndefined();
    expect((await request(app).get('/missing.js')).status).toBe(404);
    expect((await request(app).get('/..%2f..%2fetc%2fpasswd')).text).not.toContain('root:');
  });
});

describe('answers keep the contract', () => {
  it('desk, intakes, items, plan', async () => {
    Desk.parse((await get('/api/desk')).body);
    LogPage.parse((await get('/api/intakes?words=barrow')).body);
    const { items } = ItemsAnswer.parse((await get(`/api/intakes/${intakeId}/items`)).body);
    expect(items).toHaveLength(6);
    const plan = PlanView.parse((await get(`/api/intakes/${intakeId}/plan`)).body);
    expect(plan.placements).toHaveLength(6);
  });

  it('an invalid request is answered with problem details that name each fault, and reaches nothing', async () => {
    const before = (await get('/api/contributors')).body as unknown[];
    const response = await request(app)
      .post('/api/contributors')
      .set('Cookie', cookie)
      .send({ name: ' ', code: 'TOOLONG', admin: true });
    expect(response.status).toBe(400);
    expect(
      problemOf(response)
        .faults!.map((fault) => fault.where)
        .sort(),
    ).toEqual(['code', 'name', 'request']);
    expect((await get('/api/contributors')).body).toEqual(before);
  });

  it.each([
    ['/api/intakes/0', 400],
    ['/api/intakes/1e9', 404],
    ['/api/intakes/99999999999', 400],
    ['/api/intakes/x', 400],
    ['/api/intakes?limit=100000', 400],
    ['/api/intakes?from=2026-02-30', 400],
    ['/api/intakes?order=name;drop', 400],
    ['/api/items/1/picture/huge', 404],
  ])('%s is %d', async (path, status) => {
    const response = await get(path);
    expect(response.status).toBe(status);
    problemOf(response);
  });

  it('a body that is no JSON, or too large, is a problem too', async () => {
    const send = (body: string) =>
      request(app).post('/api/contributors').set('Cookie', cookie).set('Content-Type', 'application/json').send(body);
    expect(problemOf(await send('{')).status).toBe(400);
    expect(problemOf(await send(`{"name":"${'x'.repeat(3_000_000)}"}`)).status).toBe(413);
  });

  it('a code or slug in use is a conflict, in words', async () => {
    const response = await request(app).post('/api/contributors').set('Cookie', cookie).send({ name: 'Ian Bell', code: 'ib' });
    expect(response.status).toBe(409);
    expect(problemOf(response).title).toBe('The code IB belongs to somebody already.');
  });
});

describe('pictures', () => {
  it('are made upright, kept, and of the size that was asked for', async () => {
    const { items } = ItemsAnswer.parse((await get(`/api/intakes/${intakeId}/items`)).body);
    const photo = items.find((item) => item.kind === 'photo' && item.width === 900)!;
    const picture = await get(`/api/items/${photo.id}/picture/sheet`).buffer();
    expect(picture.type).toBe('image/jpeg');
    const { width, height } = await sharp(picture.body as Buffer).metadata();
    expect(Math.max(width, height)).toBe(400);
    expect((await get(`/api/items/${photo.id}/picture/sheet`).buffer()).body).toEqual(picture.body);
    expect((await get(`/api/items/${items.find((item) => item.kind === 'sound')!.id}/picture/sheet`)).status).toBe(404);
  });
});

describe('clips and sounds', () => {
  const sound = async () => {
    const { items } = ItemsAnswer.parse((await get(`/api/intakes/${intakeId}/items`)).body);
    return items.find((item) => item.kind === 'sound')!;
  };

  it('come in byte ranges (RFC 9110, 14.2 and 15.3.7), as nothing that a browser would run', async () => {
    const url = `/api/items/${(await sound()).id}/media/original`;
    const whole = await get(url).buffer();
    const bytes = whole.body as Buffer;
    expect([whole.status, bytes.length, whole.headers['accept-ranges']]).toEqual([200, 1000, 'bytes']);
    expect([whole.type, whole.headers['content-security-policy']]).toEqual(['audio/wav', 'sandbox']);
    const part = await get(url).set('Range', 'bytes=100-199').buffer();
    expect([part.status, part.headers['content-range']]).toEqual([206, 'bytes 100-199/1000']);
    expect(part.body).toEqual(bytes.subarray(100, 200));
    expect((await get(url).set('Range', 'bytes=5000-')).status).toBe(416);
  });

  it('what cannot be played, and what is neither, is answered in words', async () => {
    expect(problemOf(await get(`/api/items/${(await sound()).id}/media/small`)).title).toBe('This file cannot be played');
    const { items } = ItemsAnswer.parse((await get(`/api/intakes/${intakeId}/items`)).body);
    const photo = items.find((item) => item.width === 900)!;
    expect((await get(`/api/items/${photo.id}/media/original`)).status).toBe(404);
    const full = await get(`/api/items/${photo.id}/picture/full`).buffer();
    expect((await sharp(full.body as Buffer).metadata()).width).toBe(900);
    expect((await get('/api/items/999999/details')).status).toBe(404);
  });
});

describe('judging and splitting through the wire', () => {
  const patch = (path: string, body: object) => request(app).patch(path).set('Cookie', cookie).send(body);

  it('only what changed since a version is told again', async () => {
    const all = ItemsAnswer.parse((await get(`/api/intakes/${intakeId}/items`)).body);
    const [first] = all.items;
    expect((await patch(`/api/intakes/${intakeId}/judged`, { itemIds: [first!.id], verdict: 'hold' })).status).toBe(204);
    const news = ItemsAnswer.parse((await get(`/api/intakes/${intakeId}/items?since=${all.version}`)).body);
    expect(news.items.map(({ id, verdict }) => [id, verdict])).toEqual([[first!.id, 'hold']]);
    expect(ItemsAnswer.parse((await get(`/api/intakes/${intakeId}/items?since=${news.version}`)).body).items).toEqual([]);
  });

  it('wrong values are refused, each with its reason', async () => {
    const path = `/api/intakes/${intakeId}`;
    const wrong: [string, object, string][] = [
      ['judged', { itemIds: [1], verdict: 'lovely' }, 'verdict'],
      ['judged', { itemIds: [1], useFromMs: 500, useToMs: 200 }, 'useToMs'],
      ['judged', { itemIds: [1], turned: 4 }, 'turned'],
      ['belongs', { itemIds: [] }, 'itemIds'],
      ['clock', { make: null, model: 'M4', serial: null, shift: { kind: 'clock', seconds: 1e12 } }, 'shift.seconds'],
    ];
    for (const [what, body, where] of wrong) {
      const response = await patch(`${path}/${what}`, body);
      expect([response.status, problemOf(response).faults![0]!.where]).toEqual([400, where]);
    }
    expect((await patch(`${path}/belongs`, { itemIds: [1], assignmentId: 4711 })).status).toBe(404);
    expect(z.array(BodyView).parse((await get(`${path}/bodies`)).body).length).toBeGreaterThan(0);
  });
});

describe('the house rule through the wire', () => {
  const post = (body: object) => request(app).post('/api/rules').set('Cookie', cookie).send(body);
  const rule = { folderLine: '{captured:yyyy}', fileLine: '{captured:yyyyMMdd}_{n:000}' };

  it('revisions are told, a new one is made over the newest, and an unsound one is refused with the reason', async () => {
    const { revisions } = RulesAnswer.parse((await get('/api/rules')).body);
    const from = revisions[0]!.revision;
    const unsound = await post({ rule: { ...rule, fileLine: '{original}' }, note: 'shorter', from });
    expect([unsound.status, problemOf(unsound).title]).toEqual([
      409,
      expect.stringContaining('Two different items get one name'),
    ]);
    const made = await post({ rule, note: 'years', from });
    expect([made.status, made.body]).toEqual([201, { revision: from + 1 }]);
    expect((await post({ rule, note: 'again', from })).status).toBe(409);
    const back = await post({ rule: revisions[0]!.rule, note: 'back', from: from + 1 });
    expect(back.status).toBe(201);
  });

  it.each([
    [{ note: 'no rule', from: 1 }],
    [{ rule, note: '', from: 1 }],
    [{ rule: { ...rule, kinds: { sidecar: { fileLine: '{n}' } } }, note: 'x', from: 1 }],
    [{ rule: { ...rule, folderLine: 'x'.repeat(401) }, note: 'x', from: 1 }],
    [{ rule: { ...rule, settings: { colour: 'red' } }, note: 'x', from: 1 }],
  ])('%j is refused at the door', async (body) => expect((await post(body)).status).toBe(400));

  it('gives real items to try a rule on', async () => {
    const material = RuleMaterial.parse((await get(`/api/rules/material?intake=${intakeId}`)).body);
    expect(material.items.length).toBeGreaterThan(4);
    expect((await get('/api/rules/material?intake=none')).status).toBe(400);
  });
});

describe('filing through the wire', () => {
  it('a wrong seal shows the plan as it is; the right one begins; the log has the line', async () => {
    const file = (seal: string) => request(app).post(`/api/intakes/${intakeId}/file`).set('Cookie', cookie).send({ seal });
    const changed = await file('not-what-i-saw');
    expect(changed.status).toBe(409);
    const { seal } = PlanView.parse((changed.body as { plan: unknown }).plan);
    expect((await file(seal)).status).toBe(202);
    expect(problemOf(await file(seal)).title).toBe('This card is being filed already.');
    expect((await get('/api/intakes?state=filing')).body).toMatchObject({ total: 1 });
  });

  it('the log is exported whole as CSV, with what the query finds', async () => {
    const other = join(test.folder, 'OTHER');
    await makeCard(other, { '1.JPG': 50 }, 9);
    await fileNow(test.house, await bring(test, other));
    const csv = await get('/api/intakes/export.csv?state=tallied');
    expect(csv.headers['content-disposition']).toContain('logbook.csv');
    expect(csv.text.trim().split('\r\n')).toHaveLength(2);
    expect(csv.text).toContain('Ines Barrow');
    const tsv = await get('/api/intakes/export.tsv');
    expect(tsv.text.split('\n')).toHaveLength(3);
  });
});

describe('live events', () => {
  it('end with the session by which they were opened', async () => {
    const own = (await signIn(PASSWORD)).headers['set-cookie']![0]!.split(';')[0]!;
    const server = app.listen(0, '127.0.0.1');
    await new Promise((resolve) => server.once('listening', resolve));
    const { port } = server.address() as { port: number };
    const stream = await fetch(`http://127.0.0.1:${port}/api/live`, { headers: { cookie: own } });
    const reader = stream.body!.getReader();
    await reader.read();
    expect((await request(app).delete('/api/session').set('Cookie', own)).status).toBe(204);
    let ended = false;
    while (!ended) ended = (await reader.read()).done;
    expect(ended).toBe(true);
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  });

  it('reach a listener when something happens', async () => {
    const server = app.listen(0, '127.0.0.1');
    await new Promise((resolve) => server.once('listening', resolve));
    const { port } = server.address() as { port: number };
    const stop = new AbortController();
    const stream = await fetch(`http://127.0.0.1:${port}/api/live`, { headers: { cookie }, signal: stop.signal });
    expect(stream.headers.get('content-type')).toBe('text/event-stream');
    const reader = stream.body!.getReader();
    let text = '';
    const made = request(app).post('/api/contributors').set('Cookie', cookie).send({ name: 'Priya Lind', code: 'PL' }).then();
    while (!text.includes('"people"')) text += new TextDecoder().decode((await reader.read()).value);
    await made;
    expect(text).toContain('data: {"type":"people"}');
    stop.abort();
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  });
});
