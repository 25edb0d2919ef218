import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { HandInLinkView, HandInView } from '@tally/contract';
import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { chmod, mkdir, open, readdir, readFile, utimes, writeFile, stat } from 'node:fs/promises';
import { createReadStream } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { connect, type AddressInfo, createServer as createRelay, type Socket } from 'node:net';
import { join, relative } from 'node:path';
import sharp from 'sharp';
import * as tus from 'tus-js-client';
import { hashFile, quickHash } from '../drive/hashing.js';
import { bring, fileNow, never, NOW, openHouse, type TestHouse } from '../testing/house.js';
import { webOf } from '../testing/web.js';
import { addPerson } from '../door/index.js';
import { theIntake } from '../house/index.js';
import { itemsOf } from '../seeing/index.js';
import { changeSlip } from '../slip/index.js';
import { forgetHandIns } from './hand-in.js';
import { readIntake } from './read-items.js';

const BLUE = { width: 60, height: 40, channels: 3 as const, background: '#2244aa' };
let test: TestHouse;
let server: Server;
let base: string;
let coordinator: string;
let junior: string;

beforeAll(async () => {
  test = await openHouse();
  const { db } = test.house;
  const { app } = await webOf(test);
  server = createServer(app);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  await addPerson(db, 'wren', 'hazel-and-reed', 'coordinator', NOW);
  await addPerson(db, 'junior', 'salt-and-marsh', 'hand-in', NOW);
  coordinator = await signIn('wren', 'hazel-and-reed');
  junior = await signIn('junior', 'salt-and-marsh');
});
afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await test.end();
});

const cookieOf = (response: Response) => response.headers.getSetCookie()[0]!.split(';')[0]!;
const post = (path: string, body: unknown, cookie = '') =>
  fetch(base + path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', Cookie: cookie },
    body: JSON.stringify(body),
  });
const signIn = async (name: string, password: string) => cookieOf(await post('/api/session', { name, password }));

interface Sent {
  readonly path: string;
  readonly file: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly quickHash: string;
  readonly hash: string;
}

/** A file on the contributor's own machine. */
async function ownFile(path: string, content: Buffer): Promise<Sent> {
  const file = join(test.folder, 'own', path);
  await mkdir(join(file, '..'), { recursive: true });
  await writeFile(file, content);
  await utimes(file, new Date('2026-04-18T09:00:00Z'), new Date('2026-04-18T09:00:00Z'));
  const handle = await open(file);
  const quick = (await quickHash(handle, content.length)).toString('hex');
  await handle.close();
  return {
    path,
    file,
    bytes: content.length,
    modifiedMs: Date.parse('2026-04-18T09:00:00Z'),
    quickHash: quick,
    hash: (await hashFile(file)).toString('hex'),
  };
}

const begin = async (files: readonly Sent[], cookie = junior, name = 'NOOR PHONE') => {
  const body = {
    ...test.slip,
    name,
    files: files.map(({ path, bytes, modifiedMs, quickHash: quick }) => ({ path, bytes, modifiedMs, quickHash: quick })),
  };
  const answer = await post('/api/hand-in', body, cookie);
  return { status: answer.status, view: (await answer.json()) as HandInView };
};

const announce = (handIn: number, position: number, hash: string) =>
  Object.entries({ handIn: String(handIn), position: String(position), xxh128: hash })
    .map(([key, value]) => `${key} ${Buffer.from(value).toString('base64')}`)
    .join(',');

const create = (handIn: number, position: number, { bytes, hash }: { bytes: number; hash: string }, cookie = junior) =>
  fetch(`${base}/api/uploads`, {
    method: 'POST',
    headers: {
      'Tus-Resumable': '1.0.0',
      'Upload-Length': String(bytes),
      'Upload-Metadata': announce(handIn, position, hash),
      Cookie: cookie,
    },
  });

const patch = (url: string, offset: number, body: Uint8Array, cookie = junior) =>
  fetch(url, {
    method: 'PATCH',
    headers: {
      'Tus-Resumable': '1.0.0',
      'Upload-Offset': String(offset),
      'Content-Type': 'application/offset+octet-stream',
      Cookie: cookie,
    },
    body: body as unknown as BodyInit,
  });

