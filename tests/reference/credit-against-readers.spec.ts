import { describe, expect, it } from '@jest/globals';
import {
  applyTo,
  BLOCK_BYTES,
  comesOutAgain,
  growth,
  type Insertion,
  intoJpeg,
  intoSidecar,
  oneAfterAnother,
  type Properties,
  propertiesOf,
} from '@tally/core/fields';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { scratch } from '../../server/src/testing/scratch.js';

/*
 * Credit in JPEGs and sidecars, as Debian's exiftool, exiv2 and exempi (the XMP toolkit) read it; pixels by libjpeg's
 * djpeg. Pictures of real cameras are the project's fixtures; what is wrong with the others is made here.
 */

const FIXTURES = fileURLToPath(new URL('../fixtures/camera', import.meta.url));
const pictures = (readdirSync(FIXTURES, { recursive: true }) as string[])
  .filter((name) => /\.jpe?g$/i.test(name))
  .sort()
  .map((name) => ({ name, bytes: readFileSync(join(FIXTURES, name)) }));
const run = (command: string, ...args: string[]) =>
  execFileSync(command, args, { encoding: 'utf8', maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] });
const folder = scratch();
const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest();

const said = (creator: string, words: readonly string[] = ['reeds', 'größe', '星']): Properties =>
  propertiesOf({
    ...{ creator, creditLine: `${creator} / Ostrel Bay Tidelands Trust`, copyrightNotice: `© 2026 ${creator}` },
    terms: {
      name: 'Open',
      sentence: 'Name & <ask>.',
      web: 'https://creativecommons.org/licenses/by/4.0/',
      until: null,
      stance: 'open licence',
    },
    ...{ embargoUntil: '2026-05-01', keywords: words, personShown: [{ name: 'Ana Lind', consent: 'yes' }] },
    location: { name: 'Mallow Reach', part: 'East bank', town: 'Ostrel', region: 'Bay', country: 'PT', lat: 38.7004, lon: -9.1 },
    ...{
      taken: { lat: 38.71, lon: -9.11 },
      description: 'Volunteers plant reeds',
      assignment: { slug: 'reeds', title: 'Reed planting day' },
    },
    captured: { local: '2026-04-18T09:41:07', offsetMinutes: 60 },
    contact: { address: 'Dyke Lane 3', email: 'ines@example.org', phone: '+351 1', web: 'https://example.org/' },
    ...{ house: 'Ostrel Bay Tidelands Trust', name: 'DSC_0001.JPG', documentId: 'uuid:1', instanceId: 'uuid:2' },
  });
/** Every standing question is answered with ours, so that every field is there to be read. */
const ALL_OURS = Object.fromEntries(Object.keys(said('')).map((field) => [field, 'ours'])) as never;
const into = (bytes: Uint8Array, properties: Properties) => intoJpeg(bytes, properties, ALL_OURS, true, md5);

