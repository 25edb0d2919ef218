import { afterAll, afterEach, beforeAll, expect, it } from '@jest/globals';
import { readdirSync, statSync } from 'node:fs';
import { mkdir, mkdtemp, open, readdir, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeCard, noise, put, realPictures } from '../../server/src/testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse, until, workerOf } from '../../server/src/testing/house.js';
import { writeTakenOut } from '../../server/src/testing/inside.js';
import { onDisk } from '../../server/src/testing/scratch.js';
import { compareAll, tool } from '../../server/src/testing/tools.js';
import { changeContributor } from '../../server/src/people/index.js';
import { writeManifests } from '../../server/src/proving/index.js';
import { systemFiles } from '../../server/src/drive/files.js';
import { clearanceNow, clearCard, letGoAt } from '../../server/src/clearing/index.js';
import { abilitiesOf, placesStanding } from '../../server/src/driving/index.js';
import { beginFiling, carryOut, copiesOf, planOf, tryAgain } from '../../server/src/filing/index.js';
import { receiveCard } from '../../server/src/arriving/index.js';
import { intakesWhere, theIntake } from '../../server/src/house/index.js';
import { itemsOf } from '../../server/src/seeing/index.js';
import type { MendAsk } from '@tally/contract';
import { beginMend, carryOutAll, lookAt, placeHere, planMend, Rounds, takeBack } from '../../server/src/tending/index.js';
import { wherePossible } from '../support/where-possible.js';
import { queuesAtRest } from '../support/queues-at-rest.js';
import { type FileSystemKind, Volume, whyNotMount } from '../support/file-system.js';

/*
 * Cards and drives with the file systems that people have: exFAT and NTFS by FUSE, XFS and ext4 by the kernel. What is
 * compared is compared by the system's own tools.
 */

const why = whyNotMount();
const suite = wherePossible(why);

const MB = 1_000_000;
let folder: string;
let test: TestHouse;
let volumes: Volume[] = [];
let opened = 0;
/** What happens when the so-manieth file is opened: a hand at a plug. */
let onOpen: { at: number; run: () => void } | null = null;
const files: typeof systemFiles = {
  ...systemFiles,
  open: (path, flags, mode) => {
    opened++;
    if (onOpen?.at === opened) {
      const { run } = onOpen;
      onOpen = null;
      run();
    }
    return systemFiles.open(path, flags, mode);
  },
};
const whenOpened = (at: number, run: () => void) => {
  opened = 0;
  onOpen = { at, run };
};

beforeAll(async () => {
  folder = await mkdtemp(join(onDisk(), 'tally-volumes-'));
});
afterEach(async () => {
  onOpen = null;
  await test.end();
  for (const volume of volumes) volume.remove();
  volumes = [];
});
afterAll(async () => {
  await rm(folder, { recursive: true, force: true });
  await queuesAtRest();
});

const volume = (name: string, kind: FileSystemKind, megabytes = 320): Volume => {
  const made = Volume.make(
    folder,
    `${name}-${Math.random().toString(36).slice(2, 8)}`,
    kind,
    kind === 'xfs' ? Math.max(320, megabytes) : megabytes,
  );
  volumes.push(made);
  return made;
};

/** A house whose places lie on volumes of these kinds. */
async function houseOn(
  shared: FileSystemKind,
  second: FileSystemKind,
  megabytes = 320,
  readers?: string[],
): Promise<{ shared: Volume; second: Volume }> {
  const at = { shared: volume('shared', shared, megabytes), second: volume('second', second, megabytes) };
  const place = (id: 'shared' | 'second', kind: string) => ({ id, name: id, kind, root: join(at[id].at, 'pictures') });
  for (const one of Object.values(at)) await mkdir(join(one.at, 'pictures'));
  test = await openHouse(
    { places: [place('shared', 'shared drive'), place('second', 'second copy')] as never, ...(readers ? { readers } : {}) },
    [],
    files,
  );
  return at;
}