/** Sends a file with a client that we did not write. */
const send = (handIn: number, position: number, sent: Sent, endpoint = `${base}/api/uploads`) =>
  new Promise<void>((resolve, reject) => {
    const upload = new tus.Upload(createReadStream(sent.file), {
      endpoint,
      uploadSize: sent.bytes,
      chunkSize: 1 << 20,
      retryDelays: Array.from({ length: 60 }, () => 20),
      metadata: { handIn: String(handIn), position: String(position), xxh128: sent.hash },
      headers: { Cookie: junior },
      onSuccess: () => resolve(),
      onError: reject,
    });
    upload.start();
  });

describe('somebody who may only hand in', () => {
  it('gets to the choices and nowhere else', async () => {
    const choices = await fetch(`${base}/api/hand-in/choices`, { headers: { Cookie: junior } });
    expect(await choices.json()).toMatchObject({
      house: 'Ostrel Bay Tidelands Trust',
      contributors: [{ name: 'Ines Barrow' }],
      until: null,
    });
    for (const path of ['/api/desk', '/api/intakes', '/api/items/1/picture/sheet', '/api/live', '/api/rules'])
      expect((await fetch(base + path, { headers: { Cookie: junior } })).status).toBe(403);
    expect((await post('/api/links', {}, junior)).status).toBe(403);
    expect((await fetch(`${base}/api/hand-in/choices`)).status).toBe(401);
  });

  it('comes by a link without a password, until the link ends', async () => {
    const { token } = (await (await post('/api/links', { hours: 24 }, coordinator)).json()) as HandInLinkView;
    const opened = await post('/api/hand-in/open', { token });
    expect(await opened.json()).toEqual({ until: '2026-04-22T16:42:00.000Z' });
    const cookie = cookieOf(opened);
    const asks = () => fetch(`${base}/api/hand-in/choices`, { headers: { Cookie: cookie } });
    expect((await asks()).status).toBe(200);
    expect((await fetch(`${base}/api/desk`, { headers: { Cookie: cookie } })).status).toBe(403);
    test.clock.now = new Date('2026-04-22T16:43:00Z');
    expect((await asks()).status).toBe(401);
    expect((await post('/api/hand-in/open', { token })).status).toBe(410);
    expect((await post('/api/hand-in/open', { token: 'x'.repeat(32) })).status).toBe(410);
    test.clock.now = NOW;
  });
});

