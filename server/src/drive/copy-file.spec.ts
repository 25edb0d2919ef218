import { describe, expect, it } from '@jest/globals';
import { appendFile, mkdir, open, stat, symlink, truncate, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { CAPTURED, noise, put } from '../testing/cards.js';
import { scratch } from '../testing/scratch.js';
import { tool, xxh128sum } from '../testing/tools.js';
import { copyFile, SourceError, type Source } from './copy-file.js';
import { type Files, systemFiles } from './files.js';
import { hashFile, quickHash } from './hashing.js';
import { probe } from './place.js';
import { proveFile } from './prove-file.js';

const folder = scratch();
const never = new AbortController().signal;
let count = 0;

async function source(bytes: number): Promise<Source & { file: string }> {
  const file = join(folder, `source-${++count}`);
  await put(file, noise(bytes, count));
  return { file, path: Buffer.from(file), bytes, modifiedAt: CAPTURED };
}
const targets = (direct: boolean, ...names: string[]) =>
  names.map((name) => ({ placeId: name, temporary: join(folder, `${name}-${count}`), direct }));

describe('copying: one read, every copy the same', () => {
  const direct = async () => (await probe({ root: folder })).direct;

  // The sizes around blocks of 4,096 bytes and chunks of 4 MiB are where padding and short reads go wrong.
  it.each([0, 1, 4095, 4096, 4097, 65_536, 131_073, 4_194_303, 4_194_304, 4_194_305, 9_000_000])(
    '%d bytes, by cmp and xxhsum',
    async (bytes) => {
      for (const mode of new Set([await direct(), false])) {
        const from = await source(bytes);
        const to = targets(mode, 'one', 'two');
        let seen = 0;
        const copied = await copyFile(from, to, never, (n) => (seen += n));
        expect(copied.failed.size).toBe(0);
        for (const { temporary } of to) {
          tool('cmp', from.file, temporary);
          expect((await stat(temporary)).mtimeMs).toBe(CAPTURED.getTime());
        }
        expect(copied.hash.toString('hex')).toBe(xxh128sum(from.file));
        expect(seen).toBe(bytes);
        const proof = await proveFile(to[0]!.temporary, mode, never);
        expect(proof.hash.toString('hex')).toBe(xxh128sum(to[0]!.temporary));
        expect(proof.method).toBe(mode ? 'read back past the page cache' : 'read back through the page cache');
        const handle = await open(from.file);
        expect(copied.quickHash).toEqual(await quickHash(handle, bytes));
        await handle.close();
      }
    },
  );

  it('a file system that cannot cut off files, as some over a network cannot, gets whole copies', async () => {
    const from = await source(131_073);
    const to = targets(false, 'uncut');
    const files: Files = {
      ...systemFiles,
      open: async (...given) => {
        const handle = await systemFiles.open(...given);
        handle.truncate = () => Promise.reject(Object.assign(new Error('cannot be cut off'), { code: 'EIO' }));
        return handle;
      },
    };
    const copied = await copyFile(from, to, never, () => undefined, files);
    expect([...copied.failed]).toEqual([]);
    tool('cmp', from.file, to[0]!.temporary);
  });

  it('a single changed bit differs', async () => {
    const from = await source(5_000_000);
    const [to] = targets(false, 'flipped');
    const { hash } = await copyFile(from, [to!], never, () => undefined);
    const handle = await open(to!.temporary, 'r+');
    const byte = Buffer.alloc(1);
    await handle.read(byte, 0, 1, 4_300_000);
    await handle.write(Buffer.from([byte[0]! ^ 1]), 0, 1, 4_300_000);
    await handle.close();
    expect((await proveFile(to!.temporary, false, never)).hash.equals(hash)).toBe(false);
  });
});

describe('copying under trouble', () => {
  it('never writes over a file that stands there; the other place goes on', async () => {
    const from = await source(10_000);
    const [taken, free] = targets(false, 'taken', 'free');
    await writeFile(taken!.temporary, 'precious');
    const copied = await copyFile(from, [taken!, free!], never, () => undefined);
    expect([...copied.failed]).toEqual([['taken', 'EEXIST']]);
    expect(tool('cat', taken!.temporary)).toBe('precious');
    tool('cmp', from.file, free!.temporary);
  });

  it.each([
    ['grew', (file: string) => appendFile(file, 'more')],
    ['shrank', (file: string) => truncate(file, 10)],
  ])('a source that %s since it was listed is refused', async (_what, change) => {
    const from = await source(10_000);
    await change(from.file);
    await expect(copyFile(from, targets(false, 'x'), never, () => undefined)).rejects.toThrow(SourceError);
  });

  it('a source that became a link is refused', async () => {
    const path = join(folder, 'link');
    await symlink('/etc/passwd', path);
    const from = { path: Buffer.from(path), bytes: 10, modifiedAt: CAPTURED };
    await expect(copyFile(from, [], never, () => undefined)).rejects.toMatchObject({ code: 'ELOOP' });
  });

  it('a source that is gone says so, and one told to stop stops', async () => {
    await expect(
      copyFile({ path: Buffer.from(join(folder, 'gone')), bytes: 1, modifiedAt: CAPTURED }, [], never, () => undefined),
    ).rejects.toMatchObject({ code: 'ENOENT' });
    const stop = new AbortController();
    stop.abort();
    await expect(copyFile(await source(10), targets(false, 'y'), stop.signal, () => undefined)).rejects.toThrow('abort');
  });
});

describe('hashes', () => {
  // Source: xxHash 0.8.1 sanity test, XXH128 with seed 0 of its generated buffer, lengths 0, 1 and 6 (BSD-2-Clause), and Debian's xxhsum.
  it('of nothing is the published value', async () => {
    const file = join(folder, 'nothing');
    await writeFile(file, '');
    expect((await hashFile(file)).toString('hex')).toBe('99aa06d3014798d86001c324468d497f');
  });

  it('the fast identity sees both ends of a file', async () => {
    const identity = async (name: string, content: Buffer) => {
      await mkdir(join(folder, 'identity'), { recursive: true });
      await writeFile(join(folder, 'identity', name), content);
      const handle = await open(join(folder, 'identity', name));
      const found = await quickHash(handle, content.length);
      await handle.close();
      return found.toString('hex');
    };
    const content = noise(300_000, 5);
    const changed = (at: number) => {
      const copy = Buffer.from(content);
      copy[at]! ^= 1;
      return copy;
    };
    const plain = await identity('a', content);
    expect(await identity('b', changed(0))).not.toBe(plain);
    expect(await identity('c', changed(299_999))).not.toBe(plain);
    expect(await identity('d', changed(150_000))).toBe(plain);
  });
});
