import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import {
  applyTo,
  BLOCK_BYTES,
  blocksInJpeg,
  comesOutAgain,
  type Edit,
  FIELDS,
  growth,
  intoJpeg,
  intoSidecar,
  NOTHING,
  oneAfterAnother,
  type Properties,
  propertiesInJpeg,
  propertiesInSidecar,
  propertiesOf,
  reach,
  sayTheSame,
  sidecarOf,
  STANDARDS,
  standardOf,
  undoOf,
  writingOf,
} from './index.js';
import { degreesOf, coordinateOf } from './xmp-read.js';

const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest();
const FIXTURES = new URL('../../../tests/fixtures/camera/', import.meta.url);
const pictures = ['goexif', 'jhead', 'own', 'piexif'].flatMap((from) =>
  readdirSync(new URL(from, FIXTURES))
    .filter((name) => /\.jpe?g$/i.test(name))
    .map((name) => new Uint8Array(readFileSync(new URL(`${from}/${name}`, FIXTURES)))),
);
const ours: Properties = {
  ...NOTHING,
  ...{ creator: ['Inês Barrow'], creditLine: 'Inês Barrow / Ostrel Bay', copyrightNotice: '© 2026 Inês Barrow' },
  ...{ description: 'Reeds & <dusk>', words: ['reeds', '星'], documentId: 'uuid:d', instanceId: 'uuid:i' },
};
const planned = (picture: Uint8Array, properties: Properties = ours) => {
  const insertion = intoJpeg(picture, properties, {}, false, md5);
  if (typeof insertion === 'string') throw new Error(insertion);
  return insertion;
};

/** Text that XML and people can have: no control characters, nothing that normalising or trimming changes. */
const text = (maxLength: number) =>
  fc.string({ unit: 'grapheme', maxLength }).map((value) =>
    value
      // eslint-disable-next-line no-control-regex -- control characters are what goes
      .replace(/[\u0000-\u001f\u007f-\u009f\uFFFE\uFFFF]/g, '')
      .normalize('NFC')
      .trim(),
  );
const texts = fc.uniqueArray(text(30).filter(Boolean), { maxLength: 6 });
const degrees = (most: number) => fc.integer({ min: -most * 1e6, max: most * 1e6 }).map((n) => n / 1e6);
const location = fc
  .record({
    ...{ name: text(30), part: text(30), town: text(30), region: text(30), country: text(30) },
    countryCode: fc.constantFrom('', 'PT', 'GB'),
    position: fc.option(fc.record({ lat: degrees(89), lon: degrees(179) })),
  })
  .map(({ position, ...rest }) => ({ ...rest, lat: position?.lat ?? null, lon: position?.lon ?? null }))
  .map((one) => (Object.values(one).every((part) => part === '' || part === null) ? null : one));
const contact = fc
  .record({ address: text(40), email: text(20), phone: text(20), web: text(20) })
  .map((one) => (Object.values(one).every((part) => part === '') ? null : one));
const properties: fc.Arbitrary<Properties> = fc.record({
  ...{ creator: texts, creditLine: text(80), copyrightNotice: text(80), usageTerms: text(80), webStatement: text(40) },
  ...{ rightsMarked: fc.constantFrom(true, false, null), description: text(200), headline: text(60), words: texts },
  ...{ locationCreated: location, locationShown: location, personShown: texts, jobId: text(30) },
  dateCreated: fc.constantFrom('', '2026-04-18T09:41:07+01:00', '2026-04-18T09:41:07.250'),
  ...{ contact, instructions: text(80), source: text(40), preservedFileName: text(30) },
  ...{ documentId: text(20), originalDocumentId: text(20), instanceId: text(20) },
});

describe('an edit', () => {
  const head = fc.uint8Array({ minLength: 60, maxLength: 200 });
  const edits = fc
    .array(fc.record({ at: fc.nat(50), cut: fc.nat(4), put: fc.uint8Array({ maxLength: 9 }) }), { maxLength: 5 })
    .map((pieces): Edit => {
      let from = 0;
      return [...pieces]
        .sort((a, b) => a.at - b.at)
        .flatMap((piece) => {
          if (piece.at < from) return [];
          from = piece.at + piece.cut;
          return [piece];
        });
    });

  it('is taken back by its undoing, and two are one (property)', () => {
    fc.assert(
      fc.property(head, edits, edits, (bytes, first, second) => {
        const once = applyTo(bytes, first);
        expect(applyTo(once, undoOf(bytes, first))).toEqual(bytes);
        expect(once.length).toBe(bytes.length + growth(first));
        if (reach(second) > once.length) return;
        expect(applyTo(bytes, oneAfterAnother(bytes, first, second))).toEqual(applyTo(once, second));
      }),
    );
  });

  it('keeps bytes of its own, though what it was made from is used again', () => {
    const bytes = Buffer.from('abcdef');
    const undo = undoOf(bytes, [{ at: 1, cut: 2, put: Buffer.from('X') }]);
    bytes.fill(0);
    expect(Buffer.from(undo[0]!.put).toString()).toBe('bc');
  });
});