/** Every copy equals its file on the card by the system's own comparison; nothing temporary is left. */
async function expectWhole(id: number, card: string, count: number): Promise<void> {
  expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', filed: count });
  const copies = await copiesOf(test.house.db, id);
  expect(copies).toHaveLength(count);
  for (const { root } of test.settings.places) {
    compareAll(copies.map(({ from, to }) => [join(card, from), join(root, to)]));
    const stands = (await readdir(root, { recursive: true, withFileTypes: true })).filter((one) => one.isFile());
    expect(stands.filter(({ name }) => name.endsWith('.part'))).toEqual([]);
    expect(new Set(copies.map(({ to }) => to.toLowerCase().normalize('NFC'))).size).toBe(count);
  }
}
const goOn = async (id: number) => {
  if ((await theIntake(test.house, id)).state === 'needs attention') await tryAgain(test.house, id, 'test');
  await carryOut(test.house, id, never);
};
const many = (count: number, bytes: number) =>
  Object.fromEntries(Array.from({ length: count }, (_, n) => [`DCIM/10${n % 3}OSTRL/P${1000 + n}.JPG`, bytes + n * 37]));

suite('credit in the files', () => {
  it.each([
    ['exfat', 'ntfs'],
    ['xfs', 'exfat'],
  ] as const)('follows a correction on %s and %s; what comes out is the card’s to the byte', async (shared, second) => {
    const at = await houseOn(shared, second);
    const card = join(at.shared.at, '../', `card-${shared}`);
    const names = await realPictures(card, 3);
    const id = await bring(test, card);
    await fileNow(test.house, id);
    const said = async (name: string) => {
      await changeContributor(test.house, test.slip.contributorId, { name }, 'test');
      await writeManifests(test.house);
      for (const { root } of test.settings.places)
        for (const { from, to } of await copiesOf(test.house.db, id)) {
          expect(tool('exiftool', '-s3', '-XMP-dc:Creator', join(root, to)).trim()).toBe(name);
          await writeTakenOut(test.house, join(root, to), join(folder, 'taken-out'));
          tool('cmp', join(card, from), join(folder, 'taken-out'));
        }
    };
    await said('Ines Barrow of the eastern dyke');
    await said('I');
    expect((await copiesOf(test.house.db, id)).map(({ copies }) => copies.map(({ state }) => state))).toEqual(
      names.map(() => ['tallied', 'tallied']),
    );
    const left = test.settings.places.flatMap(({ root }) => readdirSync(root, { recursive: true, encoding: 'utf8' }));
    expect(left.filter((name) => name.endsWith('.part'))).toEqual([]);
    await rm(card, { recursive: true });
  });
});

suite('cards and places', () => {
  it.each([
    ['exfat', 'exfat', 'ntfs'],
    ['exfat', 'ntfs', 'exfat'],
    ['ntfs', 'xfs', 'exfat'],
    ['ext4', 'exfat', 'xfs'],
  ] as const)('a card on %s is filed to %s and %s, byte for byte', async (card, shared, second) => {
    await houseOn(shared, second);
    const source = volume('card', card);
    await makeCard(source.at, { ...many(30, 120_000), 'DCIM/100OSTRL/empty.JPG': 0, 'CLIP/LONG.MP4': 9 * MB + 1 }, 3);
    const id = await bring(test, source.at);
    await fileNow(test.house, id);
    await expectWhole(id, source.at, 32);
    // How each was proven is known for every file system; what it can do is found by trying.
    const [one, two] = await Promise.all((await placesStanding(test.house)).map((place) => abilitiesOf(place)));
    expect([one!.links, two!.links]).toEqual([shared, second].map((kind) => kind !== 'exfat'));
    // Nothing was written to the card, and it may be cleared.
    expect(await clearanceNow(test.house, id, true)).toMatchObject({ safe: true, files: 32, full: true });
    expect(await clearCard(test.house, id, { files: 32, letGo: false, keep: false, sure: false }, { who: 'wren' })).toMatchObject(
      {
        removed: 32,
        stayed: [],
      },
    );
  });
});

suite('what is pulled in the middle', () => {
  it.each(['exfat', 'ntfs'] as const)('a card on %s: it waits, and goes on when it is back', async (kind) => {
    await houseOn('exfat', 'ntfs');
    const card = volume('card', kind);
    await makeCard(card.at, many(40, 200_000), 5);
    card.eject();
    card.putIn();
    const id = await bring(test, card.at);
    whenOpened(40, () => card.pull());
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'needs attention', present: false });
    expect((await theIntake(test.house, id)).note).toContain('The card was pulled');
    card.putIn();
    expect(await receiveCard(test.house, card.at, 'test')).toBe(id);
    await goOn(id);
    await expectWhole(id, card.at, 40);
  });

  it.each(['shared', 'second'] as const)(
    'the %s place: the other goes on, it is named, and it is caught up with',
    async (which) => {
      const places = await houseOn('exfat', 'ntfs');
      const card = volume('card', 'exfat');
      await makeCard(card.at, many(40, 200_000), 6);
      const id = await bring(test, card.at);
      whenOpened(40, () => places[which].pull());
      await fileNow(test.house, id);
      const { state, note } = await theIntake(test.house, id);
      expect(state).toBe('needs attention');
      expect(note).toMatch(new RegExp(`^${which} went away at .* goes on by itself when it is back`));
      // The bare mount point is not the place: nothing was written there.
      expect(readdirSync(places[which].at)).toEqual([]);
      places[which].putIn();
      await goOn(id);
      await expectWhole(id, card.at, 40);
    },
  );
});

