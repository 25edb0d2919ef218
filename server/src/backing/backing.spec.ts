import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { BackupManifest } from '@tally/contract';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { copyFile, cp, mkdir, readdir, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import pg from 'pg';
import { receiptOf } from '../proving/index.js';
import { realPictures } from '../testing/cards.js';
import { freshDatabase, type FreshDatabase } from '../testing/database.js';
import { anotherLife, never, NOW, openHouse, type TestHouse } from '../testing/house.js';
import { backedUp, bringing, filedCard } from '../testing/lives.js';
import { tool } from '../testing/tools.js';
import { bringBack, lookAtBackup } from './bringing-back.js';
import { verifyBackup } from './contents.js';
import { destinationsOf } from './destinations.js';
import { drill } from './drill.js';
import { backUp } from './making.js';
import { newSeal } from './seal.js';
import { backupsNow } from './standing.js';
import { backingWork } from './work.js';
import { Once } from '../work/once.js';

/*
 * The house backed up and brought back, with real databases by PostgreSQL's own tools. Outside checks: sha256sum, pg_restore,
 * Debian's age.
 */

let test: TestHouse;
beforeAll(async () => {
  test = await openHouse({ backup: {} });
});
afterAll(() => test.end());

describe('a backup', () => {
  it('holds the database, receipts and hand-ins; others’ tools read it; nothing secret is in its settings', async () => {
    const { id } = await filedCard(test);
    const receipt = await receiptOf(test.house, id, 'A4', 'http://127.0.0.1:4700', 'wren');
    const handed = join(test.settings.dataDir, 'handed-in/Ines Barrow 1f2e3d4c5b');
    await mkdir(handed, { recursive: true });
    const [name] = await realPictures(join(test.folder, 'OTHER'), 1);
    await copyFile(join(test.folder, 'OTHER/DCIM/100REAL', name!), join(handed, 'A.JPG'));
    const folder = await backedUp(test, join(test.folder, 'backups'));

    expect(tool('env', '-C', folder, 'sha256sum', '--check', '--quiet', '--strict', 'SHA256SUMS')).toBe('');
    const listed = tool('pg_restore', '--list', join(folder, 'database.dump'));
    expect(listed).toMatch(/TABLE DATA public filed_item/);
    expect(listed).not.toContain('pgboss');
    const manifest = BackupManifest.parse(JSON.parse(await readFile(join(folder, 'backup.json'), 'utf8')));
    expect(manifest).toMatchObject({ house: 'Ostrel Bay Tidelands Trust', sealed: false, rows: { intake: 1 } });
    expect(manifest.places.map(({ id: place }) => place)).toEqual(['shared', 'second']);
    const settings = await readFile(join(folder, 'settings.json'), 'utf8');
    expect(settings).not.toMatch(/postgres:|atabaseUrl/);
    expect((await readFile(join(folder, 'files/handed-in/Ines Barrow 1f2e3d4c5b/A.JPG'))).length).toBeGreaterThan(1000);
    const receipts = (await readdir(join(folder, 'files/receipts'), { recursive: true })).filter((name) => name.endsWith('.pdf'));
    expect((await readFile(join(folder, 'files/receipts', receipts[0]!))).equals(receipt)).toBe(true);
    expect(await readdir(join(test.folder, 'backups'))).toEqual([folder.split('/').at(-1)]);
    expect(await readdir(join(test.settings.dataDir, 'run'))).not.toContainEqual(expect.stringMatching(/^backup-/));
  });

  it('what did not change since the one before is no second copy of its bytes', async () => {
    const inode = (at: string) => tool('stat', '-c', '%i', join(at, 'files/handed-in/Ines Barrow 1f2e3d4c5b/A.JPG'));
    const before = inode(join(test.folder, 'backups', (await readdir(join(test.folder, 'backups')))[0]!));
    const folder = await backedUp(test, join(test.folder, 'backups'));
    expect(inode(folder)).toBe(before);
    await verifyBackup(folder, never);
    // Once a week it is: what a disk spoilt does not go on for ever.
    test.clock.now = new Date(NOW.getTime() + 7 * 86_400_000);
    const later = await backedUp(test, join(test.folder, 'backups'));
    test.clock.now = NOW;
    expect(inode(later)).not.toBe(before);
  });

  it('older ones are thinned, and what a killed run left goes; another house’s stay', async () => {
    const root = join(test.folder, 'thinned');
    const first = await backedUp(test, root);
    const theirs = join(root, '2020-01-01_020000_00000000000');
    await cp(first, theirs, { recursive: true });
    const other = {
      ...(JSON.parse(await readFile(join(theirs, 'backup.json'), 'utf8')) as object),
      houseId: '0190a000-0000-7000-8000-000000000000',
    };
    await writeFile(join(theirs, 'backup.json'), JSON.stringify(other));
    const { rows } = { rows: await test.house.db.query<{ id: string }[]>('select id::text as id from house_life') };
    await mkdir(join(root, `.tally-making-${rows[0]!.id.slice(-12)}-left`));
    for (let n = 1; n <= 3; n++) {
      test.clock.now = new Date(NOW.getTime() + n * 3_600_000);
      await backedUp(test, root, null, null);
    }
    test.clock.now = NOW;
    // What somebody makes before they try something stands beside them, and makes none go.
    await backedUp(test, join(test.folder, 'by-hand'));
    await backedUp(test, join(test.folder, 'by-hand'));
    expect(await readdir(join(test.folder, 'by-hand'))).toHaveLength(2);
    // All of one day: the newest is kept.
    expect(await readdir(root)).toEqual(['2020-01-01_020000_00000000000', expect.stringMatching(/^2026-04-21_204200_/)]);
  });

  it('a file that is taken in while it is made leaves nothing in it that is in no list: what was made can be brought back', async () => {
    const arriving = join(test.settings.dataDir, 'arriving/0a1b2c3d4e');
    for (const passphrase of [null, 'salt marsh at low water']) {
      await mkdir(arriving, { recursive: true });
      await writeFile(join(arriving, 'A.JPG'), 'soon elsewhere');
      const [found] = await destinationsOf(test.house, [join(test.folder, 'backups')]);
      const goes = {
        ...{ to: 'here', problem: null, apart: false, mustStand: () => Promise.resolve() },
        // Looked through by then, and not copied yet.
        get folder() {
          rmSync(arriving, { recursive: true, force: true });
          return found!.folder;
        },
      };
      const [made] = await backUp(test.house, [goes], { who: 'wren', passphrase, signal: never });
      expect(made).toMatchObject({ problem: null });
      await verifyBackup(made!.folder!, never);
      const database = await freshDatabase();
      try {
        const ask = bringing(test, database, made!.folder!, join(test.folder, `data-taken-${passphrase?.length}`), passphrase);
        await bringBack(ask, await lookAtBackup(ask));
      } finally {
        await database.drop();
      }
    }
  });

  it.each([
    ['and its root with it', () => undefined],
    ['and leaves an empty mount point', (root: string) => mkdirSync(root)],
  ])('a place that goes away before it is written to, %s, is not made, and nothing stays where it was', async (_what, leave) => {
    const root = join(test.folder, 'second');
    const [found] = await destinationsOf(test.house, ['second']);
    const goes = {
      ...found!,
      get folder() {
        renameSync(root, `${root}.away`);
        leave(root);
        return found!.folder;
      },
    };
    try {
      const [made] = await backUp(test.house, [goes], { who: 'wren', passphrase: null, signal: never });
      expect(made).toMatchObject({
        folder: null,
        problem: expect.stringMatching(/second (is not there|does not carry)/) as unknown,
      });
      expect(existsSync(root) ? readdirSync(root) : []).toEqual([]);
      expect(existsSync(`${root}.away/_tally-backups`)).toBe(false);
    } finally {
      rmSync(root, { recursive: true, force: true });
      renameSync(`${root}.away`, root);
    }
  });

  it('is not made twice at once, nor where there is no folder, nor without the tools; each is said', async () => {
    const to = await destinationsOf(test.house, [join(test.folder, 'backups'), join(test.folder, 'nowhere'), 'relative']);
    const made = await backUp(test.house, to, { who: null, passphrase: null, signal: never });
    expect(made.map(({ problem }) => problem)).toEqual([
      null,
      expect.stringMatching(/nowhere is not there$/),
      'is neither a place nor the path of a folder',
    ]);
    const both = await Promise.allSettled(
      [1, 2].map(() => backUp(test.house, to.slice(0, 1), { who: null, passphrase: null, signal: never })),
    );
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(String((both.find(({ status }) => status === 'rejected') as PromiseRejectedResult).reason)).toContain(
      'being backed up just now',
    );
  });

  (process.getuid?.() === 0 ? it : it.skip)(
    'finds no room on a small disk: nothing is begun there, the others go on',
    async () => {
      const small = join(test.folder, 'small');
      await mkdir(small);
      tool('mount', '-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', small);
      try {
        const to = await destinationsOf(test.house, [small, join(test.folder, 'backups')]);
        const made = await backUp(test.house, to, { who: null, passphrase: null, signal: never });
        expect(made.map(({ problem }) => problem)).toEqual([
          expect.stringMatching(/^there is room for .*, and .* are to be kept$/),
          null,
        ]);
        expect(await readdir(small)).toEqual([]);
        // What is wrong is on the desk, and stays there until it is made.
        const backup = { ...(test.settings.backup as object), to: [small] } as typeof test.settings.backup;
        const house = { ...test.house, settings: { ...test.settings, backup } };
        expect((await backupsNow(house)).problem).toMatch(/The house is not backed up everywhere\. .*small: there is room for/);
      } finally {
        tool('umount', small);
      }
    },
  );

  it('comes back from a drill as it was', async () => {
    const folder = await backedUp(test, join(test.folder, 'drilled'));
    expect(await drill(test.settings, folder, null, never)).toMatch(/^The drill went well: \d+ tables with \d+ rows/);
  });
});

describe('a sealed backup', () => {
  const PASSPHRASE = 'salt marsh at low water';
  it('tells no names, is opened by its passphrase alone, and by Debian’s age', async () => {
    // Stretching the passphrase holds up nobody: whoever asks meanwhile is answered.
    let turns = 0;
    const others = setInterval(() => turns++, 20);
    await newSeal(PASSPHRASE, join(test.folder, 'key-alone.age'));
    clearInterval(others);
    expect(turns).toBeGreaterThan(5);
    const folder = await backedUp(test, join(test.folder, 'sealed'), PASSPHRASE);
    await verifyBackup(folder, never);
    expect((await readdir(folder)).sort()).toEqual(
      ['SHA256SUMS', 'backup.json', 'database.dump.age', 'files', 'files.json.age', 'key.age', 'settings.json.age'].sort(),
    );
    expect((await readdir(join(folder, 'files'))).every((name) => /^\d{6}\.age$/.test(name))).toBe(true);
    for (const name of await readdir(folder, { recursive: true })) expect(name).not.toContain('Ines');
    const database = await freshDatabase();
    try {
      const dataDir = join(test.folder, 'data-sealed');
      await expect(lookAtBackup(bringing(test, database, folder, dataDir))).rejects.toThrow('it is sealed: say its passphrase');
      await expect(lookAtBackup(bringing(test, database, folder, dataDir, 'another'))).rejects.toThrow(
        'the passphrase is not that of this backup',
      );
      const whole = await lookAtBackup(bringing(test, database, folder, dataDir, PASSPHRASE));
      await bringBack(bringing(test, database, folder, dataDir, PASSPHRASE), whole);
      expect((await readFile(join(dataDir, 'handed-in/Ines Barrow 1f2e3d4c5b/A.JPG'))).length).toBeGreaterThan(1000);
    } finally {
      await database.drop();
    }
    // Outside check: age reads the passphrase from a terminal only, which `script` of util-linux makes.
    const age = `age --decrypt ${join(folder, 'key.age')}`;
    const opened = execFileSync('script', ['-qec', age, '/dev/null'], { input: `${PASSPHRASE}\n`, encoding: 'utf8' });
    const key = join(test.folder, 'key.txt');
    await writeFile(key, `${/AGE-SECRET-KEY-1[A-Z0-9]+/.exec(opened)![0]}\n`);
    const dump = join(test.folder, 'opened.dump');
    tool('age', '--decrypt', '--identity', key, '--output', dump, join(folder, 'database.dump.age'));
    expect(tool('pg_restore', '--list', dump)).toMatch(/TABLE DATA public intake/);
  });
});

describe('what is no whole backup is refused, and nothing is done', () => {
  const SPOILT: readonly (readonly [string, (folder: string) => Promise<unknown>, RegExp])[] = [
    ['a byte altered', (f) => alter(join(f, 'database.dump')), /database\.dump is not what it was/],
    ['cut short', (f) => rm(join(f, 'database.dump')), /database\.dump is gone/],
    ['without its sums', (f) => rm(join(f, 'SHA256SUMS')), /SHA256SUMS is not there: this is no backup, or it was cut short/],
    ['with more than was written', (f) => writeFile(join(f, 'files/more.txt'), 'x'), /files\/more\.txt came in/],
    [
      'a link in place of a file',
      (f) => rm(join(f, 'settings.json')).then(() => symlink('/etc/hostname', join(f, 'settings.json'))),
      /settings\.json is gone/,
    ],
    [
      'a way out of the folder',
      (f) => writeFile(join(f, 'SHA256SUMS'), `${'0'.repeat(64)}  ../../etc/passwd\n`),
      /holds a line that is no checksum/,
    ],
    [
      'of a newer version',
      (f) => writeFile(join(f, 'backup.json'), '{"format":"tally-stick-backup","version":2}'),
      /newer version of this program/,
    ],
    ['no JSON', (f) => writeFile(join(f, 'backup.json'), '{"format":'), /backup\.json is damaged/],
    ['huge', (f) => writeFile(join(f, 'backup.json'), Buffer.alloc(5e6, 32)), /too large to be one of ours/],
  ];
  let whole: string;
  let database: FreshDatabase;
  beforeAll(async () => {
    whole = await backedUp(test, join(test.folder, 'whole'));
    database = await freshDatabase();
  });
  afterAll(() => database.drop());
  const alter = async (file: string) => {
    const bytes = await readFile(file);
    bytes[Math.floor(bytes.length / 2)]! ^= 1;
    await writeFile(file, bytes);
  };

  it.each(SPOILT)('%s', async (_what, spoil, says) => {
    const folder = join(test.folder, 'spoilt');
    await rm(folder, { recursive: true, force: true });
    await cp(whole, folder, { recursive: true });
    await spoil(folder);
    await expect(lookAtBackup(bringing(test, database, folder, join(test.folder, 'data-spoilt')))).rejects.toThrow(says);
  });

  it('a step of the schema that this version does not know', async () => {
    const folder = join(test.folder, 'spoilt');
    await rm(folder, { recursive: true, force: true });
    await cp(whole, folder, { recursive: true });
    const file = join(folder, 'backup.json');
    const manifest = JSON.parse(await readFile(file, 'utf8')) as BackupManifest;
    await writeFile(file, JSON.stringify({ ...manifest, migrations: [...manifest.migrations, 'Later9999000000000'] }));
    const sum = tool('sha256sum', file).slice(0, 64);
    const sums = await readFile(join(folder, 'SHA256SUMS'), 'utf8');
    await writeFile(join(folder, 'SHA256SUMS'), sums.replace(/^[0-9a-f]{64}( {2}backup\.json)$/m, `${sum}$1`));
    await expect(lookAtBackup(bringing(test, database, folder, join(test.folder, 'data-spoilt')))).rejects.toThrow(
      /newer version.*Later9999/,
    );
  });

  it('into a database in which other programs have tables: none of theirs is touched', async () => {
    const shared = await freshDatabase();
    const client = new pg.Client({ connectionString: shared.adminUrl });
    await client.connect();
    try {
      await client.query('create table theirs as select 1 as one');
      const ask = bringing(test, shared, whole, join(test.folder, 'data-spoilt'));
      await expect(lookAtBackup(ask)).rejects.toThrow('holds tables of other programs (theirs)');
      await expect(bringBack(ask, { ...(await verifyBackup(whole, never)), seal: null })).rejects.toThrow('other programs');
      expect((await client.query('select one from theirs')).rows).toEqual([{ one: 1 }]);
    } finally {
      await client.end();
      await shared.drop();
    }
  });

  it('into a house that is not empty, or that somebody uses', async () => {
    const here = bringing(test, test.database, whole, join(test.folder, 'data-spoilt'));
    await expect(lookAtBackup(here)).rejects.toThrow(/is not empty \(\d+ intakes, 1 contributors, 1 assignments\)/);
    const used = await anotherLife(test, await freshDatabase());
    try {
      await expect(lookAtBackup(bringing(test, used.database, whole, join(test.folder, 'data-spoilt')))).rejects.toThrow(
        'somebody is connected',
      );
    } finally {
      await used.end();
    }
  });
});

describe('each night', () => {
  it('it is made once where the settings say, at its hour; what is old is told on the desk', async () => {
    const to = join(test.folder, 'nights');
    await mkdir(to);
    const backup = { ...(test.settings.backup as object), hour: 2, to: [to] } as typeof test.settings.backup;
    const house = { ...test.house, settings: { ...test.settings, backup } };
    const night = async (at: string) => {
      test.clock.now = new Date(at);
      const once = new Once(never, test.house.log);
      await backingWork(house).sweep!(once);
      await once.rest();
      return (await readdir(to)).filter((name) => !name.startsWith('.')).map((name) => name.slice(0, 15));
    };
    // Never made: at once. Then at two in the morning by the house's clock, one hour before UTC in summer.
    expect(await night('2026-06-01T16:00:00Z')).toEqual(['2026-06-01_1700']);
    expect(await night('2026-06-01T20:00:00Z')).toHaveLength(1);
    expect(await night('2026-06-02T00:30:00Z')).toHaveLength(1);
    expect(await night('2026-06-02T01:10:00Z')).toEqual(['2026-06-01_1700', '2026-06-02_0210']);
    expect(await night('2026-06-02T09:00:00Z')).toHaveLength(2);
    // A station that was off at night makes up for it.
    expect(await night('2026-06-03T08:00:00Z')).toHaveLength(3);
    test.clock.now = new Date('2026-06-03T20:00:00Z');
    expect((await backupsNow(house)).problem).toBeNull();
    test.clock.now = new Date('2026-06-06T20:00:00Z');
    expect(await backupsNow(house)).toEqual({ lastAt: '2026-06-03T08:00:00.000Z', problem: 'The last backup is 3 days old.' });
    test.clock.now = NOW;
  });

  it('not by hand, and not by a worker whose data folder is another one', () => {
    const by = (change: object) => backingWork({ ...test.house, settings: { ...test.settings, ...change } }).sweep;
    expect(by({ backup: 'by hand' })).toBeUndefined();
    expect(by({ role: 'worker' })).toBeUndefined();
    expect(by({ role: 'both' })).toBeDefined();
  });
});