describe('properties', () => {
  it('what a sidecar says is what was written (property)', () => {
    fc.assert(
      fc.property(properties, (said) => {
        const written = intoSidecar(null, null, said, {});
        expect(typeof written === 'string' ? written : propertiesInSidecar(written.bytes)).toEqual(said);
      }),
      { numRuns: 60 },
    );
  });

  it('what a JPEG says is what was written, and it comes out to the byte (property)', () => {
    fc.assert(
      fc.property(properties, fc.constantFrom(...pictures.slice(0, 20)), (said, picture) => {
        const insertion = intoJpeg(picture, said, {}, true, md5);
        if (typeof insertion === 'string') return;
        const changed = applyTo(picture, insertion.edit);
        expect(growth(insertion.edit) % BLOCK_BYTES).toBe(0);
        expect(comesOutAgain(picture, insertion)).toBe(true);
        expect(Buffer.from(applyTo(changed, insertion.undo)).equals(Buffer.from(picture))).toBe(true);
        const read = propertiesInJpeg(changed)!;
        for (const field of insertion.written) expect([field, read[field]]).toEqual([field, insertion.properties[field]]);
      }),
      { numRuns: 60 },
    );
  });

  it('degrees are written as XMP has them and read again (property)', () => {
    // ISO 16684-1, Exif schema: GPSCoordinate; its example of 54 degrees 59.38 minutes north is from memory.
    expect(degreesOf('54,59.380000N')).toBeCloseTo(54.989667, 6);
    expect(degreesOf('9,6,0W')).toBe(-9.1);
    fc.assert(fc.property(degrees(179), (lon) => expect(degreesOf(coordinateOf(lon, ['E', 'W']))).toBe(lon)));
  });

  // IPTC Photo Metadata Standard 2023.1, the fields named by the house's records (from memory): name, XMP property, IIM.
  it.each([
    ['Creator', 'dc:creator', 80],
    ['Credit Line', 'photoshop:Credit', 110],
    ['Copyright Notice', 'dc:rights', 116],
    ['Rights Usage Terms', 'xmpRights:UsageTerms', null],
    ['Web Statement of Rights', 'xmpRights:WebStatement', null],
    ['Description', 'dc:description', 120],
    ['Headline', 'photoshop:Headline', 105],
    ['Keywords', 'dc:subject', 25],
    ['Location Created', 'Iptc4xmpExt:LocationCreated', null],
    ['Location Shown in the Image', 'Iptc4xmpExt:LocationShown', null],
    ['Person Shown in the Image', 'Iptc4xmpExt:PersonInImage', null],
    ['Job Id', 'photoshop:TransmissionReference', 103],
    ['Date Created', 'photoshop:DateCreated', 55],
    ['Creator’s Contact Info', 'Iptc4xmpCore:CreatorContactInfo', null],
    ['Instructions', 'photoshop:Instructions', 40],
    ['Source', 'photoshop:Source', 115],
  ])('%s is %s', (name, property, dataset) => {
    const standard = STANDARDS.find((one) => one.name === name)!;
    expect(`${standard.xmp.prefix}:${standard.xmp.name}`).toBe(property);
    expect(standard.iim?.[0]!.dataset ?? null).toBe(dataset);
  });
});