suite('what a file system refuses', () => {
  it('names that Windows and exFAT refuse are mended, and twins by case or by accents stand side by side', async () => {
    await houseOn('exfat', 'ntfs');
    const card = volume('card', 'ext4');
    const names = [
      'A:B?.JPG',
      'CON.JPG',
      'ends .JPG',
      'x|y*.JPG',
      'Case.JPG',
      'case.JPG',
      'CASE.jpg',
      'caf\u00e9.JPG',
      'cafe\u0301.JPG',
      `${'\u00e9'.repeat(120)}.JPG`,
    ];
    for (const [index, name] of names.entries()) await put(join(card.at, 'DCIM', name), noise(5_000 + index, 70 + index));
    // Every name is kept as the camera wrote it, as far as a name can be.
    await test.house.db.query(
      `insert into house_rule (folder_line, file_line, kinds, settings, note, said_by, warnings, created_at)
       values ('{captured:yyyy}', '{original}', '{}', '{}', 'as the camera wrote it', 'test', '[]', now())`,
    );
    const id = await bring(test, card.at);
    await fileNow(test.house, id);
    await expectWhole(id, card.at, names.length);
  });

  it('a place that is mounted read-only is named, and filled when it can be written', async () => {
    const { second } = await houseOn('xfs', 'ntfs');
    const card = await makeCard(join(test.folder, 'CARD'), many(3, 1_000), 8);
    const id = await bring(test, card);
    second.eject();
    second.putIn({ writeProtected: true });
    expect((await placesStanding(test.house)).find((place) => place.id === 'second')!.standing).toMatchObject({ online: false });
    await fileNow(test.house, id);
    const { state, note } = await theIntake(test.house, id);
    expect([state, note]).toEqual(['needs attention', expect.stringMatching(/second: .*(may not be written|EROFS)/)]);
    second.eject();
    second.putIn();
    await goOn(id);
    await expectWhole(id, card, 3);
  });

  it('a card that does not fit is refused with figures, before anything is begun', async () => {
    await houseOn('exfat', 'exfat', 24);
    const card = await makeCard(join(test.folder, 'CARD'), many(8, 4 * MB), 9);
    const id = await bring(test, card);
    const { view } = await planOf(test.house, id);
    expect(view.tooFull).toHaveLength(2);
    await expect(beginFiling(test.house, id, view.seal, 'wren')).rejects.toThrow(
      /has \d+(\.\d+)? MB free, this card needs 32(\.\d+)? MB/,
    );
  });

  it('a write-protected card is not cleared: every file stays, each with its reason', async () => {
    await houseOn('exfat', 'ntfs');
    const card = volume('card', 'exfat');
    await makeCard(card.at, many(5, 2_000), 10);
    card.eject();
    card.putIn({ writeProtected: true });
    const id = await bring(test, card.at);
    await fileNow(test.house, id);
    await expectWhole(id, card.at, 5);
    const answer = await clearCard(test.house, id, { files: 5, letGo: false, keep: false, sure: false }, { who: 'wren' });
    expect(answer).toMatchObject({ removed: 0 });
    expect(answer.stayed.map(({ why: reason }) => reason)).toEqual(
      Array.from({ length: 5 }, () => 'it cannot be removed (EROFS)'),
    );
    expect((await theIntake(test.house, id)).clearedAt).toBeNull();
    expect(readdirSync(join(card.at, 'DCIM'), { recursive: true }).filter((name) => String(name).endsWith('.JPG'))).toHaveLength(
      5,
    );
  });
});