describe('tus 1.0.0, against the protocol’s text', () => {
  it('creation: 201 with a Location; HEAD tells the offset; PATCH goes on from there', async () => {
    const sent = await ownFile('tus/A.JPG', randomBytes(3000));
    const { view } = await begin([sent]);
    const created = await create(view.id, 0, sent);
    expect(created.status).toBe(201);
    const url = new URL(created.headers.get('location')!, base).href;
    const head = () => fetch(url, { method: 'HEAD', headers: { 'Tus-Resumable': '1.0.0', Cookie: junior } });
    // "The Server MUST always include the Upload-Offset header … even if the offset is 0"; "MUST prevent caching".
    const first = await head();
    expect([first.headers.get('upload-offset'), first.headers.get('upload-length'), first.headers.get('cache-control')]).toEqual([
      '0',
      '3000',
      'no-store',
    ]);
    const content = await readFile(sent.file);
    const patched = await patch(url, 0, content.subarray(0, 1000));
    expect([patched.status, patched.headers.get('upload-offset')]).toEqual([204, '1000']);
    // Expiration: "MUST be included in every PATCH response if the upload is going to expire".
    expect(Date.parse(patched.headers.get('upload-expires')!)).toBeGreaterThan(Date.now());
    // "If the offsets do not match, the Server MUST respond with the 409 Conflict status without modifying the upload resource."
    expect((await patch(url, 500, content.subarray(500))).status).toBe(409);
    expect((await head()).headers.get('upload-offset')).toBe('1000');
    expect((await patch(url, 1000, content.subarray(1000))).status).toBe(204);
    const state = (await (await fetch(`${base}/api/hand-in/${view.id}`, { headers: { Cookie: junior } })).json()) as HandInView;
    expect(state.files).toEqual([{ position: 0, state: 'arrived', problem: null }]);
  });

  it('a request without the protocol’s version is refused with 412', async () => {
    expect(
      (await fetch(`${base}/api/uploads`, { method: 'POST', headers: { Cookie: junior, 'Upload-Length': '3' } })).status,
    ).toBe(412);
  });

  it('what nobody announced, somebody else’s and what is done already is refused', async () => {
    const sent = await ownFile('other/B.JPG', randomBytes(100));
    const { view } = await begin([sent]);
    expect((await create(view.id, 5, sent)).status).toBe(404);
    expect((await create(view.id, 0, sent, coordinator)).status).toBe(404);
    expect((await create(view.id, 0, { ...sent, bytes: 99 })).status).toBe(413);
    const created = await create(view.id, 0, sent);
    const url = new URL(created.headers.get('location')!, base).href;
    expect((await patch(url, 0, await readFile(sent.file), coordinator)).status).toBe(404);
    expect((await patch(url, 0, await readFile(sent.file))).status).toBe(204);
    expect((await create(view.id, 0, sent)).status).toBe(409);
    expect((await fetch(`${base}/api/hand-in/${view.id}`, { headers: { Cookie: coordinator } })).status).toBe(404);
  });

  it('an address that names one upload and means another is none', async () => {
    const mine = await ownFile('mine/M.JPG', randomBytes(400));
    const theirs = await ownFile('theirs/T.JPG', randomBytes(400));
    const urlOf = (created: globalThis.Response) => new URL(created.headers.get('location')!, base).href;
    const own = urlOf(await create((await begin([mine])).view.id, 0, mine));
    const { view } = await begin([theirs], coordinator);
    const other = urlOf(await create(view.id, 0, theirs, coordinator));
    const name = other.split('/').at(-1)!;
    const twisted = [`${own}?x=/${name}`, `${own}?/${name}`, `${own}/${name}`, `${base}/api/uploads?x=/${name}`];
    for (const url of [
      ...twisted,
      `${own}/../${name}`,
      `${own}%2f..%2f${name}`,
      `${own}%3fx=/${name}`,
      `${base}/api/uploads//${name}`,
    ]) {
      expect((await patch(url, 0, randomBytes(400))).status).toBe(404);
      expect((await fetch(url, { method: 'DELETE', headers: { 'Tus-Resumable': '1.0.0', Cookie: junior } })).status).toBe(404);
    }
    const head = await fetch(other, { method: 'HEAD', headers: { 'Tus-Resumable': '1.0.0', Cookie: coordinator } });
    expect([head.status, head.headers.get('upload-offset')]).toEqual([200, '0']);
  });

  it('an upload that announces nothing is refused in words', async () => {
    for (const metadata of [undefined, '', 'handIn', `handIn ${Buffer.from('1').toString('base64')}`, 'handIn !!!!']) {
      const headers = { 'Tus-Resumable': '1.0.0', 'Upload-Length': '3', Cookie: junior };
      const answer = await fetch(`${base}/api/uploads`, {
        method: 'POST',
        headers: metadata === undefined ? headers : { ...headers, 'Upload-Metadata': metadata },
      });
      expect(answer.status).toBe(400);
    }
  });

  it('a file sent twice at once arrives once, and nothing of the other is left', async () => {
    const sent = await ownFile('twice/D.JPG', randomBytes(3000));
    const { view } = await begin([sent]);
    const content = await readFile(sent.file);
    const urls = [await create(view.id, 0, sent), await create(view.id, 0, sent)].map(
      (created) => new URL(created.headers.get('location')!, base).href,
    );
    expect((await patch(urls[0]!, 0, content.subarray(0, 10))).status).toBe(204);
    expect((await patch(urls[1]!, 0, content)).status).toBe(204);
    const done = (await (await post(`/api/hand-in/${view.id}/done`, {}, junior)).json()) as HandInView;
    expect(done.intakeNumber).toMatch(/^2026-/);
    expect((await patch(urls[0]!, 10, content.subarray(10))).status).toBeGreaterThanOrEqual(400);
    const left = await readdir(join(test.settings.dataDir, 'arriving'), { recursive: true });
    expect(left.filter((name) => name.includes(`${view.id}-0-`) || name.startsWith(`${view.id}/`))).toEqual([]);
  });

  it('bytes that are not those announced do not count, and can be sent again', async () => {
    const sent = await ownFile('lie/C.JPG', randomBytes(5000));
    const { view } = await begin([sent]);
    const url = new URL((await create(view.id, 0, sent)).headers.get('location')!, base).href;
    const other = randomBytes(5000);
    expect((await patch(url, 0, other)).status).toBe(460);
    expect((await post(`/api/hand-in/${view.id}/done`, {}, junior)).status).toBe(409);
    await send(view.id, 0, sent);
    expect(((await (await post(`/api/hand-in/${view.id}/done`, {}, junior)).json()) as HandInView).done).toBe(true);
  });
});

