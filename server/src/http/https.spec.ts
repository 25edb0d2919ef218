import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { AuthorityView } from '@tally/contract';
import express from 'express';
import forge from 'node-forge';
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { generateKeyPairSync, X509Certificate } from 'node:crypto';
import { mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { get as getOver, request as askOver, type RequestOptions } from 'node:https';
import type { IncomingMessage, Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import request from 'supertest';
import { addPerson } from '../door/index.js';
import { Settings, SettingsError } from '../settings.js';
import { NOW, openHouse, type TestHouse } from '../testing/house.js';
import { webOf } from '../testing/web.js';
import { authorityOf, certificatesFolder, fingerprintOf, namesOf, ownCertificate, serialOf } from './certificates.js';
import { endInWords, isLoopback, mustBePrivate, serverOf } from './listening.js';

const silent = pino({ level: 'silent' });
const DAY_MS = 86_400_000;
/** A certificate to look at, with an end that nobody can read. */
const UNREADABLE = '-----BEGIN CERTIFICATE-----\nMAA=\n-----END CERTIFICATE-----\n';

describe('listening in the clear', () => {
  it.each([
    ['127.0.0.1', true],
    ['127.9.9.9', true],
    ['::1', true],
    ['localhost', true],
    ['::ffff:127.0.0.1', true],
    ['0.0.0.0', false],
    ['192.168.1.4', false],
    ['127.0.0.1.evil.example', false],
    ['::', false],
  ])('%s is this machine only: %s', (host, only) => expect(isLoopback(host)).toBe(only));

  it('is refused where others could listen in, unless somebody says that they know', () => {
    expect(() => mustBePrivate({ host: '0.0.0.0' })).toThrow(SettingsError);
    for (const fine of [
      { host: '127.0.0.1' },
      { host: '0.0.0.0', https: 'made here' as const },
      { host: '0.0.0.0', plainHttp: 'knowingly' as const },
    ])
      expect(() => mustBePrivate(fine)).not.toThrow();
  });

  it('who is trusted to speak for others is an address or a network', () => {
    const trust = (trustProxy: string[]) => Settings.shape.trustProxy.safeParse(trustProxy).success;
    expect(['loopback', '10.0.0.1', '10.0.0.0/8', 'fd00::/8'].every((one) => trust([one]))).toBe(true);
    expect(['everybody', '10.0.0.0/40', 'true', '10.0.0.1/8/9', '1'].some((one) => trust([one]))).toBe(false);
  });
});

describe('a certificate that is made here', () => {
  let dataDir: string;
  const settings = () => ({ dataDir, house: 'Ostrel Bay Tidelands Trust', host: '0.0.0.0', hosts: ['tally.marsh.example'] });
  beforeAll(async () => void (dataDir = await mkdtemp(join(tmpdir(), 'tally-tls-'))));
  afterAll(() => rm(dataDir, { recursive: true, force: true }));

  it('is what openssl takes for a server’s, from an authority that may give no others', async () => {
    const { cert, key } = await ownCertificate(settings(), new Date());
    const [leaf, authority] = [join(dataDir, 'leaf.pem'), join(dataDir, 'authority.pem')];
    await writeFile(leaf, cert);
    await writeFile(authority, (await authorityOf(dataDir))!);
    const verify = (name: string) =>
      spawnSync('openssl', [
        'verify',
        '-x509_strict',
        '-purpose',
        'sslserver',
        '-CAfile',
        authority,
        '-verify_hostname',
        name,
        leaf,
      ]);
    expect(verify('tally.marsh.example').stdout.toString()).toContain('OK');
    expect(verify('other.example').status).not.toBe(0);
    const text = execFileSync('openssl', ['x509', '-in', authority, '-noout', '-text']).toString();
    expect(text).toMatch(/CA:TRUE, pathlen:0/);
    expect(text).toMatch(/Certificate Sign, CRL Sign/);
    const shown = execFileSync('openssl', ['x509', '-in', authority, '-noout', '-fingerprint', '-sha256']).toString();
    expect(shown).toContain(fingerprintOf((await authorityOf(dataDir))!));
    expect(key).toContain('PRIVATE KEY');
    const days = (Date.parse(new X509Certificate(cert).validTo) - Date.now()) / DAY_MS;
    expect(days).toBeLessThan(398);
  });

  it('stays as long as it is good, and is made anew before it ends and for other names; the authority stays', async () => {
    const [first, authority] = [await ownCertificate(settings(), new Date()), await authorityOf(dataDir)];
    expect((await ownCertificate(settings(), new Date())).cert).toBe(first.cert);
    const late = await ownCertificate(settings(), new Date(Date.now() + 380 * DAY_MS));
    expect(late.cert).not.toBe(first.cert);
    const named = await ownCertificate({ ...settings(), hosts: ['other.example'] }, new Date());
    expect(new X509Certificate(named.cert).subjectAltName).toContain('other.example');
    expect(await authorityOf(dataDir)).toBe(authority);
  });

  it.each([
    ['zeros', Buffer.alloc(16)],
    ['two zeros', Buffer.from('0000ffffffffffffffffffffffffffff', 'hex')],
    ['ones', Buffer.alloc(16, 0xff)],
    ['a bit that would make it negative', Buffer.from('80000000000000000000000000000000', 'hex')],
  ])('has a serial number that openssl takes, whatever was drawn: %s', (_, random) => {
    const { privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
    const key = forge.pki.privateKeyFromPem(privateKey.export({ type: 'pkcs1', format: 'pem' }).toString());
    const cert = forge.pki.createCertificate();
    cert.publicKey = forge.pki.setRsaPublicKey(key.n, key.e);
    cert.serialNumber = serialOf(random);
    cert.validity.notAfter = new Date(Date.now() + DAY_MS);
    cert.sign(key, forge.md.sha256.create());
    const read = spawnSync('openssl', ['x509', '-noout', '-serial'], { input: forge.pki.certificateToPem(cert) });
    expect(read.stdout.toString().trim().toLowerCase()).toBe(`serial=${serialOf(random)}`);
    expect(serialOf(random)).toMatch(/^[4-7][0-9a-f]{31}$/);
  });

  it('is made anew where openssl cannot read the one that is there', async () => {
    await writeFile(join(certificatesFolder(dataDir), 'authority.pem'), UNREADABLE);
    const { cert } = await ownCertificate(settings(), new Date());
    expect(new X509Certificate(cert).subjectAltName).toContain('tally.marsh.example');
    expect(await authorityOf(dataDir)).not.toBe(UNREADABLE);
  });

  it('nobody else on this machine reads its keys', async () => {
    const folder = certificatesFolder(dataDir);
    for (const name of await readdir(folder)) expect((await stat(join(folder, name))).mode & 0o077).toBe(0);
  });

  it('is for every name and number of this machine', () => {
    expect(namesOf(settings())).toEqual(expect.arrayContaining(['localhost', '127.0.0.1', 'tally.marsh.example']));
    expect(namesOf(settings())).not.toContain('0.0.0.0');
  });

  it('its end is told of in time', () => {
    const of = (days: number) => endInWords({ cert: '', key: '', endsAt: new Date(NOW.getTime() + days * DAY_MS) }, NOW);
    expect([of(30), of(5), of(-2)]).toEqual([null, expect.stringContaining('in 5 days'), expect.stringContaining('refuse it')]);
  });

  it('a file that is none is a fault of the settings, in words', async () => {
    const [certificate, key] = [join(dataDir, 'none.pem'), join(dataDir, 'none.key')];
    const given = { ...settings(), https: { certificate, key } };
    await expect(serverOf(express(), given, silent)).rejects.toThrow(/certificate cannot be used/);
    await writeFile(certificate, 'no certificate');
    await writeFile(key, 'no key');
    await expect(serverOf(express(), given, silent)).rejects.toThrow(SettingsError);
  });
});

describe('over HTTPS', () => {
  let test: TestHouse;
  let server: Server;
  let port: number;
  let ca: string;
  beforeAll(async () => {
    test = await openHouse({ https: 'made here', trustProxy: ['10.0.0.0/8'] });
    const { app } = await webOf(test);
    server = await serverOf(app, test.settings, silent);
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    port = (server.address() as AddressInfo).port;
    ca = (await authorityOf(test.settings.dataDir))!;
    await addPerson(test.house.db, 'wren', 'hazel-and-reed', 'administrator', NOW);
  });
  afterAll(async () => {
    server.closeAllConnections();
    server.close();
    await test.end();
  });

  const get = (path: string, options: RequestOptions = {}) =>
    new Promise<IncomingMessage & { text: string }>((resolve, reject) => {
      getOver({ host: 'localhost', port, path, ca, ...options }, (response) => {
        let text = '';
        response.setEncoding('utf8').on('data', (part: string) => (text += part));
        response.on('end', () => resolve(Object.assign(response, { text })));
      }).on('error', reject);
    });

  it('speaks TLS 1.2 and 1.3 and nothing older, to openssl', async () => {
    // In a process of its own, beside this one that answers it.
    const speak = (...how: string[]) =>
      new Promise<string>((resolve) => {
        const client = spawn('openssl', [
          's_client',
          '-connect',
          `localhost:${port}`,
          '-servername',
          'localhost',
          '-brief',
          ...how,
        ]);
        let said = '';
        client.stderr.setEncoding('utf8').on('data', (part: string) => (said += part));
        client.once('close', () => resolve(said));
        client.stdin.end();
      });
    for (const how of ['-tls1_2', '-tls1_3']) expect(await speak(how)).toContain('CONNECTION ESTABLISHED');
    for (const how of ['-tls1', '-tls1_1']) expect(await speak(how, '-cipher', 'ALL:@SECLEVEL=0')).not.toContain('ESTABLISHED');
  });

  it('its cookie goes nowhere else, and it says that nothing else is spoken', async () => {
    const { headers } = await get('/api/health');
    expect(headers['strict-transport-security']).toBe('max-age=31536000');
    const signedIn = await new Promise<string[]>((resolve, reject) => {
      const asked = askOver(
        { host: 'localhost', port, path: '/api/session', method: 'POST', ca, headers: { 'Content-Type': 'application/json' } },
        (response) => resolve(response.headers['set-cookie'] ?? []),
      ).on('error', reject);
      asked.end(JSON.stringify({ name: 'wren', password: 'hazel-and-reed' }));
    });
    expect(signedIn[0]).toMatch(/^__Host-tally=[^;]+; Max-Age=\d+; Path=\/; HttpOnly; Secure; SameSite=Strict$/);
    const token = signedIn[0]!.split(';')[0]!.split('=')[1]!;
    expect((await get('/api/session', { headers: { Cookie: `__Host-tally=${token}` } })).statusCode).toBe(200);
    // A cookie that something in the clear could have set is none.
    expect((await get('/api/session', { headers: { Cookie: `tally_session=${token}` } })).statusCode).toBe(401);
  });

  it('gives its authority’s certificate, and the fingerprint to compare, to whoever is to trust it', async () => {
    expect((await get('/api/certificate.pem')).text).toBe(ca);
    const { fingerprint } = JSON.parse((await get('/api/certificate')).text) as AuthorityView;
    expect(fingerprint).toBe(fingerprintOf(ca));
    await expect(get('/api/health', { ca: undefined })).rejects.toThrow(/self-signed|unable to verify/);
  });

  it('takes a certificate that was renewed without a restart', async () => {
    const folder = certificatesFolder(test.settings.dataDir);
    expect((await readdir(folder)).filter((name) => name.startsWith('server-'))).toHaveLength(2);
    expect(await readFile(join(folder, 'authority.pem'), 'utf8')).toBe(ca);
  });
});

describe('behind a proxy', () => {
  const behind = async (settings: Partial<Parameters<typeof openHouse>[0]>) => {
    const test = await openHouse(settings);
    await addPerson(test.house.db, 'wren', 'hazel-and-reed', 'administrator', NOW);
    return { test, app: (await webOf(test)).app };
  };
  const signIn = (app: express.Express, headers: Record<string, string>, password = 'hazel-and-reed') =>
    request(app).post('/api/session').set(headers).send({ name: 'wren', password });

  it('that is trusted, what it says of the other end counts: HTTPS, cookie, address', async () => {
    const { test, app } = await behind({ trustProxy: ['loopback'], publicUrl: 'https://tally.marsh.example' });
    const said = { 'X-Forwarded-For': '203.0.113.9', 'X-Forwarded-Proto': 'https', Host: 'tally.marsh.example' };
    const inside = await signIn(app, said);
    expect(inside.headers['set-cookie']![0]).toMatch(/^__Host-tally=.*Secure/);
    const [row] = await test.house.db.query<{ address: string }[]>('select address from session');
    expect(row!.address).toBe('203.0.113.9');
    // In the clear to the proxy: pages are sent to where HTTPS is spoken, everything else is refused.
    const clear = { ...said, 'X-Forwarded-Proto': 'http' };
    const page = await request(app).get('/shelf?q=reeds').set(clear);
    expect([page.status, page.headers['location']]).toEqual([308, 'https://tally.marsh.example/shelf?q=reeds']);
    expect((await signIn(app, clear)).status).toBe(403);
    await test.end();
  });

  it('that lies, or is none, is not believed: guesses are counted by the address they came from', async () => {
    const { test, app } = await behind({});
    const answers: number[] = [];
    for (let n = 0; n < 12; n++) answers.push((await signIn(app, { 'X-Forwarded-For': `203.0.113.${n}` }, 'wrong')).status);
    expect(answers.slice(-2)).toEqual([429, 429]);
    const right = await signIn(app, { 'X-Forwarded-Proto': 'https' }, 'wrong');
    expect(right.headers['strict-transport-security']).toBeUndefined();
    await test.end();
  });

  it('that is trusted, one who guesses does not keep the others out', async () => {
    const { test, app } = await behind({ trustProxy: ['loopback'] });
    await addPerson(test.house.db, 'tomas', 'spring-tide-21', 'coordinator', NOW);
    const from = (address: string) => ({ 'X-Forwarded-For': address, 'X-Forwarded-Proto': 'https' });
    for (let n = 0; n < 10; n++) await signIn(app, from('203.0.113.66'), 'wrong');
    expect((await signIn(app, from('203.0.113.66'))).status).toBe(429);
    expect((await signIn(app, from('203.0.113.67'))).status).toBe(200);
    await test.end();
  });
});