suite('a card is what its file system says it is', () => {
  it('with times as coarse as its file system keeps them it is the same card when it is back', async () => {
    await houseOn('exfat', 'ntfs');
    const card = volume('card', 'exfat');
    await makeCard(card.at, many(12, 3_000), 11);
    // Odd seconds and fractions, as cameras write them.
    for (const [index, name] of Object.keys(many(12, 3_000)).entries()) {
      const at = new Date(Date.parse('2026-04-18T09:12:31.789Z') + index * 3_333);
      await utimes(join(card.at, name), at, at);
    }
    const id = await bring(test, card.at);
    card.eject();
    card.putIn();
    expect(await bring(test, card.at)).toBe(id);
    await fileNow(test.house, id);
    await expectWhole(id, card.at, 12);
    for (const { from, to } of await copiesOf(test.house.db, id)) {
      const shift = Math.abs(statSync(join(card.at, from)).mtimeMs - statSync(join(test.settings.places[0]!.root, to)).mtimeMs);
      expect(shift).toBeLessThanOrEqual(2_000);
    }
  });

  it('swapped for another one at the same mount point, or formatted, it is another; the bare mount point is none', async () => {
    await houseOn('exfat', 'ntfs');
    const reader = join(test.folder, 'reader');
    const card = volume('card', 'exfat');
    const other = volume('other', 'exfat');
    await makeCard(card.at, many(4, 4_000), 12);
    await makeCard(other.at, { 'DCIM/X.JPG': 777 }, 13);
    card.eject();
    other.eject();
    // Both in the same reader, one after the other.
    const slot = join(reader, 'SLOT');
    await mkdir(slot, { recursive: true });
    const inSlot = (one: Volume) => Object.assign(Object.create(one) as Volume, { at: slot });
    const worker = workerOf(test);
    await worker.start();
    try {
      const read = (count: number) =>
        until(
          async () =>
            (
              await intakesWhere(
                test.house.db,
                `i.source_path = $1 and i.present and i.read_through and (i.totals->>'items')::int = $2`,
                [slot, count],
              )
            )[0],
        );
      const [first, second] = [inSlot(card), inSlot(other)];
      volumes.push(first, second);
      first.putIn();
      const { id } = await read(4);
      first.pull();
      await until(async () => !(await theIntake(test.house, id)).present);
      second.putIn();
      const swapped = await read(1);
      expect(swapped.id).not.toBe(id);
      expect((await itemsOf(test.house.db, id)).map(({ path }) => path)).toHaveLength(4);
      second.pull();
      await until(async () => !(await theIntake(test.house, swapped.id)).present);
      await expect(clearanceNow(test.house, swapped.id, false)).rejects.toThrow('not in the reader');
      first.putIn();
      expect((await read(4)).id).toBe(id);
      first.pull();
    } finally {
      await worker.stop();
    }
  });

  it('with nothing on it is never safe to clear', async () => {
    await houseOn('exfat', 'ntfs');
    const card = volume('card', 'exfat');
    await writeFile(join(card.at, 'one.JPG'), 'x');
    const id = await bring(test, card.at);
    await fileNow(test.house, id);
    tool('rm', join(card.at, 'one.JPG'));
    const view = await clearanceNow(test.house, id, false, null, card.at);
    expect(view).toMatchObject({ safe: false, files: 0 });
  });
});

