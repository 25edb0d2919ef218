import forge from 'node-forge';
import { createHash, generateKeyPairSync, randomBytes, X509Certificate } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { hostname, networkInterfaces } from 'node:os';
import { join } from 'node:path';
import type { Settings } from '../settings.js';

/*
 * A local authority for a house that has no certificate of its own: people install the authority's once, and each
 * certificate it gives this server is trusted from then on. RFC 5280 for the fields (from memory).
 */

/** The authority lasts; what it gives lasts no longer than browsers allow (398 days, common practice, no source). */
const AUTHORITY_DAYS = 3_650;
const LEAF_DAYS = 397;
/** Another one is made when fewer days are left. */
const RENEW_DAYS = 30;
const DAY_MS = 86_400_000;

/** Key and certificate in PEM, and when that certificate ends. */
export interface Certificate {
  readonly key: string;
  readonly cert: string;
  readonly endsAt: Date;
}

/** Where the authority and its certificates lie in the data folder. */
export const certificatesFolder = (dataDir: string): string => join(dataDir, 'certificates');
const AUTHORITY = 'authority.pem';
const AUTHORITY_KEY = 'authority.key';

/** Names and numbers that the certificate is for: those under which this server answers. */
export function namesOf({ host, hosts, publicUrl }: Pick<Settings, 'host' | 'hosts' | 'publicUrl'>): string[] {
  const numbers = Object.values(networkInterfaces()).flatMap((all) => (all ?? []).map(({ address }) => address));
  const wild = ['0.0.0.0', '::'];
  const named = ['localhost', hostname(), host, ...hosts, ...(publicUrl ? [new URL(publicUrl).hostname] : []), ...numbers];
  // Numbers of one link only (RFC 4291, 2.5.6) come and go, and nobody types them.
  return [...new Set(named.filter((name) => !wild.includes(name) && !/%|^fe[89ab]/i.test(name)))].sort();
}

/** SHA-256 over the certificate, as people compare it: pairs of hexadecimal digits with colons. */
export const fingerprintOf = (pem: string): string => new X509Certificate(pem).fingerprint256;

/** The certificate of the authority, for people to install; null where none was made here. */
export const authorityOf = (dataDir: string): Promise<string | null> => readPem(join(certificatesFolder(dataDir), AUTHORITY));

async function readPem(file: string): Promise<string | null> {
  return readFile(file, 'utf8').catch((error: unknown) => {
    if ((error as { code?: string }).code === 'ENOENT') return null;
    throw error;
  });
}

/** Writes a file in one step that nobody else on this machine can read. */
async function keep(file: string, text: string): Promise<void> {
  const temporary = `${file}.${randomBytes(4).toString('hex')}`;
  await writeFile(temporary, text, { mode: 0o600, flag: 'wx' });
  await rename(temporary, file);
}

interface Kin {
  readonly key: forge.pki.rsa.PrivateKey;
  readonly cert: forge.pki.Certificate;
}

/**
 * A serial number of 16 random bytes, in hexadecimal: positive (RFC 5280, 4.1.2.2) and in the fewest octets (ITU-T X.690, 8.3.2),
 * so the first octet is neither zero nor above 0x7f. One that begins with zeros is no certificate to OpenSSL ("illegal padding").
 */
export function serialOf(random: Buffer): string {
  const [first = 0, ...rest] = random;
  return Buffer.from([0x40 | (first & 0x3f), ...rest]).toString('hex');
}