/** What each reader must print for each property: exiftool's group and name, exiv2's key. */
const READ: readonly (readonly [tool: string, key: string, value: string])[] = [
  ['XMP-dc:Creator', 'Xmp.dc.creator', 'Inês Barrow'],
  ['XMP-photoshop:Credit', 'Xmp.photoshop.Credit', 'Inês Barrow / Ostrel Bay Tidelands Trust'],
  ['XMP-dc:Rights', 'Xmp.dc.rights', '© 2026 Inês Barrow'],
  ['XMP-xmpRights:UsageTerms', 'Xmp.xmpRights.UsageTerms', 'Open. Name & <ask>.'],
  ['XMP-xmpRights:WebStatement', 'Xmp.xmpRights.WebStatement', 'https://creativecommons.org/licenses/by/4.0/'],
  ['XMP-xmpRights:Marked', 'Xmp.xmpRights.Marked', 'True'],
  ['XMP-dc:Description', 'Xmp.dc.description', 'Volunteers plant reeds'],
  ['XMP-photoshop:Headline', 'Xmp.photoshop.Headline', 'Reed planting day'],
  ['XMP-photoshop:TransmissionReference', 'Xmp.photoshop.TransmissionReference', 'reeds'],
  ['XMP-photoshop:Instructions', 'Xmp.photoshop.Instructions', 'Not to be shown until 2026-05-01 is over.'],
  ['XMP-photoshop:Source', 'Xmp.photoshop.Source', 'Ostrel Bay Tidelands Trust'],
  ['XMP-photoshop:City', 'Xmp.photoshop.City', 'Ostrel'],
  ['XMP-photoshop:Country', 'Xmp.photoshop.Country', 'Portugal'],
  ['XMP-iptcCore:CountryCode', 'Xmp.iptc.CountryCode', 'PT'],
  ['XMP-iptcCore:CreatorWorkEmail', 'Xmp.iptc.CreatorContactInfo/Iptc4xmpCore:CiEmailWork', 'ines@example.org'],
  ['XMP-iptcExt:PersonInImage', 'Xmp.iptcExt.PersonInImage', 'Ana Lind'],
  ['XMP-iptcExt:LocationCreatedLocationName', 'Xmp.iptcExt.LocationCreated[1]/Iptc4xmpExt:LocationName', 'Mallow Reach'],
  ['XMP-iptcExt:LocationShownCity', 'Xmp.iptcExt.LocationShown[1]/Iptc4xmpExt:City', 'Ostrel'],
  ['XMP-xmpMM:PreservedFileName', 'Xmp.xmpMM.PreservedFileName', 'DSC_0001.JPG'],
  ['XMP-xmpMM:InstanceID', 'Xmp.xmpMM.InstanceID', 'uuid:2'],
];
const READ_IIM: readonly (readonly [string, string, string])[] = [
  ['IPTC:By-line', 'Iptc.Application2.Byline', 'Inês Barrow'],
  ['IPTC:CopyrightNotice', 'Iptc.Application2.Copyright', '© 2026 Inês Barrow'],
  ['IPTC:Caption-Abstract', 'Iptc.Application2.Caption', 'Volunteers plant reeds'],
  ['IPTC:City', 'Iptc.Application2.City', 'Ostrel'],
  ['IPTC:Country-PrimaryLocationCode', 'Iptc.Application2.CountryCode', 'PRT'],
  ['IPTC:Headline', 'Iptc.Application2.Headline', 'Reed planting day'],
];

type Read = Readonly<Record<string, unknown>>;
const exiftool = (paths: readonly string[]): Read[] => {
  const list = join(folder, 'list');
  writeFileSync(list, paths.join('\n'));
  return JSON.parse(run('exiftool', '-j', '-G1', '-api', 'struct=0', '-@', list)) as Read[];
};
/** As it stands in the file: JSON has truth as a word of its own. */
const printed = (value: unknown) => (value === true ? 'True' : String(value));
const named = (path: string) => readFileSync(path).includes('about="uuid:');
/** By key, the first of each, as exiv2 prints them. */
const exiv2 = (path: string): Map<string, string> => {
  const found = new Map<string, string>();
  for (const line of run('exiv2', '-q', '-PEIXkt', path).split('\n')) {
    const match = /^(\S+)\s+(.*)$/.exec(line);
    if (match && !found.has(match[1]!)) found.set(match[1]!, match[2]!.replace(/^lang="x-default" /, ''));
  }
  return found;
};

const carrying = pictures.flatMap(({ name, bytes }, n) => {
  const insertion = into(bytes, said('Inês Barrow'));
  if (typeof insertion === 'string') return [];
  const [path, before] = [join(folder, `${n}.jpg`), join(folder, `${n}-before.jpg`)];
  writeFileSync(path, applyTo(bytes, insertion.edit));
  writeFileSync(before, bytes);
  return [{ name, bytes, insertion, path, before }];
});

