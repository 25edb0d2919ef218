import { Decrypter, Encrypter, generateX25519Identity, identityToRecipient } from 'age-encryption';
import { createReadStream, createWriteStream } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import workerpool from 'workerpool';
import { builtFile } from '../aside/built.js';
import { SealError } from './errors.js';

/*
 * Sealing by age, version 1 (https://age-encryption.org/v1): the passphrase opens a key, and the key everything else, so that
 * a passphrase is stretched once and not for every file. Debian's `age` reads both.
 */

/** The key of a sealed backup, itself sealed with the passphrase. */
export const KEY_FILE = 'key.age';
export const SEALED = '.age';
/** No input of age's own is larger than a key. */
const KEY_BYTES = 4_096;

/** Seals or opens files. */
export interface Seal {
  /** Writes a file sealed to where nothing stands. */
  seal(from: string, to: string): Promise<void>;
  sealText(text: string, to: string): Promise<void>;
  /** @throws SealError when it is not sealed by this key, or was altered */
  open(from: string, to: string): Promise<void>;
  openText(from: string): Promise<string>;
}

/** A new key, sealed with a passphrase into a file. */
export async function newSeal(passphrase: string, keyFile: string): Promise<Seal> {
  const identity = await generateX25519Identity();
  const sealed = await aside<Uint8Array>('sealText', passphrase, `${identity}\n`);
  await writeFile(keyFile, sealed, { flag: 'wx', mode: 0o600 });
  return sealBy(identity);
}

/** The key of a backup. @throws SealError when the passphrase is another one */
export async function sealOf(passphrase: string, keyFile: string): Promise<Seal> {
  const sealed = await readFile(keyFile).catch(() => null);
  if (!sealed || sealed.length > KEY_BYTES) throw new SealError(`${keyFile} cannot be read`);
  const identity = await aside<string | null>('openText', passphrase, new Uint8Array(sealed));
  if (identity === null) throw new SealError('the passphrase is not that of this backup');
  return sealBy(identity.trim());
}

async function aside<T>(what: 'sealText' | 'openText', ...given: readonly unknown[]): Promise<T> {
  const pool = workerpool.pool(builtFile('./passphrase-thread.js', import.meta.url), { workerType: 'thread', maxWorkers: 1 });
  try {
    return (await pool.exec(what, [...given])) as T;
  } finally {
    await pool.terminate(true);
  }
}

async function sealBy(identity: string): Promise<Seal> {
  const encrypter = new Encrypter();
  encrypter.addRecipient(await identityToRecipient(identity));
  const decrypter = new Decrypter();
  decrypter.addIdentity(identity);
  const through = async (
    from: string,
    to: string,
    turn: (input: ReadableStream<Uint8Array>) => Promise<ReadableStream<Uint8Array>>,
  ) => {
    const input = Readable.toWeb(createReadStream(from)) as ReadableStream<Uint8Array>;
    const output = Readable.fromWeb((await turn(input)) as Parameters<typeof Readable.fromWeb>[0]);
    await pipeline(output, createWriteStream(to, { flags: 'wx', mode: 0o600 }));
  };
  const altered = (from: string) => () => {
    throw new SealError(`${from} was altered, or is sealed by another key`);
  };
  return {
    seal: (from, to) => through(from, to, (input) => encrypter.encrypt(input)),
    sealText: async (text, to) => writeFile(to, await encrypter.encrypt(text), { flag: 'wx', mode: 0o600 }),
    open: (from, to) => through(from, to, (input) => decrypter.decrypt(input)).catch(altered(from)),
    openText: async (from) => decrypter.decrypt(await readFile(from), 'text').catch(altered(from)),
  };
}