suite('what is known of a card, and letting it go', () => {
  it.each(['exfat', 'ntfs'] as const)('%s: capacity and what is used as df says; unmounted when it is let go', async (kind) => {
    await houseOn('exfat', 'ntfs', 320, [join(folder, 'mounted/card-*')]);
    const card = volume('card', kind);
    await makeCard(card.at, many(6, 90_000), 21);
    const id = await bring(test, card.at);
    const facts = (await theIntake(test.house, id)).reader!;
    const [size, used] = tool('df', '-B1', '--output=size,used', card.at)
      .trim()
      .split('\n')
      .at(-1)!
      .trim()
      .split(/\s+/)
      .map(Number);
    expect(facts).toMatchObject({ capacityBytes: size, fileSystem: kind, writeProtected: false, letsGo: true });
    expect(Math.abs(facts.usedBytes! - used!)).toBeLessThan(MB);
    await fileNow(test.house, id);
    expect(await letGoAt(test.house, id, { anyway: false }, 'wren')).toMatchObject({ intakeId: id });
    expect(card.isIn).toBe(false);
    expect(await theIntake(test.house, id)).toMatchObject({ present: false, letGo: 'done' });
    // Everything reached it: put in again it is the same card, and clean.
    card.eject();
    card.putIn();
    expect(await receiveCard(test.house, card.at, 'test')).toBe(id);
    expect(await theIntake(test.house, id)).toMatchObject({ present: true, letGo: null });
  });

  it('while a program has a file of it open it is not let go, and that is said', async () => {
    await houseOn('exfat', 'ntfs', 320, [join(folder, 'mounted/card-*')]);
    const card = volume('card', 'exfat');
    await makeCard(card.at, many(2, 90_000), 22);
    const id = await bring(test, card.at);
    await fileNow(test.house, id);
    const [name] = Object.keys(many(2, 90_000));
    const reading = await open(join(card.at, name!), 'r');
    await expect(letGoAt(test.house, id, { anyway: false }, 'wren')).rejects.toThrow('still has a file or a folder of it open');
    expect(card.isIn).toBe(true);
    expect(await theIntake(test.house, id)).toMatchObject({ present: true, letGo: null });
    await reading.close();
    await letGoAt(test.house, id, { anyway: false }, 'wren');
    expect(card.isIn).toBe(false);
  });

  it('write-protected it says so; one that was pulled while something was written says that too', async () => {
    await houseOn('exfat', 'ntfs', 320, [join(folder, 'mounted/card-*')]);
    const card = volume('card', 'exfat');
    await makeCard(card.at, many(2, 50_000), 23);
    card.eject();
    card.putIn({ writeProtected: true });
    const id = await bring(test, card.at);
    expect((await theIntake(test.house, id)).reader).toMatchObject({ writeProtected: true, health: 'clean' });
    card.eject();
    // VolumeDirty, as a camera leaves it when its card is pulled (exFAT file system specification, 3.1.13.2).
    card.poke(106, 0x02);
    card.putIn({ writeProtected: true });
    expect(await receiveCard(test.house, card.at, 'test')).toBe(id);
    expect((await theIntake(test.house, id)).reader).toMatchObject({ writeProtected: true, health: 'dirty' });
  });
});

suite('mends and the drive as it is', () => {
  it.each([
    ['exfat', 'ntfs'],
    ['ntfs', 'exfat'],
    ['ext4', 'xfs'],
  ] as const)('on %s and %s: names change, by case too, and come back; what others did is followed', async (shared, second) => {
    await houseOn(shared, second);
    const card = await makeCard(join(folder, `mend-${shared}`), many(12, 40_000), 41);
    const id = await bring(test, card);
    await fileNow(test.house, id);
    await writeManifests(test.house);
    const folderOf = (path: string) => path.slice(0, path.lastIndexOf('/'));
    const before = folderOf((await copiesOf(test.house.db, id))[0]!.to);
    const root = test.settings.places[0]!.root;
    const mend = async (ask: MendAsk) => {
      const plan = await planMend(test.house, ask);
      expect(plan.faults).toEqual([]);
      const answer = await beginMend(test.house, ask, plan.seal, 'test');
      if (answer.outcome !== 'begun') throw new Error('changed');
      await carryOutAll(test.house, never);
      await writeManifests(test.house);
      await expectWhole(id, card, 12);
      return answer.id;
    };
    // By letter case only, which these file systems do not tell apart, or do.
    const renamed = await mend({ kind: 'rename folder', folder: before, to: before.toUpperCase() });
    await takeBack(test.house, renamed, 'test');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    await expectWhole(id, card, 12);
    // File by file: something of a stranger's stays in the folder.
    const one = (await itemsOf(test.house.db, id)).slice(0, 5).map((item) => item.id);
    await mend({ kind: 'put aside', itemIds: one, why: 'try' });
    // What somebody renames by hand is recognised by its bytes, in folders that keep no time of their own, too.
    const [first] = (await copiesOf(test.house.db, id)).filter(({ to }) => !to.startsWith('_'));
    await rename(join(root, first!.to), join(root, folderOf(first!.to), 'renamed by hand.jpg'));
    const rounds = new Rounds();
    try {
      await lookAt(test.house, await placeHere(test.house, 'shared'), never, { how: 'size and time' });
      await carryOutAll(test.house, never);
      await rename(join(root, folderOf(first!.to), 'renamed by hand.jpg'), join(root, folderOf(first!.to), 'and again.jpg'));
      await rounds.round(test.house, await placeHere(test.house, 'shared'), never);
    } finally {
      await rounds.close();
    }
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    await expectWhole(id, card, 12);
    expect((await copiesOf(test.house.db, id)).some(({ to }) => to.endsWith('/and again.jpg'))).toBe(true);
  });
});