describe('credit in the pictures of real cameras', () => {
  it('there are many', () => expect(carrying.length).toBeGreaterThan(45));

  it('is what exiftool reads, every property, in every file', () => {
    const read = exiftool(carrying.map(({ path }) => path));
    for (const [i, found] of read.entries()) {
      for (const [tag, , value] of READ)
        expect([carrying[i]!.name, tag, printed(found[tag])]).toEqual([carrying[i]!.name, tag, value]);
      for (const [tag, , value] of carrying[i]!.insertion.written.length ? READ_IIM : [])
        if (found['IPTC:CodedCharacterSet'])
          expect([carrying[i]!.name, tag, String(found[tag])]).toEqual([carrying[i]!.name, tag, value]);
      expect([carrying[i]!.name, found['ExifTool:Warning'] ?? '']).not.toEqual([
        carrying[i]!.name,
        expect.stringMatching(/XMP|IPTC/),
      ]);
    }
  });

  it('is what exiv2 reads, in every file', () => {
    let read = 0;
    for (const { name, path } of carrying) {
      const found = exiv2(path);
      // A picture whose Exif is damaged is not read at all by exiv2, with or without ours.
      if (!found.size) continue;
      read++;
      for (const [, key, value] of READ) {
        // The XMP toolkit takes an rdf:about with a UUID, which older programs wrote, for the id of the instance.
        if (key !== 'Xmp.xmpMM.InstanceID' || !named(path)) expect([name, key, found.get(key)]).toEqual([name, key, value]);
      }
      if (found.has('Iptc.Envelope.CharacterSet'))
        for (const [, key, value] of READ_IIM) expect([name, key, found.get(key)]).toEqual([name, key, value]);
    }
    expect(read).toBeGreaterThan(carrying.length * 0.9);
  });

  it('is a packet that the XMP toolkit parses, and a sidecar too', () => {
    for (const { name, path } of carrying.slice(0, 25)) {
      const packet = run('exempi', '-x', path);
      expect([name, packet]).toEqual([name, expect.stringMatching(/Reed planting day/)]);
    }
    const sidecar = join(folder, 'a.dng.xmp');
    const written = intoSidecar(null, null, said('Inês Barrow'), {});
    writeFileSync(sidecar, typeof written === 'string' ? '' : written.bytes);
    expect(exiv2(sidecar).get('Xmp.dc.creator')).toBe('Inês Barrow');
    const [found] = exiftool([sidecar]);
    for (const [tag, , value] of READ) expect([tag, printed(found![tag])]).toEqual([tag, value]);
  });

  it('leaves every pixel what it was, and comes out to the byte', () => {
    for (const { name, bytes, insertion, path, before } of carrying) {
      writeFileSync(join(folder, 'out.jpg'), applyTo(readFileSync(path), insertion.undo));
      run('cmp', before, join(folder, 'out.jpg'));
      if (bytes.length > 3e6) continue;
      expect([name, pixelsOf(path)]).toEqual([name, pixelsOf(before)]);
    }
  });

  it('leaves all other tags what they were', () => {
    const before = exiftool(carrying.map(({ before: path }) => path));
    const after = exiftool(carrying.map(({ path }) => path));
    const ours =
      /^(SourceFile|System|File|ExifTool|Composite|XMP|IPTC|Photoshop)|^IFD0:(Artist|Copyright|ImageDescription)$|Offset$|Start$/;
    for (const [i, tags] of before.entries())
      for (const [tag, value] of Object.entries(tags))
        if (!ours.test(tag)) expect([carrying[i]!.name, tag, after[i]![tag]]).toEqual([carrying[i]!.name, tag, value]);
  });
});

/** The decoded picture, as one number; what cannot be decoded is the same words before and after. */
function pixelsOf(path: string): string {
  try {
    return createHash('sha256')
      .update(execFileSync('djpeg', ['-pnm', path], { maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] }))
      .digest('hex');
  } catch {
    return 'cannot be decoded';
  }
}

/** A small generator of numbers that are the same in every run (mulberry32, public domain, from memory). */
function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