describe('a hand-in', () => {
  it('refuses paths that lead out of the card', async () => {
    const sent = await ownFile('x.jpg', randomBytes(10));
    for (const path of ['../x.jpg', '/etc/passwd', 'a/../../x', 'a//b', 'a\\b', 'a\nb', '.', `${'é'.repeat(130)}.jpg`])
      expect((await begin([{ ...sent, path }])).status).toBe(400);
    expect((await begin([sent, sent])).status).toBe(400);
  });

  it('refuses a file that is a folder of another one', async () => {
    const sent = await ownFile('x.jpg', randomBytes(10));
    for (const path of ['x.jpg/y', 'x.jpg/a/b']) expect((await begin([sent, { ...sent, path }])).status).toBe(400);
  });

  it('lies where nobody else of this machine can read it, as do previews and receipts', async () => {
    const sent = await ownFile('private/P.JPG', await sharp({ create: BLUE }).jpeg().toBuffer());
    const { view } = await begin([sent]);
    await send(view.id, 0, sent);
    const { intakeNumber } = (await (await post(`/api/hand-in/${view.id}/done`, {}, junior)).json()) as HandInView;
    const [{ id }] = await test.house.db.query<[{ id: number }]>('select id from intake where number = $1', [intakeNumber]);
    await readIntake(test.house, id, never);
    const [item] = await itemsOf(test.house.db, id);
    await fetch(`${base}/api/items/${item!.id}/picture/sheet`, { headers: { Cookie: coordinator } });
    await fetch(`${base}/api/intakes/${id}/receipt.pdf`, { headers: { Cookie: coordinator } });
    const files = (await readdir(test.settings.dataDir, { recursive: true, withFileTypes: true }))
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name));
    for (const what of [/handed-in.*P\.JPG$/, /previews.*\.jpg$/, /receipts.*\.pdf$/])
      expect(files.filter((file) => what.test(file))).not.toEqual([]);
    // As nobody: a user of this machine with no rights of its own (only root can become one).
    const asNobody = process.getuid?.() === 0 ? ['setpriv', '--reuid=65534', '--regid=65534', '--clear-groups'] : null;
    await chmod(test.folder, 0o755);
    for (const file of files) {
      if (asNobody) expect(() => execFileSync(asNobody[0]!, [...asNobody.slice(1), 'cat', file], { stdio: 'ignore' })).toThrow();
      const top = join(test.settings.dataDir, relative(test.settings.dataDir, file).split('/')[0]!);
      expect((await stat(top)).mode & 0o077).toBe(0);
    }
    if (asNobody) execFileSync(asNobody[0]!, [...asNobody.slice(1), 'ls', test.shared], { stdio: 'ignore' });
  });

  it('becomes an intake like any other, with names, folders, times and slip; what is on the drive is not sent', async () => {
    const known = await ownFile('known/DCIM/OLD.JPG', randomBytes(200_000));
    const intake = await bring(test, join(test.folder, 'own/known'));
    await fileNow(test.house, intake);
    const fresh = await ownFile('phone/DCIM/100/NEW.JPG', randomBytes(150_000));
    const files = [
      { ...known, path: 'DCIM/OLD.JPG' },
      { ...fresh, path: 'DCIM/100/NEW.JPG' },
    ];
    const { view } = await begin(files);
    expect(view.files.map(({ state }) => state)).toEqual(['filed', 'wanted']);
    await send(view.id, 1, fresh);
    const done = (await (await post(`/api/hand-in/${view.id}/done`, {}, junior)).json()) as HandInView;
    expect(done.intakeNumber).toMatch(/^2026-/);
    const [row] = await test.house.db.query<[{ id: number; contributor_id: number; source_path: string; received_by: string }]>(
      'select id, contributor_id, source_path, received_by from intake where number = $1',
      [done.intakeNumber],
    );
    expect(row).toMatchObject({ contributor_id: test.slip.contributorId, received_by: 'junior' });
    const arrived = join(row.source_path, 'DCIM/100/NEW.JPG');
    execFileSync('cmp', [fresh.file, arrived]);
    expect((await stat(arrived)).mtimeMs).toBe(fresh.modifiedMs);
    expect((await itemsOf(test.house.db, row.id)).map(({ path }) => path)).toEqual(['DCIM/100/NEW.JPG']);
    // Saying so twice makes no second intake.
    expect((await (await post(`/api/hand-in/${view.id}/done`, {}, junior)).json()) as HandInView).toEqual(done);
  });

  it('of somebody whom the list does not know says who it is by their own word; they are told when all of it is proven', async () => {
    const sent = await ownFile('stranger/DCIM/N.JPG', randomBytes(50_000));
    const { path, bytes, modifiedMs, quickHash: quick } = sent;
    const start = {
      contributorId: null,
      assignmentId: null,
      name: 'PHONE',
      files: [{ path, bytes, modifiedMs, quickHash: quick }],
    };
    expect((await post('/api/hand-in', start, junior)).status).toBe(400);
    const begun = (await (await post('/api/hand-in', { ...start, saysName: 'Noor Vale' }, junior)).json()) as HandInView;
    await send(begun.id, 0, sent);
    const done = (await (await post(`/api/hand-in/${begun.id}/done`, {}, junior)).json()) as HandInView;
    expect(done).toMatchObject({ safe: 0, name: 'PHONE' });
    const [{ id }] = await test.house.db.query<[{ id: number }]>('select id from intake where number = $1', [done.intakeNumber]);
    expect(await theIntake(test.house, id)).toMatchObject({
      ...{ contributor: null, handedIn: true },
      note: 'Handed in by “Noor Vale”, whom the list does not know: say who it is.',
    });
    await readIntake(test.house, id, never);
    await changeSlip(test.house, id, test.slip, 'wren');
    expect((await theIntake(test.house, id)).note).toBeNull();
    const stands = async () =>
      ((await (await fetch(`${base}/api/hand-in/${begun.id}`, { headers: { Cookie: junior } })).json()) as HandInView).safe;
    expect(await stands()).toBe(0);
    await fileNow(test.house, id);
    expect(await stands()).toBe(1);
    // Nobody else is told.
    const other = await fetch(`${base}/api/hand-in/${begun.id}`, { headers: { Cookie: coordinator } });
    expect(other.status).toBe(404);
  });

  it('the same card chosen again goes on where it stopped', async () => {
    const files = [await ownFile('again/1.JPG', randomBytes(1000)), await ownFile('again/2.JPG', randomBytes(1000))];
    const first = await begin(files);
    await send(first.view.id, 0, files[0]!);
    const second = await begin(files);
    expect(second.view.id).toBe(first.view.id);
    expect(second.view.files.map(({ state }) => state)).toEqual(['arrived', 'wanted']);
    const partly = await post(`/api/hand-in/${first.view.id}/done`, { withoutMissing: true }, junior);
    expect(((await partly.json()) as HandInView).intakeNumber).toMatch(/^2026-/);
  });
});