/** Begins a certificate with a key of its own. */
function begun(name: string, days: number, now: Date): Kin {
  const { privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
  const key = forge.pki.privateKeyFromPem(privateKey.export({ type: 'pkcs1', format: 'pem' }).toString());
  const cert = forge.pki.createCertificate();
  cert.publicKey = forge.pki.setRsaPublicKey(key.n, key.e);
  cert.serialNumber = serialOf(randomBytes(16));
  // Clocks of other machines may be behind.
  cert.validity.notBefore = new Date(now.getTime() - DAY_MS);
  cert.validity.notAfter = new Date(now.getTime() + days * DAY_MS);
  cert.setSubject([{ name: 'commonName', value: name.slice(0, 64) }]);
  return { key, cert };
}

/** The authority of this house, made where there is none. */
async function authority(dataDir: string, house: string, now: Date): Promise<Kin> {
  const folder = certificatesFolder(dataDir);
  const [certFile, keyFile] = [join(folder, AUTHORITY), join(folder, AUTHORITY_KEY)];
  const [pem, keyPem] = [await readPem(certFile), await readPem(keyFile)];
  if (pem && keyPem && isReadable(pem))
    return { cert: forge.pki.certificateFromPem(pem), key: forge.pki.privateKeyFromPem(keyPem) };
  const made = begun(`Tally Stick authority of ${house}`, AUTHORITY_DAYS, now);
  made.cert.setIssuer(made.cert.subject.attributes);
  made.cert.setExtensions([
    { name: 'basicConstraints', cA: true, pathLenConstraint: 0, critical: true },
    { name: 'keyUsage', keyCertSign: true, cRLSign: true, critical: true },
    { name: 'subjectKeyIdentifier' },
  ]);
  made.cert.sign(made.key, forge.md.sha256.create());
  // The key first: an authority whose key is lost is made anew.
  await keep(keyFile, forge.pki.privateKeyToPem(made.key));
  await keep(certFile, forge.pki.certificateToPem(made.cert));
  return made;
}

/**
 * The certificate of this server from the house's own authority: the one that was made before, or another one where that
 * ends soon or the server answers under other names now.
 */
export async function ownCertificate(
  settings: Pick<Settings, 'dataDir' | 'house' | 'host' | 'hosts' | 'publicUrl'>,
  now: Date,
): Promise<Certificate> {
  const folder = certificatesFolder(settings.dataDir);
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const names = namesOf(settings);
  const by = await authority(settings.dataDir, settings.house, now);
  const authorityPem = forge.pki.certificateToPem(by.cert);
  // Another authority or other names: another file.
  const mark = createHash('sha256')
    .update(JSON.stringify([authorityPem, names]))
    .digest('hex')
    .slice(0, 16);
  const [certFile, keyFile] = [join(folder, `server-${mark}.pem`), join(folder, `server-${mark}.key`)];
  const [pem, keyPem] = [await readPem(certFile), await readPem(keyFile)];
  if (pem && keyPem && isReadable(pem)) {
    const endsAt = endOf(pem);
    if (endsAt.getTime() - now.getTime() > RENEW_DAYS * DAY_MS) return { key: keyPem, cert: pem, endsAt };
  }
  const made = begun(names.find((name) => name.includes('.')) ?? names[0]!, LEAF_DAYS, now);
  made.cert.setIssuer(by.cert.subject.attributes);
  made.cert.setExtensions([
    { name: 'basicConstraints', cA: false, critical: true },
    { name: 'keyUsage', digitalSignature: true, keyEncipherment: true, critical: true },
    { name: 'extKeyUsage', serverAuth: true },
    {
      name: 'subjectAltName',
      altNames: names.map((name) => (isNumber(name) ? { type: 7, ip: name } : { type: 2, value: name })),
    },
    { name: 'subjectKeyIdentifier' },
    { name: 'authorityKeyIdentifier', keyIdentifier: by.cert.generateSubjectKeyIdentifier().getBytes() },
  ]);
  made.cert.sign(by.key, forge.md.sha256.create());
  const cert = `${forge.pki.certificateToPem(made.cert)}${authorityPem}`;
  const key = forge.pki.privateKeyToPem(made.key);
  await keep(keyFile, key);
  await keep(certFile, cert);
  return { key, cert, endsAt: made.cert.validity.notAfter };
}

const isNumber = (name: string) => /^[\d.]+$|:/.test(name);

const endOf = (pem: string): Date => new Date(new X509Certificate(pem).validTo);

/** Whether OpenSSL reads it: an earlier version could make one that it does not, which is made anew. */
function isReadable(pem: string): boolean {
  try {
    return endOf(pem) > new Date(0);
  } catch {
    return false;
  }
}

/** A certificate that the house brings itself. @throws when a file cannot be read, or the two do not belong together. */
export async function givenCertificate(files: { readonly certificate: string; readonly key: string }): Promise<Certificate> {
  const [cert, key] = [await readFile(files.certificate, 'utf8'), await readFile(files.key, 'utf8')];
  return { cert, key, endsAt: endOf(cert) };
}