/** Pictures that other tools wrote, and such as none should: each says what it is. */
function* oddPictures(broken = 1000): Generator<{ name: string; bytes: Uint8Array }> {
  const plain = pictures.find(({ bytes }) => bytes.length < 40_000 && typeof into(bytes, said('X')) !== 'string')!;
  const made = (name: string, ...args: string[]) => {
    const path = join(folder, 'odd.jpg');
    writeFileSync(path, plain.bytes);
    run('exiftool', '-q', '-overwrite_original', ...args, path);
    return { name, bytes: readFileSync(path) };
  };
  yield made('XMP of another program', '-XMP-dc:Title=Theirs', '-XMP-xmp:Rating=4', '-XMP-dc:Subject=heron');
  yield made('IIM in Latin-1', '-charset', 'iptc=latin', '-IPTC:By-line=In\u00eas', '-IPTC:ObjectName=d\u00e9j\u00e0');
  yield made('contradictory', '-XMP-dc:Creator=A', '-IPTC:By-line=B', '-IFD0:Artist=C');
  yield made('no Exif', '-EXIF:All=');
  yield made('nothing at all', '-All=');
  yield made('long description', `-XMP-dc:Description=${'words '.repeat(9000)}`);
  const decoded = execFileSync('djpeg', ['-pnm'], { input: plain.bytes, maxBuffer: 1 << 28 });
  yield { name: 'progressive', bytes: execFileSync('cjpeg', ['-progressive'], { input: decoded, maxBuffer: 1 << 28 }) };
  yield { name: 'trailing data', bytes: Buffer.concat([plain.bytes, Buffer.from('a clip stands here'.repeat(100))]) };
  yield { name: 'cut short', bytes: plain.bytes.subarray(0, plain.bytes.length / 2) };
  yield { name: 'cut in its head', bytes: plain.bytes.subarray(0, 300) };
  for (const { name, bytes } of pictures) yield { name, bytes };
  const random = chance(20_260_418);
  for (let n = 0; n < broken; n++) {
    const { name, bytes } = pictures[Math.floor(random() * pictures.length)]!;
    const hurt = Uint8Array.from(bytes.subarray(0, 60_000));
    for (let hits = 1 + Math.floor(random() * 8); hits > 0; hits--)
      hurt[Math.floor(random() ** 3 * hurt.length)] = Math.floor(random() * 256);
    yield { name: `${name}, broken ${n}`, bytes: hurt };
  }
}

describe('a thousand real and hostile pictures', () => {
  it('go through putting in, a change, another change, and taking out; or are left alone with a word', () => {
    const [words, names] = [new Map<string, number>(), new Set<string>()];
    let carried = 0;
    for (const { name, bytes } of oddPictures()) {
      const put = into(bytes, said('Inês Barrow'));
      if (typeof put === 'string') {
        words.set(put.split(':')[0]!, (words.get(put.split(':')[0]!) ?? 0) + 1);
        continue;
      }
      carried++;
      names.add(name);
      let [stands, last]: [Uint8Array, Insertion] = [applyTo(bytes, put.edit), put];
      for (const properties of [said('Wren Ashby', []), said('I', ['a', 'b', 'c'])]) {
        const next = into(applyTo(stands, last.undo), properties) as Insertion;
        const changed = applyTo(stands, oneAfterAnother(stands, last.undo, next.edit));
        expect([name, Math.abs(growth(next.edit) % BLOCK_BYTES), comesOutAgain(bytes, next)]).toEqual([name, 0, true]);
        [stands, last] = [changed, next];
      }
      expect([name, Buffer.compare(applyTo(stands, last.undo), bytes)]).toEqual([name, 0]);
    }
    expect(carried).toBeGreaterThan(700);
    // What was made on purpose is among them, and what is left alone has a word.
    for (const name of [
      'XMP of another program',
      'IIM in Latin-1',
      'contradictory',
      'no Exif',
      'nothing at all',
      'progressive',
      'trailing data',
    ])
      expect(names).toContain(name);
    expect([...words.keys()].sort()).toEqual(
      expect.arrayContaining(['no picture follows its first segments', 'it does not begin as a JPEG does']),
    );
  });

  it('letters of another character set in IIM stay what they are', () => {
    const latin = [...oddPictures(0)].find(({ name }) => name === 'IIM in Latin-1')!;
    const put = into(latin.bytes, said('Inês Barrow')) as Insertion;
    const path = join(folder, 'latin.jpg');
    writeFileSync(path, applyTo(latin.bytes, put.edit));
    expect(run('exiftool', '-s3', '-charset', 'iptc=latin', '-IPTC:ObjectName', path).trim()).toBe('déjà');
    expect(run('exiftool', '-s3', '-XMP-dc:Creator', path).trim()).toBe('Inês Barrow');
  });
});
