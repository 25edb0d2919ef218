import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { eventText, linkText, readHeads } from '@tally/core/audit';
import { execFileSync } from 'node:child_process';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import pg from 'pg';
import { compose } from '../composition.js';
import { inTransaction } from '../db/database.js';
import { record } from '../house/index.js';
import { never, NOW, openHouse, workerOf, type TestHouse } from '../testing/house.js';
import { chainLog, eraseFromLog, eraseWaiting, verifyLog, writeHeads } from './index.js';
import { writeNightly } from './heads.js';
import { linksAfter } from './store/chain.js';

let test: TestHouse;
let owner: pg.Client;
beforeAll(async () => {
  test = await openHouse();
  owner = new pg.Client({ connectionString: test.database.adminUrl });
  await owner.connect();
});
afterAll(async () => {
  await owner.end();
  await test.end();
});

const happens = (text: string) =>
  record(test.house.db, { at: NOW, kind: 'account', intakeId: null, who: 'wren', text, data: { n: 1.5 } });
/** What somebody could do who owns the database. */
const tamper = async (...statements: string[]) => {
  for (const table of ['event', 'event_link']) await owner.query(`alter table ${table} disable trigger user`);
  for (const statement of statements) await owner.query(statement);
  for (const table of ['event', 'event_link']) await owner.query(`alter table ${table} enable trigger user`);
};
/** Something that is waited for until somebody opens it. */
function door(): { readonly opened: Promise<void>; readonly open: () => void } {
  let open: () => void = () => undefined;
  const opened = new Promise<void>((resolve) => (open = resolve));
  return { opened, open };
}
/** Other tests' transactions are waited for, too: numbers of transactions are one row for a whole PostgreSQL. */
async function chainAll(left = 0): Promise<void> {
  for (let tries = 0; tries < 300; tries++) {
    await chainLog(test.house, never);
    if ((await verifyLog(test.house)).waiting <= left) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}
const problems = async () => (await verifyLog(test.house)).problems;

describe('the chain of the log', () => {
  it('holds every event once, in an order that nothing comes into later', async () => {
    for (let n = 0; n < 30; n++) await happens(`thing ${n}`);
    await chainAll();
    const verdict = await verifyLog(test.house);
    expect(verdict).toMatchObject({ problems: [], waiting: 0 });
    expect(verdict.chained).toBe(verdict.events);
    expect(await chainLog(test.house, never)).toBe(0);
  });

  it('what is told in a transaction that is still open is chained when that is over, after what came meanwhile', async () => {
    const [begun, goOn] = [door(), door()];
    const slow = inTransaction(test.house.db, async (tx) => {
      await record(tx, { at: NOW, kind: 'account', intakeId: null, who: null, text: 'slow' });
      begun.open();
      await goOn.opened;
    });
    await begun.opened;
    await happens('quick');
    await chainLog(test.house, never);
    expect(await verifyLog(test.house)).toMatchObject({ problems: [] });
    expect((await verifyLog(test.house)).waiting).toBeGreaterThan(0);
    goOn.open();
    await slow;
    await chainAll();
    expect(await verifyLog(test.house)).toMatchObject({ problems: [], waiting: 0 });
  });

  it('two processes chain no event twice', async () => {
    for (let n = 0; n < 50; n++) await happens(`both ${n}`);
    await Promise.all([chainLog(test.house, never), chainLog(test.house, never)]);
    await chainAll();
    expect(await verifyLog(test.house)).toMatchObject({ problems: [], waiting: 0 });
  });

  it('is what sha256sum makes of the same texts', async () => {
    const links = await linksAfter(test.house.db, 0, 5);
    const sum = (input: Buffer | string) => execFileSync('sha256sum', { input }).toString().slice(0, 64);
    let before = '0'.repeat(64);
    for (const { position, hash, digest, salt, id, at, kind, intakeId, who, text, data } of links) {
      const event = { id: id!, at: at!.toISOString(), kind: kind!, intakeId, who, text: text!, data };
      expect(digest.toString('hex')).toBe(sum(Buffer.concat([salt, Buffer.from(eventText(event))])));
      expect(hash.toString('hex')).toBe(sum(linkText(before, position, digest.toString('hex'))));
      before = hash.toString('hex');
    }
  });

  it('cannot be changed by the server’s own user, nor by the owner without taking the guard away', async () => {
    await expect(test.house.db.query('update event_link set position = 0')).rejects.toThrow(/denied|append-only/);
    await expect(owner.query('delete from event_link')).rejects.toThrow('append-only');
  });
});

describe('what whoever owns the database changes is seen', () => {
  const undone = async (change: string, back: string): Promise<string[]> => {
    await tamper(change);
    const found = await problems();
    await tamper(back);
    expect(await problems()).toEqual([]);
    return found;
  };

  it('a word, a name, a time, a figure', async () => {
    const { rows } = await owner.query<{ id: number; text: string }>(`select id, text from event where text = 'thing 7'`);
    const { id } = rows[0]!;
    for (const [change, back] of [
      [`text = 'nothing 7'`, `text = 'thing 7'`],
      [`who = 'tomas'`, `who = 'wren'`],
      [`at = at + interval '1 second'`, `at = at - interval '1 second'`],
      [`data = '{"n": 1.6}'`, `data = '{"n": 1.5}'`],
      [`kind = 'moved'`, `kind = 'account'`],
    ] as const) {
      const found = await undone(`update event set ${change} where id = ${id}`, `update event set ${back} where id = ${id}`);
      expect(found).toEqual([expect.stringContaining(`Event ${id} of`)]);
    }
  });

  it('an event that is gone, and one that came in beside the log', async () => {
    const { rows } = await owner.query<{ id: number }>(`select id from event where text = 'thing 9'`);
    const id = rows[0]!.id;
    await owner.query('create temp table kept as select * from event where id = $1', [id]);
    const gone = await undone(
      `delete from event where id = ${id}`,
      'insert into event overriding system value select * from kept',
    );
    expect(gone).toEqual([expect.stringContaining(`Event ${id} is gone`)]);
    const added = await undone(
      `insert into event (at, kind, text, epoch, xact) values (now(), 'account', 'slipped in', 1, 1)`,
      `delete from event where text = 'slipped in'`,
    );
    expect(added).toEqual([expect.stringContaining('1 events stand in no link')]);
  });

  it('a chain that was written anew from there on is seen by the heads on the drive', async () => {
    const written = await writeHeads(test.house, never);
    expect(written).toEqual(['Shared drive', 'Second copy']);
    const file = join(test.shared, 'log-heads.txt');
    expect(readHeads(await readFile(file, 'utf8'))).toMatchObject({ odd: 0, heads: [{ at: NOW.toISOString() }] });
    await chainAll();
    const whole = await verifyLog(test.house);
    expect(whole).toMatchObject({ problems: [], heads: 2 });

    // All links from the changed event on are made again, as whoever knows this program could.
    await owner.query('create temp table as_it_was as select * from event_link');
    await tamper(`update event set text = 'another' where text = 'thing 3'`, 'delete from event_link');
    await chainAll();
    const found = await problems();
    expect(found).toHaveLength(2);
    expect(found[0]).toMatch(/At Shared drive the log had another end/);
    await tamper(
      `update event set text = 'thing 3' where text = 'another'`,
      'delete from event_link',
      'insert into event_link select * from as_it_was',
    );
    await chainAll();
    expect(await problems()).toEqual([]);
  });

  it('events that are missing at the end are seen by the heads', async () => {
    await happens('the last word');
    await chainAll();
    await writeHeads(test.house, never);
    await tamper(
      `create temp table cut as select e.* from event e where text = 'the last word' or kind = 'chain'`,
      `create temp table cut_link as select l.* from event_link l where event_id in (select id from cut)`,
      'delete from event_link where event_id in (select id from cut)',
      'delete from event where id in (select id from cut)',
    );
    expect((await problems()).join()).toMatch(/Some are gone|is missing/);
    await tamper('insert into event overriding system value select * from cut', 'insert into event_link select * from cut_link');
    await chainAll();
    expect(await problems()).toEqual([]);
  });

  it('heads that somebody wrote into are told, and nothing of theirs is removed', async () => {
    const file = join(test.second, 'log-heads.txt');
    const before = await readFile(file, 'utf8');
    await writeFile(file, `${before}not a head\n`);
    expect(await problems()).toEqual([expect.stringContaining('1 lines of the heads')]);
    await writeHeads(test.house, never);
    expect(await readFile(file, 'utf8')).toContain('not a head\n');
    await writeFile(file, before);
    await rm(join(test.second, 'log-heads.txt'));
  });
});

describe('a name that is erased from the log', () => {
  const wish = (id: number, names: string[], lines: string[] = []) =>
    inTransaction(test.house.db, (tx) => eraseFromLog(tx, 'wren', { id, names, lines }));
  /** Other tests’ transactions are waited for here, too. */
  const erased = async () => {
    for (let tries = 0; tries < 300; tries++) {
      await eraseWaiting(test.house, never);
      const { rows } = await owner.query<{ waiting: number }>('select count(*)::int as waiting from erasing');
      if (rows[0]!.waiting === 0) return;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  };
  const textsLike = async (what: string) =>
    (
      await owner.query<{ text: string }>(`select text from event where text like $1 or data::text like $1 order by id`, [what])
    ).rows.map(({ text }) => text);

  it('stands nowhere any more; the chain holds, and says how often', async () => {
    for (let n = 0; n < 1_203; n++) await happens(n % 2 ? `Noor Vale filed ${n}.` : `nobody filed ${n}.`);
    await chainAll();
    await happens('Noor Vale told this last.');
    await wish(41, ['Noor Vale']);
    await erased();
    expect(await textsLike('%Noor Vale%')).toEqual([]);
    expect(await textsLike('Contributor 41 filed%')).toHaveLength(601);
    // In goes of five hundred, each told by an event of its own.
    expect(await textsLike('The name of Contributor 41 %')).toHaveLength(2);
    await chainAll();
    expect(await verifyLog(test.house)).toMatchObject({ problems: [], waiting: 0 });
    expect((await verifyLog(test.house)).erased).toBeGreaterThanOrEqual(601);
  });

  it('two of whom one sentence tells are both erased from it', async () => {
    await happens('Pia Moss met Tove Lund.');
    await happens('ÅSA ÖBERG, and A\u030asa O\u0308berg.');
    await chainAll();
    await wish(42, ['Pia Moss']);
    await erased();
    await wish(43, ['Tove Lund']);
    await erased();
    expect(await textsLike('Contributor 42 met Contributor 43.')).toHaveLength(1);
    // However it is cased and composed.
    await wish(45, ['Åsa Öberg']);
    await erased();
    expect(await textsLike('Contributor 45, and Contributor 45.')).toHaveLength(1);
    await chainAll();
    expect(await problems()).toEqual([]);
  });

  it('what was told by a transaction that began before the wish is waited for', async () => {
    const [begun, goOn] = [door(), door()];
    const slow = inTransaction(test.house.db, async (tx) => {
      await record(tx, { at: NOW, kind: 'account', intakeId: null, who: null, text: 'Begun.' });
      begun.open();
      await goOn.opened;
      await record(tx, { at: NOW, kind: 'account', intakeId: null, who: null, text: 'Sefa Oku came late.' });
    });
    await begun.opened;
    await wish(44, ['Sefa Oku']);
    await eraseWaiting(test.house, never);
    goOn.open();
    await slow;
    await erased();
    expect(await textsLike('%Sefa Oku%')).toEqual([]);
    expect(await textsLike('Contributor 44 came late.')).toHaveLength(1);
  });

  it('is no way for anybody to change what was told: an event must say so, and what it says is compared', async () => {
    const { rows } = await owner.query<{ id: number }>(`select id from event where text = 'thing 11'`);
    const { id } = rows[0]!;
    const change = (by: string) =>
      `select erase_told(array[${id}]::bigint[], array['wren'], array['nothing 11'], array[null]::text[], array['\\x00'::bytea], ${by})`;
    await owner.query(`create temp table kept_event as select * from event where id = ${id}`);
    await owner.query(`create temp table kept_link as select * from event_link where event_id = ${id}`);
    await expect(test.house.db.query(change('1'))).rejects.toThrow('only by an event that says so');
    // Somebody who says so, but does not say what it became.
    await inTransaction(test.house.db, async (tx) => {
      const by = await record(tx, {
        at: NOW,
        kind: 'erased',
        intakeId: null,
        who: null,
        text: 'Trust me.',
        data: { events: {} },
      });
      await tx.query(change(String(by)));
    });
    await chainAll();
    expect(await problems()).toEqual([expect.stringContaining(`Event ${id} of`)]);
    // As it was, it holds again; that it was tried stays in the log.
    await tamper(
      `update event e set text = k.text, who = k.who, data = k.data from kept_event k where k.id = e.id`,
      `update event_link l set salt = k.salt, erased_by = k.erased_by from kept_link k where k.position = l.position`,
    );
    expect(await problems()).toEqual([]);
    await expect(test.house.db.query(`update event set text = 'nothing' where id = ${id}`)).rejects.toThrow(/denied/);
  });
});

it('by itself: a station chains the log and writes its head to the drive once a night', async () => {
  await rm(join(test.shared, 'log-heads.txt'), { force: true });
  test.clock.now = new Date(NOW.getTime() + 24 * 3_600_000);
  const worker = workerOf(test);
  await worker.start();
  const until = Date.now() + 20_000;
  const text = async () => readFile(join(test.shared, 'log-heads.txt'), 'utf8').catch(() => '');
  while (!(await text()) && Date.now() < until) await new Promise((resolve) => setTimeout(resolve, 100));
  await worker.stop();
  expect(readHeads(await text()).heads).toHaveLength(1);
  expect(await verifyLog(test.house)).toMatchObject({ problems: [] });
});

it('two stations write the head of a night once, at every place', async () => {
  await happens('before the night');
  const isDone = (at: Date) => at.getTime() === test.clock.now.getTime();
  test.clock.now = new Date(test.clock.now.getTime() + 86_400_000);
  const before = readHeads((await readFile(join(test.shared, 'log-heads.txt'), 'utf8').catch(() => '')) || '').heads.length;
  const told = () => test.house.db.query<unknown[]>(`select text from event where kind = 'chain' and at = $1`, [test.clock.now]);
  const other = await compose(test.settings, { clock: () => test.clock.now });
  try {
    await Promise.all([
      writeNightly(test.house, isDone, never),
      writeNightly(other.house, isDone, never),
      writeNightly(test.house, isDone, never),
    ]);
  } finally {
    await other.close();
  }
  expect(readHeads(await readFile(join(test.shared, 'log-heads.txt'), 'utf8')).heads).toHaveLength(before + 1);
  expect(await told()).toHaveLength(1);
});

describe('a house that goes on in another database', () => {
  /** As after a dump of a PostgreSQL whose transactions had come far, and was read by one that is new. */
  const another = async () => {
    await tamper('update event set xact = xact + 100000000');
    await owner.query(`update house_life set database = 'another'`);
    await (await compose(test.settings, { clock: () => test.clock.now })).close();
  };
  const epochs = async () =>
    (await owner.query<{ epoch: number }>('select distinct epoch from event order by epoch')).rows.map(({ epoch }) => epoch);

  it('chains on: what waited, what is told since, and that it is another one', async () => {
    await chainAll();
    await happens('told, and not chained yet');
    await another();
    await happens('the first word here');
    await chainAll();
    expect(await epochs()).toEqual([1, 2]);
    expect(await verifyLog(test.house)).toMatchObject({
      ...{ problems: [], waiting: 0 },
      notes: [expect.stringMatching(/the house went on in another database, after \d+ events/)],
    });
    // What was altered of before is found across it, and so is what slips in behind the last link of then.
    const { rows } = await owner.query<{ id: number }>(`select id from event where text = 'thing 7'`);
    await tamper(`update event set text = 'nothing 7' where id = ${rows[0]!.id}`);
    expect(await problems()).toEqual([expect.stringContaining(`Event ${rows[0]!.id} of`)]);
    await tamper(
      `update event set text = 'thing 7' where id = ${rows[0]!.id}`,
      `insert into event (at, kind, text, epoch, xact) values (now(), 'account', 'slipped in', 1, 999999999)`,
    );
    expect(await problems()).toEqual([expect.stringContaining('1 events stand in no link')]);
    await tamper(`delete from event where text = 'slipped in'`);
    expect(await problems()).toEqual([]);
  });

  it('whose copy was an older one: heads of what came after it are told, and are no fault; later ones are compared', async () => {
    await chainAll();
    await happens('told after the dump');
    await chainAll();
    await writeHeads(test.house, never);
    await tamper(
      `delete from event_link where event_id >= (select id from event where text = 'told after the dump')`,
      `delete from event where id >= (select id from event where text = 'told after the dump')`,
    );
    expect((await problems()).join()).toMatch(/Some are gone|is missing/);
    await another();
    for (let n = 0; n < 5; n++) await happens(`told since ${n}`);
    await chainAll();
    const verdict = await verifyLog(test.house);
    expect(verdict.problems).toEqual([]);
    expect(verdict.notes.at(-1)).toMatch(/2 heads on the drive tell of up to \d+ events of the database before/);
    await writeHeads(test.house, never);
    await tamper(`delete from event_link`, `update event set text = 'told otherwise' where text = 'told since 3'`);
    await chainAll();
    expect((await problems()).join()).toMatch(/had another end after/);
  });

  it('two that begin at once go on in one epoch', async () => {
    const before = await epochs();
    await owner.query(`update house_life set database = 'a third'`);
    const both = await Promise.all([1, 2, 3].map(() => compose(test.settings, { clock: () => test.clock.now })));
    for (const one of both) await one.close();
    expect(await epochs()).toHaveLength(before.length + 1);
  });
});
