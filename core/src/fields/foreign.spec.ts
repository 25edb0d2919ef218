import { describe, expect, it } from '@jest/globals';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { type DataSet, mergedIim } from './iim.js';
import { applyTo, intoJpeg, NOTHING, type Properties } from './index.js';
import { isSigned, joined, segment, segmentsOf } from './jpeg.js';

/*
 * What others wrote and we did not mean to write stays as it is. Data sets and their numbers: IPTC Information Interchange Model
 * 4.2, chapter 6 (from memory); the index of further pictures in a JPEG: CIPA DC-007, whose offsets start at its own header.
 */

const ascii = (text: string) => new TextEncoder().encode(text);
const latin1 = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const set = (dataset: number, data: Uint8Array): DataSet => ({ record: 2, dataset, data });
const charset = (...bytes: number[]): DataSet => ({ record: 1, dataset: 90, data: Uint8Array.from(bytes) });
const says = (sets: readonly DataSet[] | string, dataset: number) =>
  typeof sets === 'string'
    ? sets
    : sets.filter((one) => one.record === 2 && one.dataset === dataset).map(({ data }) => new TextDecoder().decode(data));
const ours: Properties = { ...NOTHING, creditLine: 'Ostrel Bay', headline: 'Reed planting' };
const written = ['creditLine', 'headline'] as const;

describe('IIM of somebody else', () => {
  it('keeps city, state, country, its code and a notice that differs: they are not what we say', () => {
    const before = [
      set(90, ascii('Tarn')),
      set(95, ascii('Fellshire')),
      set(100, ascii('XYZ')),
      set(101, ascii('Faraway')),
      set(116, ascii('(c) somebody')),
      set(110, ascii('Theirs')),
    ];
    const merged = mergedIim(before, { ...ours, copyrightNotice: 'as XMP has it' }, '', written);
    for (const one of before.slice(0, 5)) expect(says(merged, one.dataset)).toEqual([new TextDecoder().decode(one.data)]);
    expect(says(merged, 110)).toEqual(['Ostrel Bay']);
    expect(says(merged, 105)).toEqual(['Reed planting']);
  });

  it('whose letters we do not know stays as it is, also where they are all ASCII', () => {
    expect(mergedIim([charset(0x1b, 0x2d, 0x41), set(80, ascii('A. Reed'))], ours, '', written)).toBe(
      'its IIM is written in letters that we do not know',
    );
    // Nothing of it is ours: then nothing of it is read by us, or replaced.
    expect(typeof mergedIim([charset(0x1b, 0x2d, 0x41), set(7, ascii('status'))], ours, '', written)).not.toBe('string');
  });

  it('in Latin-1 is written in UTF-8 with the same letters', () => {
    const merged = mergedIim([set(90, latin1('Åresund')), set(120, latin1('Ærø'))], ours, '', written);
    expect([says(merged, 90), says(merged, 120)]).toEqual([['Åresund'], ['Ærø']]);
  });

  it('whose text would not fit in UTF-8 stays as it is', () => {
    expect(mergedIim([set(90, latin1('å'.repeat(32)))], ours, '', written)).toBe('its IIM has texts that would not fit in UTF-8');
  });
});

describe('a JPEG that holds further pictures', () => {
  const folder = new URL('../../../tests/fixtures/camera/goexif/', import.meta.url);
  const picture = readdirSync(folder)
    .filter((name) => name.endsWith('.jpg'))
    .map((name) => new Uint8Array(readFileSync(new URL(name, folder))))
    .find((bytes) => {
      const segments = segmentsOf(bytes);
      return typeof segments !== 'string' && segments.some((one) => isSigned(bytes, one, 'exif'));
    })!;
  const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest();
  const index = segment('parts', ascii('an index'));
  const xmp = segment(
    'xmp',
    ascii('<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"/></x:xmpmeta>'),
  );
  /** With these segments behind its Exif, and a second picture behind the first. */
  const made = (...put: Uint8Array[]) => {
    const segments = segmentsOf(picture);
    if (typeof segments === 'string') throw new Error(segments);
    const at = segments.find((one) => isSigned(picture, one, 'exif'))!.to;
    return joined([picture.subarray(0, at), ...put, picture.subarray(at), ascii('THE SECOND PICTURE')]);
  };
  /** Bytes from the index to the second picture: what the index says of it. */
  const apart = (bytes: Uint8Array) => {
    const found = Buffer.from(bytes);
    return found.indexOf('THE SECOND PICTURE') - found.indexOf('an index');
  };

  it('is not written into where its index stands before what would be taken out', () => {
    expect(intoJpeg(made(index, xmp), ours, {}, false, md5)).toBe(
      'its list of further pictures stands before its XMP or its IIM',
    );
  });

  it('keeps what its index leads to where it is, seen from there', () => {
    for (const bytes of [made(xmp, index), made(index)]) {
      const insertion = intoJpeg(bytes, ours, {}, false, md5);
      if (typeof insertion === 'string') throw new Error(insertion);
      expect(apart(applyTo(bytes, insertion.edit))).toBe(apart(bytes));
    }
  });
});
