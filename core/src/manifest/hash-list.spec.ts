import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import {
  c4Of,
  generationName,
  generationNumber,
  readChain,
  readHashList,
  writeChain,
  writeHashList,
  type HashList,
} from './index.js';

const c4 = (content: string | Buffer) => c4Of(createHash('sha512').update(content).digest());
// A list and its chain written by hand from memory of the specification; see tests/fixtures/README.md.
const example = (name: string) =>
  readFileSync(new URL(`../../../tests/fixtures/manifest/A002R2EC/ascmhl/${name}`, import.meta.url), 'utf8');
const GENERATION = '0001_A002R2EC_2020-01-16_091500Z.mhl';

describe('a C4 identity', () => {
  // Vectors of the C4 ID framework, from memory, confirmed by an independent computation with SHA-512 and base 58.
  it.each([
    ['', 'c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT'],
    ['alfa', 'c43zYcLni5LF9rR4Lg4B8h3Jp8SBwjcnyyeh4bc6gTPHndKuKdjUWx1kJPYhZxYt3zV6tQXpDs2shPsPYjgG81wZM1'],
    ['bravo', 'c42jd8KUQG9DKppN1qt5aWS3PAmdPmNutXyVTb8H123FcuU3shPxpUXsVdcouSALZ4PaDvMYzQSMYCWkb6rop9zhDa'],
  ])('of %j', (text, wanted) => expect(c4(text)).toBe(wanted));
  it('has 90 characters, also for a digest of zeros', () => expect(c4Of(new Uint8Array(64))).toBe(`c4${'1'.repeat(88)}`));
  it('is of a SHA-512 only', () => expect(() => c4Of(new Uint8Array(32))).toThrow(RangeError));
});

describe('the hash list of another tool', () => {
  it('is read, with what we do not write left out', () => {
    const list = readHashList(example(GENERATION))!;
    expect(list).toMatchObject({ createdAt: '2020-01-16T09:15:00.000Z', hostname: 'myHost.local' });
    expect(list.files.map(({ path, bytes, hashes }) => [path, bytes, hashes.xxh64])).toEqual([
      ['Clips/A002C006_141024_R2EC.mov', 5, '0ea03b369a463d9d'],
      ['Clips/A002C007_141024_R2EC.mov', 4, '7680e5f98f4a80fd'],
      ['Sidecar.txt', 21, '25bf6b3046b07bc3'],
    ]);
  });
  it('has a chain whose identity of the list is the one computed here', () =>
    expect(readChain(example('ascmhl_chain.xml'))).toEqual([{ number: 1, path: GENERATION, c4: c4(example(GENERATION)) }]));
});

describe('a hash list of ours', () => {
  const list: HashList = {
    ...{ createdAt: '2026-04-21T16:42:00.000Z', hostname: 'desk-2', tool: { name: 'Tally Stick', version: '0.3.0' } },
    files: [
      {
        ...{ path: 'a & <b>.jpg', bytes: 12, modifiedAt: '2026-04-18T10:00:00.000Z', hashedAt: '2026-04-21T16:41:59.000Z' },
        hashes: { xxh128: '99aa06d3014798d86001c324468d497f' },
      },
    ],
  };

  it('has the elements of the specification in its order', () => {
    const text = writeHashList(list);
    expect(text).toContain('<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">');
    const order = [
      'creatorinfo',
      'creationdate',
      'hostname',
      'tool',
      'processinfo',
      'process',
      'ignore',
      'hashes',
      'hash',
      'path',
    ];
    const places = order.map((name) => text.search(new RegExp(`<${name}[ >]`)));
    expect(places.every((place) => place > 0)).toBe(true);
    expect(places).toEqual([...places].sort((a, b) => a - b));
    expect(text).toContain('<path size="12" lastmodificationdate="2026-04-18T10:00:00+00:00">a &amp; &lt;b&gt;.jpg</path>');
    expect(text).toContain(
      '<xxh128 action="original" hashdate="2026-04-21T16:41:59+00:00">99aa06d3014798d86001c324468d497f</xxh128>',
    );
  });

  it('is read back, whatever the names', () => {
    // What a name on the drive cannot hold (core/rule) is not tried: control characters, and halves of a character.
    const path = fc.string({ unit: 'grapheme', minLength: 1 }).filter((text) => text.trim() === text && !/\p{C}/u.test(text));
    fc.assert(
      fc.property(fc.array(path), (paths) => {
        const some = { ...list, files: paths.map((one) => ({ ...list.files[0]!, path: one })) };
        expect(readHashList(writeHashList(some))).toEqual(some);
      }),
    );
  });

  it('and its chain too', () => {
    const chain = [1, 2].map((number) => ({ number, path: generationName(number, 'f', list.createdAt), c4: c4(`${number}`) }));
    expect(readChain(writeChain(chain))).toEqual(chain);
    expect(chain[0]!.path).toBe('0001_f_2026-04-21_164200Z.mhl');
    expect(chain.map(({ path }) => generationNumber(path))).toEqual([1, 2]);
  });

  it.each(['', 'shopping list', '<hashlist/>', '<hashlist version="1.1"><hash/></hashlist>', '<a><b></a>'])(
    '%j is not taken for one',
    (text) => {
      expect(readHashList(text)).toBeNull();
      expect(readChain(text)).toBeNull();
    },
  );
});