it('a large upload with the connection cut ten times arrives byte for byte', async () => {
  const bytes = Number(process.env['TALLY_UPLOAD_MB'] ?? 48) * 1_000_000;
  const file = join(test.folder, 'own/large.bin');
  await mkdir(join(file, '..'), { recursive: true });
  execFileSync('sh', ['-c', `head -c ${bytes} /dev/urandom > "${file}"`]);
  const handle = await open(file);
  const quick = (await quickHash(handle, bytes)).toString('hex');
  await handle.close();
  const sent = { path: 'CLIP.MP4', file, bytes, modifiedMs: 0, quickHash: quick, hash: (await hashFile(file)).toString('hex') };
  const { view } = await begin([sent]);
  const relay = await cuttingRelay(10, Math.floor(bytes / 12));
  try {
    await send(view.id, 0, sent, `http://127.0.0.1:${relay.port}/api/uploads`);
  } finally {
    relay.close();
  }
  expect(relay.cuts()).toBe(10);
  const done = (await (await post(`/api/hand-in/${view.id}/done`, {}, junior)).json()) as HandInView;
  const [row] = await test.house.db.query<[{ source_path: string }]>('select source_path from intake where number = $1', [
    done.intakeNumber,
  ]);
  execFileSync('cmp', [file, join(row.source_path, 'CLIP.MP4')]);
}, 600_000);

