import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { addWord, exportSkos, importSkos } from '../../server/src/people/index.js';
import { openHouse, type TestHouse } from '../../server/src/testing/house.js';

/** Word lists against rapper (Debian raptor2-utils, an RDF parser of its own) and the W3C's SKOS Reference, 2009. */
let test: TestHouse;
beforeAll(async () => {
  test = await openHouse();
});
afterAll(() => test.end());

const SKOS = 'http://www.w3.org/2004/02/skos/core#';

/** What rapper makes of Turtle, as N-Triples. @throws when it finds a fault in it. */
function rapper(turtle: string, to = 'ntriples'): string {
  const file = join(test.folder, 'words.ttl');
  writeFileSync(file, turtle);
  return execFileSync('rapper', ['-q', '-i', 'turtle', '-o', to, file], { encoding: 'utf8' });
}

describe('a word list', () => {
  it('is read by rapper as it was meant: names, languages, what stands under what', async () => {
    const said = (text: string, more: { language: string; text: string; preferred: boolean }[] = []) => [
      { language: '', text, preferred: true },
      ...more,
    ];
    const plants = await addWord(
      test.house,
      { labels: said('plants'), broader: [], listed: true, note: 'what grows “here”' },
      'test',
    );
    const labels = said('reeds', [
      { language: 'pt', text: 'caniço', preferred: true },
      { language: '', text: 'Phragmites \\ "common"', preferred: false },
    ]);
    await addWord(test.house, { labels, broader: [plants], listed: true, note: '' }, 'test');
    const triples = rapper(await exportSkos(test.house));
    expect(triples).toContain(`<${SKOS}prefLabel> "reeds"`);
    expect(triples).toContain(`<${SKOS}prefLabel> "cani\\u00E7o"@pt`);
    expect(triples).toContain(`<${SKOS}altLabel> "Phragmites \\\\ \\"common\\""`);
    expect(triples).toContain(`<${SKOS}broader> <urn:x-tally-stick:word:${plants}>`);
    expect(triples.match(new RegExp(`<${SKOS}Concept>`, 'g'))).toHaveLength(2);
  });

  it('goes round through rapper and changes nothing', async () => {
    const before = await exportSkos(test.house);
    const answer = await importSkos(test.house, rapper(before, 'turtle'), true, 'test');
    expect(answer).toMatchObject({ added: 0, changed: 0, same: 2, faults: [], applied: true });
    expect(
      rapper(await exportSkos(test.house))
        .split('\n')
        .sort(),
    ).toEqual(rapper(before).split('\n').sort());
  });

  it('that somebody else wrote is taken in whole, or not at all with the reason', async () => {
    const turtle = (more: string) => `@prefix skos: <${SKOS}> . @prefix x: <urn:x-other:> .
      x:water a skos:Concept ; skos:prefLabel "water"@en , "água"@pt ; skos:narrower x:creek .
      x:creek a skos:Concept ; skos:prefLabel "creek"@en ; skos:altLabel "inlet"@en ; skos:scopeNote "tidal" . ${more}`;
    expect((await importSkos(test.house, turtle('x:creek skos:narrower x:water .'), true, 'test')).applied).toBe(false);
    expect((await importSkos(test.house, turtle('x:creek skos:prefLabel "bay"@en .'), true, 'test')).faults[0]?.what).toContain(
      'S14',
    );
    expect((await importSkos(test.house, turtle('oops'), true, 'test')).faults[0]).toMatchObject({ line: expect.any(Number) });
    expect(await importSkos(test.house, turtle(''), true, 'test')).toMatchObject({ added: 2, applied: true });
    expect(rapper(await exportSkos(test.house))).toContain(`<urn:x-other:creek> <${SKOS}broader> <urn:x-other:water>`);
    expect(await importSkos(test.house, turtle(''), true, 'test')).toMatchObject({ added: 0, changed: 0, same: 2 });
  });
});
