import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { IntakeRecord } from '@tally/contract';
import { execFile } from 'node:child_process';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import {
  addToList,
  changeContributor,
  changeHouseCredit,
  correctInList,
  houseList,
  makeContributor,
  mergeContributors,
  contributorByCode,
  peopleWork,
} from '../people/index.js';
import { Once } from '../work/once.js';
import pino from 'pino';
import { readIntake, receiveCard } from '../arriving/index.js';
import { writeManifests } from '../proving/index.js';
import { itemViews } from '../seeing/index.js';
import { CAPTURED, makeCard, realPictures } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { eventsOf, happens, theIntake } from '../house/index.js';
import { changeCredit, intakeCredit, whereShown } from './credit.js';
import { changeSlip } from './slip.js';
import { recordedCredit } from './recorded.js';
import { matchTrack } from './track.js';

const run = promisify(execFile);
let test: TestHouse;
let seed = 1;
beforeAll(async () => {
  test = await openHouse();
});
afterAll(() => test.end());

const card = (files: Record<string, number>) => makeCard(join(test.folder, `CARD_${++seed}`), files, seed);
const creditOfItems = async (id: number) => {
  const credits = await recordedCredit(test.house, id);
  return (await itemViews(test.house, id)).map((item) => credits(item.id)!);
};

/** The records beside the files of an intake, as anybody can read them. */
async function recordsOf(id: number) {
  await writeManifests(test.house);
  const { number } = await theIntake(test.house, id);
  const names = await readdir(test.shared, { recursive: true });
  const found = names.filter((name) => name.endsWith(`intake-${number}.json`));
  return Promise.all(found.map(async (name) => IntakeRecord.parse(JSON.parse(await readFile(join(test.shared, name), 'utf8')))));
}