/** Passes connections on to the server, and cuts one each time so many bytes have gone through, a number of times. */
async function cuttingRelay(times: number, every: number): Promise<{ port: number; cuts: () => number; close: () => void }> {
  let cuts = 0;
  let through = 0;
  const sockets = new Set<Socket>();
  const relay = createRelay((client) => {
    const onward = connect((server.address() as AddressInfo).port, '127.0.0.1');
    for (const socket of [client, onward]) {
      sockets.add(socket);
      socket.on('error', () => undefined);
      socket.on('close', () => sockets.delete(socket));
    }
    client.on('data', (chunk) => {
      through += chunk.length;
      if (through > every && cuts < times) {
        through = 0;
        cuts++;
        client.destroy();
        onward.destroy();
      } else onward.write(chunk);
    });
    client.on('end', () => onward.end());
    onward.pipe(client);
  });
  await new Promise<void>((resolve) => relay.listen(0, '127.0.0.1', resolve));
  return {
    port: (relay.address() as AddressInfo).port,
    cuts: () => cuts,
    close: () => {
      for (const socket of sockets) socket.destroy();
      relay.close();
    },
  };
}

describe('hand-ins whose days are over', () => {
  it('are forgotten: with what arrived of those that nobody went on with, and not with what was taken in', async () => {
    const begin = async (name: string) =>
      (
        (await (
          await post(
            '/api/hand-in',
            { ...test.slip, name, files: [{ path: `${name}.jpg`, bytes: 7, modifiedMs: 1, quickHash: 'e'.repeat(32) }] },
            junior,
          )
        ).json()) as HandInView
      ).id;
    const left = await begin('LEFT');
    const [row] = await test.house.db.query<[{ folder: string }]>('select folder from hand_in where id = $1', [left]);
    const folder = join(test.settings.dataDir, 'arriving', row.folder);
    await mkdir(folder, { recursive: true });
    await writeFile(join(folder, 'part.jpg'), 'some');
    const there = async (id: number) =>
      (await test.house.db.query<{ id: number }[]>('select id from hand_in where id = $1', [id])).length === 1;
    const taken = await test.house.db.query<{ id: number }[]>('select id from hand_in where done and intake_id is not null');
    const day = 24 * 3_600_000;
    test.clock.now = new Date(NOW.getTime() + 59 * day);
    await forgetHandIns(test.house);
    expect([await there(left), await readdir(folder)]).toEqual([true, ['part.jpg']]);
    test.clock.now = new Date(NOW.getTime() + 61 * day);
    expect(await forgetHandIns(test.house)).toBeGreaterThan(0);
    expect(await there(left)).toBe(false);
    await expect(readdir(folder)).rejects.toThrow('ENOENT');
    for (const { id } of taken) expect(await there(id)).toBe(true);
    test.clock.now = new Date(NOW.getTime() + 401 * day);
    await forgetHandIns(test.house);
    for (const { id } of taken) expect(await there(id)).toBe(false);
    const intakes = await test.house.db.query<{ id: number }[]>('select id from intake');
    expect(intakes.length).toBeGreaterThan(0);
    test.clock.now = NOW;
  });
});