describe('what came with a file', () => {
  const [picture] = pictures;
  const withTheirs = (theirs: Partial<Properties>) =>
    applyTo(picture!, planned(picture!, { ...NOTHING, ...theirs, instanceId: 'uuid:x' }).edit);

  it('stays until somebody says which stands; words add up', () => {
    const came = withTheirs({ creator: ['Ada Reed'], words: ['heron'] });
    const insertion = planned(came);
    expect(insertion.questions).toContainEqual({ field: 'creator', theirs: 'Ada Reed', ours: 'Inês Barrow' });
    expect(propertiesInJpeg(applyTo(came, insertion.edit))).toMatchObject({
      ...{ creator: ['Ada Reed'], words: ['heron', 'reeds', '星'], creditLine: 'Inês Barrow / Ostrel Bay' },
    });
    const over = intoJpeg(came, ours, { creator: 'ours' }, false, md5);
    expect(typeof over === 'string' ? over : propertiesInJpeg(applyTo(came, over.edit))!.creator).toEqual(['Inês Barrow']);
    const kept = intoJpeg(came, ours, { creator: 'theirs' }, false, md5);
    expect(typeof kept === 'string' ? kept : kept.questions).toEqual([]);
  });

  it('the same said three ways is no question; IIM and Exif hold what they can', () => {
    const long = { ...ours, creditLine: 'A line of credit that is longer than thirty-two bytes are' };
    const came = applyTo(picture!, planned(picture!, long).edit);
    expect(planned(came, long).questions).toEqual([]);
    const blocks = new Map(blocksInJpeg(came) as [string, Properties][]);
    expect([...blocks.keys()]).toEqual(['XMP', 'IIM', 'Exif']);
    expect(blocks.get('IIM')!.creditLine).toBe(long.creditLine.slice(0, 32).trim());
    expect(blocks.get('Exif')!.copyrightNotice).toBe('© 2026 Inês Barrow');
  });

  it('foreign properties stay to the letter', () => {
    const xmp = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
      <rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:a="urn:a" a:kept="1 &lt; 2">
        <dc:title><rdf:Alt><rdf:li xml:lang="pt">Juncos</rdf:li></rdf:Alt></dc:title><a:tree rdf:parseType="Resource"><a:leaf>é</a:leaf></a:tree>
        <dc:description><rdf:Alt><rdf:li xml:lang="x-default">Old</rdf:li><rdf:li xml:lang="pt">Velho</rdf:li></rdf:Alt></dc:description>
      </rdf:Description></rdf:RDF></x:xmpmeta>`;
    const base = { ...NOTHING, description: 'Old' };
    const written = intoSidecar(new TextEncoder().encode(xmp), base, ours, {});
    const out = typeof written === 'string' ? written : new TextDecoder().decode(written.bytes);
    for (const kept of ['a:kept="1 &lt; 2"', '<a:leaf>é</a:leaf>', '<rdf:li xml:lang="pt">Juncos</rdf:li>', 'Velho'])
      expect(out).toContain(kept);
    expect(out).not.toContain('>Old<');
  });
});

describe('a sidecar that somebody else changed', () => {
  const sidecar = (said: Properties) => (intoSidecar(null, null, said, {}) as { bytes: Uint8Array }).bytes;

  it('keeps what they wrote, takes what we changed, asks where both did', () => {
    const theirs = sidecar({ ...ours, headline: 'Theirs', creditLine: 'Theirs', words: ['reeds', 'dusk'] });
    const now = { ...ours, creditLine: 'Ours', description: 'New', words: ['reeds', '星', 'boat'] };
    const merged = intoSidecar(theirs, ours, now, {}) as Exclude<ReturnType<typeof intoSidecar>, string>;
    expect(merged.properties).toMatchObject({ headline: 'Theirs', creditLine: 'Theirs', description: 'New' });
    expect([...merged.properties.words].sort()).toEqual(['boat', 'dusk', 'reeds']);
    expect(merged.questions).toEqual([{ field: 'creditLine', theirs: 'Theirs', ours: 'Ours' }]);
    // Asked again as long as nobody answers, and settled when somebody does.
    const again = intoSidecar(merged.bytes, merged.base, now, {}) as typeof merged;
    expect(again.questions).toEqual(merged.questions);
    const answered = intoSidecar(merged.bytes, merged.base, now, { creditLine: 'ours' }) as typeof merged;
    expect(propertiesInSidecar(answered.bytes)).toMatchObject({ creditLine: 'Ours', headline: 'Theirs' });
  });

  it('whoever changed a field has it, whatever field (property)', () => {
    fc.assert(
      fc.property(properties, properties, properties, (base, theirs, now) => {
        const merged = intoSidecar(sidecar(theirs), base, now, {});
        if (typeof merged === 'string') throw new Error(merged);
        for (const field of FIELDS) {
          if (standardOf(field).xmp.form === 'bag' || field === 'instanceId') continue;
          const [isTheirs, isOurs] = [!sayTheSame(theirs, base, field), !sayTheSame(now, base, field)];
          const whose = isTheirs ? theirs : now;
          expect([field, merged.properties[field]]).toEqual([field, whose[field]]);
          const asked = merged.questions.some((one) => one.field === field);
          const bothChanged = isTheirs && isOurs && !sayTheSame(theirs, now, field);
          expect([field, asked]).toEqual([field, bothChanged && standardOf(field).quiet !== true]);
        }
      }),
      { numRuns: 40 },
    );
  });

  it('of a person is not touched', () => {
    expect(intoSidecar(sidecar(ours), null, ours, {})).toBe('a sidecar that somebody made stands there');
    expect(sidecarOf('20260418_IB_0001.dng')).toBe('20260418_IB_0001.dng.xmp');
  });
});

describe('bad input', () => {
  const sidecar = (content: string | Uint8Array) =>
    intoSidecar(typeof content === 'string' ? new TextEncoder().encode(content) : content, NOTHING, ours, {});
  const RDF = '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"/>';

  it.each([
    ['no XML', 'this is no XML', /empty|no XML/],
    ['half of it', `${RDF.slice(0, -2)}><a>`, /no XML/],
    ['entities', `<!DOCTYPE a [<!ENTITY b "${'x'.repeat(1000)}">]>${RDF}`, /declares entities/],
    ['no RDF', '<a/>', /holds no RDF/],
    ['nothing', '', /empty/],
  ])('%s gets a clear word', (_what, content, word) => {
    expect(sidecar(content)).toMatch(word);
  });

  it('UTF-16, Latin-1 and a hundred megabytes get one too, at once', () => {
    expect(sidecar(Buffer.from(`\uFEFF${RDF}`, 'utf16le'))).toMatch(/UTF-16/);
    expect(sidecar(Buffer.from(`<a>\xe9</a>`, 'latin1'))).toMatch(/UTF-8/);
    expect(sidecar(new Uint8Array(100_000_000))).toMatch(/too large/);
  });

  it('what is no JPEG, or has no picture, is left alone', () => {
    const into = (bytes: Uint8Array) => intoJpeg(bytes, ours, {}, false, md5);
    expect(into(Uint8Array.of(1, 2, 3))).toMatch(/does not begin as a JPEG/);
    expect(into(Uint8Array.of(0xff, 0xd8, 0xff, 0xd9))).toMatch(/no picture/);
    expect(into(Uint8Array.of(0xff, 0xd8, 0xff, 0xe1, 0, 1, 0, 0, 0))).toMatch(/cannot be/);
    expect(into(Uint8Array.of(0xff, 0xd8, 0, 0, 0, 0, 0))).toMatch(/something else/);
  });

  it('any bytes whatever are answered, never thrown at (property)', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...pictures.slice(0, 12)),
        fc.array(fc.tuple(fc.nat(3000), fc.nat(255)), { maxLength: 12 }),
        (picture, hits) => {
          const broken = new Uint8Array(picture);
          for (const [at, value] of hits) if (at < broken.length) broken[at] = value;
          const insertion = intoJpeg(broken, ours, {}, false, md5);
          if (typeof insertion !== 'string') expect(comesOutAgain(broken, insertion)).toBe(true);
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('where credit goes', () => {
  const item = { kind: 'photo', name: 'A.JPG', role: null, keptWhole: false } as const;

  it('inside a JPEG, beside all else, nowhere where a card is kept as it was', () => {
    expect(writingOf(item, {})).toBe('inside');
    expect(writingOf({ ...item, name: 'A.HEIC' }, {})).toBe('beside');
    expect(writingOf({ ...item, kind: 'raw', name: 'A.DNG' }, {})).toBe('beside');
    expect(writingOf({ ...item, kind: 'video', name: 'A.MP4' }, { video: 'record only' })).toBe('record only');
    expect(writingOf(item, { photo: 'beside' })).toBe('beside');
    expect(writingOf({ ...item, keptWhole: true }, {})).toBe('record only');
    expect(writingOf({ ...item, kind: 'sidecar' }, {})).toBe('record only');
  });

  it('whoever must not be shown is not named in the file; days are named, not counted', () => {
    const said = propertiesOf({
      ...{
        creator: null,
        creditLine: '',
        copyrightNotice: '',
        terms: null,
        embargoUntil: '2026-05-01',
        keywords: [],
        location: null,
      },
      ...{ taken: null, description: '', assignment: null, captured: { local: '2026-04-18T09:41:07', offsetMinutes: 60 } },
      personShown: [
        { name: 'Tomas Reed', consent: 'no' },
        { name: 'Ana Lind', consent: 'ask' },
      ],
      ...{ contact: null, house: 'Trust', name: 'A.JPG', documentId: 'd', instanceId: 'i' },
    });
    expect(JSON.stringify(said)).not.toContain('Tomas');
    expect(said).toMatchObject({
      ...{ personShown: ['Ana Lind'], dateCreated: '2026-04-18T09:41:07+01:00' },
      instructions:
        'It shows somebody who must not be shown. Not to be shown until 2026-05-01 is over. Ask Ana Lind before it is shown.',
    });
  });
});