describe('whose it is and what may be done with it', () => {
  it('a card says what the house, the assignment and the slip say; the record beside the files too, and follows later', async () => {
    const terms = await addToList(test.house, 'terms', { name: 'Free for the house', stance: 'free for the house' }, 'test');
    const reach = await addToList(
      test.house,
      'locations',
      { name: 'Mallow Reach', town: 'Ostrel', country: 'PT', lat: 38.7, lon: -9.1 },
      'test',
    );
    const id = await bring(test, await card({ 'DCIM/1.JPG': 900, 'DCIM/2.JPG': 900 }));
    await changeSlip(test.house, id, { termsId: terms, locationId: reach, addWords: ['Reeds', 'planting'] }, 'test');
    await fileNow(test.house, id);
    const [record] = await recordsOf(id);
    expect(record!.items[0]!.credit).toMatchObject({
      ...{
        creator: 'Ines Barrow',
        creditLine: 'Ines Barrow / Ostrel Bay Tidelands Trust',
        copyrightNotice: '© 2026 Ines Barrow',
      },
      ...{ keywords: ['Reeds', 'planting'], terms: { name: 'Free for the house', stance: 'free for the house' } },
      location: { name: 'Mallow Reach', country: 'PT', lat: 38.7 },
    });
    // One item differs, long after it was filed; a person is in the other one.
    const [first, second] = await itemViews(test.house, id);
    await changeCredit(
      test.house,
      { itemIds: [first!.id], creditLine: 'Ines only', removeWordIds: [(await intakeCredit(test.house, id)).slip.words[0]!.id] },
      'Wren',
    );
    const answer = await changeCredit(test.house, { itemIds: [second!.id], addPictured: ['Tomas Reed'] }, 'Wren');
    expect(answer).toEqual({ items: 1, following: 2 });
    const [later] = await recordsOf(id);
    expect(
      later!.items.map(({ credit }) => [credit!.creditLine, credit!.keywords, credit!.personShown.map(({ name }) => name)]),
    ).toEqual([
      ['Ines only', ['planting'], []],
      ['Ines Barrow / Ostrel Bay Tidelands Trust', ['Reeds', 'planting'], ['Tomas Reed']],
    ]);
    const told = (await eventsOf(test.house.db, id))
      .filter(({ kind }) => kind === 'credit')
      .map(({ who, text }) => `${who}: ${text}`);
    expect(told).toEqual([
      'Wren: 1 item: credited “Ines only” (was nothing); without the words Reeds.',
      'Wren: 1 item: showing Tomas Reed.',
    ]);
  });

  it('companions go together', async () => {
    const id = await bring(test, await card({ 'DCIM/9.JPG': 500, 'DCIM/9.CR2': 700 }));
    const [lead] = await itemViews(test.house, id);
    expect((await changeCredit(test.house, { itemIds: [lead!.id], addWords: ['heron'] }, 'test')).items).toBe(2);
  });

  it('two people who change the same credit: the second is asked to look again, and nothing is lost', async () => {
    const id = await bring(test, await card({ 'DCIM/1.JPG': 501 }));
    const [item] = await itemViews(test.house, id);
    const says = (creditLine: string, was: string | null, who: string) =>
      changeCredit(test.house, { itemIds: [item!.id], creditLine, was: { creditLine: [was] } }, who);
    // Both saw that nothing was said, and both press at the same moment.
    const both = await Promise.allSettled([says('first', null, 'Ada'), says('second', null, 'Ben')]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(both.find(({ status }) => status === 'rejected')).toMatchObject({
      reason: { message: expect.stringMatching(/Look again/) },
    });
    // Whoever looked may; one's own words a moment ago stand in nobody's way.
    const [now] = await creditOfItems(id);
    await says('third', now!.creditLine, 'Ben');
    await says('first', 'third', 'Ben');
    // Adding a word takes nothing from anybody.
    await changeCredit(test.house, { itemIds: [item!.id], addWords: ['otter'] }, 'Ben');
    expect(await creditOfItems(id)).toMatchObject([{ creditLine: 'first', keywords: ['otter'] }]);
  });

  it('ten thousand items change in one step', async () => {
    const id = await bring(test, await card({ 'DCIM/1.JPG': 502 }));
    await test.house.db.query(
      `insert into item (intake_id, path, path_bytes, bytes, modified_at, kind, leader, captured_local, capture_source, capture_original, read, taken, already_confirmed)
       select $1, 'X/' || n || '.JPG', convert_to('X/' || n || '.JPG', 'UTF8'), 10, now(), 'photo', 'X/' || n || '.JPG', '2026-04-18T09:00:00', 'metadata', '', true, true, false
       from generate_series(1, 10000) n`,
      [id],
    );
    const itemIds = (await test.house.db.query<{ id: number }[]>('select id from item where intake_id = $1', [id])).map(
      (row) => row.id,
    );
    const answer = await changeCredit(
      test.house,
      { itemIds, addWords: ['many'], termsId: null, creditLine: 'All of us' },
      'test',
    );
    expect(answer.items).toBe(10_001);
  });
});

describe('people who are shown', () => {
  it('a no marks the intake at once, and says where the copies are', async () => {
    const id = await bring(test, await card({ 'DCIM/1.JPG': 503, 'DCIM/2.JPG': 504 }));
    await fileNow(test.house, id);
    const [item] = await itemViews(test.house, id);
    await changeCredit(test.house, { itemIds: [item!.id], addPictured: ['Oriel Vance'] }, 'test');
    expect((await theIntake(test.house, id)).unshown).toBe(0);
    const people = await houseList(test.house.db, 'pictured');
    const person = people.find(({ name }) => name === 'Oriel Vance')!;
    expect(person.consent).toBe('ask');
    const answer = await correctInList(test.house, 'pictured', person.id, { consent: 'no' }, 'Wren');
    expect(answer.items).toBe(1);
    expect((await theIntake(test.house, id)).unshown).toBe(1);
    const [view] = await itemViews(test.house, id);
    expect(view!.credit!.pictured).toMatchObject([{ name: 'Oriel Vance', consent: 'no' }]);
    expect(await whereShown(test.house, person.id)).toMatchObject({
      items: 1,
      shown: [{ filedAs: view!.filedAs, places: ['Shared drive', 'Second copy'] }],
    });
    await correctInList(test.house, 'pictured', person.id, { consent: 'yes', until: '2026-12-31' }, 'Wren');
    expect((await theIntake(test.house, id)).unshown).toBe(0);
  });
});

describe('habits', () => {
  it('fill the slip of whoever hands in, say so, and give way to what a person says', async () => {
    const priya = await makeContributor(test.house, { name: 'Priya Lind', code: 'PL' }, 'test');
    const reach = (await houseList(test.house.db, 'locations'))[0]!.id;
    await addToList(
      test.house,
      'habits',
      {
        name: 'Priya on Fridays',
        belongs: 'contributor',
        of: String(priya),
        answers: { assignmentId: test.slip.assignmentId, locationId: reach, creditLine: 'P. Lind' },
      },
      'test',
    );
    const id = await receiveCard(test.house, await card({ 'DCIM/1.JPG': 505 }), 'test');
    await readIntake(test.house, id, never);
    await changeSlip(test.house, id, { contributorId: priya }, 'test');
    const filled = await intakeCredit(test.house, id);
    expect(filled.slip).toMatchObject({ creditLine: 'P. Lind', locationId: reach });
    expect(filled.answeredBy).toMatchObject({
      assignmentId: { name: 'Priya on Fridays' },
      creditLine: { belongs: 'contributor' },
    });
    expect((await theIntake(test.house, id)).assignment?.id).toBe(test.slip.assignmentId);
    // Somebody else's card: what the habit said goes with it; what a person said stays.
    await changeSlip(test.house, id, { creditLine: 'By hand' }, 'test');
    await changeSlip(test.house, id, { contributorId: test.slip.contributorId }, 'test');
    const after = await intakeCredit(test.house, id);
    expect(after.slip).toMatchObject({ creditLine: 'By hand', locationId: null });
    expect(after.answeredBy).toEqual({});
  });

  it('take none leaves everything, once', async () => {
    const noor = await makeContributor(test.house, { name: 'Noor Vale', code: 'NV' }, 'test');
    await addToList(
      test.house,
      'habits',
      { name: 'Noor chooses', belongs: 'contributor', of: String(noor), answers: { take: 'none' } },
      'test',
    );
    const id = await bring(test, await card({ 'DCIM/1.JPG': 506 }), { contributorId: noor });
    expect((await itemViews(test.house, id))[0]!.taken).toBe(false);
    // Asked again and again, it answers the same and says so once.
    await changeSlip(test.house, id, { creditLine: 'N. V.' }, 'test');
    await changeSlip(test.house, id, { creditLine: 'Noor' }, 'test');
    const told = (await eventsOf(test.house.db, id)).filter(({ text }) => text.startsWith('Slip filled by the habit'));
    expect(told).toHaveLength(1);
  });

  it('a card is known by its label, and then says what it always says', async () => {
    const first = await bring(test, await card({ 'DCIM/1.JPG': 511 }));
    await changeSlip(test.house, first, { cardLabel: 'C-777' }, 'test');
    const { card: known } = await theIntake(test.house, first);
    await addToList(
      test.house,
      'habits',
      { name: 'The boat’s card', belongs: 'card', of: String(known.id), answers: { creditLine: 'The boat' } },
      'test',
    );
    await fileNow(test.house, first);
    await test.house.db.transaction((tx) => happens(tx, test.house, first, { what: 'pulled' }));
    const again = await bring(test, await card({ 'DCIM/1.JPG': 512 }));
    expect((await intakeCredit(test.house, again)).slip.creditLine).toBeNull();
    await changeSlip(test.house, again, { cardLabel: 'C-777' }, 'test');
    expect((await intakeCredit(test.house, again)).slip.creditLine).toBe('The boat');
  });
});

describe('records of people', () => {
  it('two records of one person become one; the old code keeps meaning them, everywhere', async () => {
    const twice = await makeContributor(test.house, { name: 'Inês Barrow', code: 'INB' }, 'test');
    const id = await bring(test, await card({ 'DCIM/1.JPG': 507 }), { ...test.slip, contributorId: twice });
    await fileNow(test.house, id);
    const answer = await mergeContributors(test.house, twice, test.slip.contributorId, 'Wren');
    expect(answer).toMatchObject({ id: test.slip.contributorId, items: expect.any(Number) });
    expect(await contributorByCode(test.house.db, 'INB')).toMatchObject({ code: 'IB', name: 'Ines Barrow' });
    expect((await theIntake(test.house, id)).contributor).toMatchObject({ code: 'IB' });
    await expect(makeContributor(test.house, { name: 'Somebody else', code: 'INB' }, 'test')).rejects.toThrow(
      /belongs to somebody/,
    );
  });

  it('a corrected name reaches the records beside the files, with what it was in the log', async () => {
    const id = await bring(test, await card({ 'DCIM/1.JPG': 508 }));
    await fileNow(test.house, id);
    await writeManifests(test.house);
    const answer = await changeContributor(
      test.house,
      test.slip.contributorId,
      { name: 'Inês Barrow', creditLine: '{contributor.name}' },
      'Wren',
    );
    expect(answer.following).toBeGreaterThan(0);
    const [record] = await recordsOf(id);
    expect(record!.items[0]!.credit).toMatchObject({ creator: 'Inês Barrow', creditLine: 'Inês Barrow' });
    await expect(changeContributor(test.house, test.slip.contributorId, { name: 'Other', revision: 1 }, 'Ada')).rejects.toThrow(
      /Look at it again/,
    );
  });
});

describe('what the house says', () => {
  const followed = async () => {
    const once = new Once(never, pino({ level: 'silent' }));
    await peopleWork(test.house).sweep!(once);
    await once.rest();
  };

  it('reaches the records of everything filed, though more is filed than one round takes', async () => {
    const somebody = await makeContributor(test.house, { name: 'Odd Wen', code: 'OW' }, 'test');
    const ids: number[] = [];
    for (let seed = 700; seed < 702; seed++) {
      const id = await bring(test, await card({ 'DCIM/1.JPG': seed }));
      await changeSlip(test.house, id, { contributorId: somebody }, 'test');
      await fileNow(test.house, id);
      ids.push(id);
    }
    // One after the other: who writes beside the files passes by what somebody else is writing.
    const said = async () => {
      const notices: string[] = [];
      for (const id of ids) notices.push((await recordsOf(id))[0]!.items[0]!.credit!.copyrightNotice);
      return notices;
    };
    expect(await said()).toEqual(['© 2026 Odd Wen', '© 2026 Odd Wen']);
    // Ninety intakes of whatever came later: the round that reaches ours is not the first.
    await test.house.db.query(
      `insert into intake overriding system value select (jsonb_populate_record(i, jsonb_build_object('id', i.id + 100000 + n, 'uid', uuid_v7(), 'number', 'L-' || n))).* from intake i, generate_series(1, 90) n where i.id = $1`,
      [ids[0]],
    );
    await changeHouseCredit(test.house, { copyrightNotice: '© {house}' }, 'Wren');
    expect(await said()).toEqual(['© 2026 Odd Wen', '© 2026 Odd Wen']);
    await followed();
    expect(await said()).toEqual(['© Ostrel Bay Tidelands Trust', '© Ostrel Bay Tidelands Trust']);
    // Terms of the house, corrected, are what the house says too.
    const termsId = await addToList(test.house, 'terms', { name: 'Of the house', stance: 'ask first', sentence: 'Ask.' }, 'test');
    await changeHouseCredit(test.house, { termsId }, 'Wren');
    await correctInList(test.house, 'terms', termsId, { sentence: 'Ask us.' }, 'Wren');
    await followed();
    const [record] = await recordsOf(ids[0]!);
    expect(record!.items[0]!.credit!.terms).toMatchObject({ name: 'Of the house', sentence: 'Ask us.' });
  });
});

describe('what comes with a file', () => {
  it('is read at intake: what exiftool wrote is what is shown', async () => {
    const folder = join(test.folder, 'WITH_WORDS');
    const [name] = await realPictures(folder, 1);
    const tags = {
      'XMP-dc:Description': 'Reeds at dusk',
      'XMP-dc:Creator': 'Ada Reed',
      'XMP-photoshop:City': 'Ostrel',
      'IPTC:Keywords': 'heron',
    };
    const said = Object.entries(tags).map(([tag, value]) => `-${tag}=${value}`);
    const position = ['-GPSLatitude=38.7004', '-GPSLatitudeRef=N', '-GPSLongitude=9.1', '-GPSLongitudeRef=W'];
    await run('exiftool', ['-overwrite_original', ...said, ...position, join(folder, 'DCIM/100REAL', name!)]);
    const id = await bring(test, folder);
    const [item] = await itemViews(test.house, id);
    expect(item!.embedded).toMatchObject({
      description: 'Reeds at dusk',
      creator: 'Ada Reed',
      location: 'Ostrel',
      words: ['heron'],
    });
    // The camera's position is nearest to a known location.
    expect((await intakeCredit(test.house, id)).near).toMatchObject([{ items: 1, metres: expect.closeTo(44, 0) }]);
  });

  it('a track says where the pictures were taken, by their corrected time', async () => {
    const id = await bring(test, await card({ 'DCIM/1.JPG': 509, 'DCIM/2.JPG': 510 }));
    const at = (minutes: number) => new Date(CAPTURED.getTime() + minutes * 60_000).toISOString();
    const gpx = `<gpx version="1.1"><trk><trkseg><trkpt lat="38.7" lon="-9.1"><time>${at(-1)}</time></trkpt><trkpt lat="38.7" lon="-9.09"><time>${at(1)}</time></trkpt></trkseg></trk></gpx>`;
    const answer = await matchTrack(test.house, id, gpx, 'test');
    expect(answer).toMatchObject({
      points: 2,
      matched: 2,
      items: 2,
      near: [{ itemIds: expect.arrayContaining([expect.any(Number)]) }],
    });
    const [first] = await itemViews(test.house, id);
    expect(first!.credit!.position).toEqual({ lat: expect.closeTo(38.7, 5), lon: expect.closeTo(-9.095, 2) });
    await expect(matchTrack(test.house, id, '<html/>', 'test')).rejects.toThrow(/no <gpx>/);
  });
});
