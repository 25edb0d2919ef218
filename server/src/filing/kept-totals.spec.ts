import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import pg from 'pg';
import { inTransaction } from '../db/database.js';
import { joinPlaceTotals } from '../driving/index.js';
import { recount, type Difference } from './index.js';
import { markMissing, markSpoilt, promise, waitForAll, withdraw, writeOutcomes } from './store/filed.js';
import { lockIntake, setSlip } from '../house/index.js';
import { refreshTotals, setTaken, splitItems } from '../seeing/index.js';
import type { TestHouse } from '../testing/house.js';
import { openOldHouse } from '../testing/old-house.js';

/*
 * What is kept as a total equals what a plain count finds, after some thousand random acts (TALLY_TOTALS_RUNS=25: ten
 * thousand): taken and left, given to others, promised, tallied, gone missing, differing, withdrawn, places that are new,
 * several people at once.
 */

const RUNS = Number(process.env['TALLY_TOTALS_RUNS'] ?? 4);
const ACTS = 400;

let test: TestHouse;
let owner: pg.Client;
/** What is known of the house, so that acts are such as happen. */
let intakes: { id: number; items: number[] }[];

beforeAll(async () => {
  test = await openOldHouse({ items: 400, intakes: 8, contributors: 4, assignments: 4, years: 22 });
  owner = new pg.Client({ connectionString: test.database.adminUrl });
  await owner.connect();
  await owner.query(`insert into place (id, name, kind, required, position, mark, fill, holds_kinds)
    values ('vault', 'Vault', 'archive', false, 9, 'm', 'later', '{photo}')`);
  const { rows } = await owner.query<{ id: number; items: number[] }>(
    'select intake_id as id, array_agg(id order by id) as items from item group by 1 order by 1',
  );
  intakes = rows;
}, 180_000);
afterAll(async () => {
  await owner.end();
  await test.end();
});

const PLACES = ['shared', 'second', 'offsite'];
const ACT = fc.record({
  what: fc.constantFrom(
    ...(['take', 'leave', 'promise', 'tally', 'missing', 'differs', 'withdraw', 'belongs', 'slip', 'new place', 'join'] as const),
  ),
  intake: fc.nat(7),
  from: fc.nat(60),
  count: fc.integer({ min: 1, max: 6 }),
  place: fc.constantFrom(...PLACES),
  who: fc.integer({ min: 1, max: 4 }),
});
type Act = typeof ACT extends fc.Arbitrary<infer A> ? A : never;

let names = 0;

async function act({ what, intake, from, count, place, who }: Act): Promise<void> {
  const { db } = test.house;
  const { id, items } = intakes[intake % intakes.length]!;
  const some = items.slice(from % items.length, (from % items.length) + count);
  const filed = async () =>
    (await owner.query<{ id: number }>('select id from filed_item where item_id = any($1::int[])', [some])).rows.map(
      (row) => row.id,
    );
  await inTransaction(db, async (tx) => {
    if (what === 'join') return joinPlaceTotals(tx, 1);
    if (what === 'new place') {
      await waitForAll(tx, 'vault');
      for (const one of intakes) await refreshTotals(tx, one.id);
      return;
    }
    await lockIntake(tx, id);
    if (what === 'take' || what === 'leave') await setTaken(tx, id, await leadersOf(some), what === 'take');
    if (what === 'belongs')
      await splitItems({ ...test.house, db: tx }, id, { itemIds: some, contributorId: who > 3 ? null : who }, 'test');
    if (what === 'slip') await setSlip(tx, id, { contributorId: who, assignmentId: who });
    if (what === 'promise') await promiseSome(tx, id, some);
    if (what === 'withdraw') await withdraw(tx, await filed());
    const copies = (await filed()).map((filedItemId) => ({ filedItemId, placeId: place }));
    if (what === 'missing') await markMissing(tx, copies);
    if (what === 'differs') await markSpoilt(tx, copies, 'differs', 'it differs');
    if (what === 'tally') await tally(tx, copies);
    await refreshTotals(tx, id);
  });
}

const leadersOf = async (items: readonly number[]) =>
  (await owner.query<{ leader: string }>('select leader from item where id = any($1::int[])', [items])).rows.map(
    ({ leader }) => leader,
  );

type Tx = Parameters<typeof lockIntake>[0];

async function promiseSome(tx: Tx, intakeId: number, items: readonly number[]): Promise<void> {
  const free = await owner.query<{ id: number; bytes: string }>(
    'select id, bytes from item i where id = any($1::int[]) and not exists (select from filed_item f where f.item_id = i.id)',
    [items],
  );
  const placements = free.rows.map(({ id, bytes }) => ({
    ...{ itemId: id, from: '', folder: `2026/day ${id % 3}`, name: `n${names++}.jpg`, n: null, bytes: Number(bytes) },
    ...{ wanted: '', base: null },
  }));
  await promise(tx, intakeId, placements as unknown as Parameters<typeof promise>[2], () => PLACES);
}

async function tally(tx: Tx, copies: readonly { filedItemId: number; placeId: string }[]): Promise<void> {
  const hash = (id: number) => createHash('md5').update(String(id)).digest();
  const at = new Date('2026-04-21T10:00:00Z');
  await writeOutcomes(
    tx,
    copies.map((copy) => ({ ...copy, state: 'tallied' as const, talliedAt: at, proof: 'read', problem: null, version: 0 })),
    copies.map(({ filedItemId }) => ({ filedItemId, hash: hash(filedItemId), quickHash: hash(filedItemId), filedAt: at })),
  );
}

async function differences(): Promise<Difference[]> {
  const found: Difference[] = [];
  for await (const one of recount(test.house)) found.push(one);
  return found;
}

describe('totals that are kept', () => {
  it(`equal a plain count after ${RUNS * ACTS} random acts, also of several people at once`, async () => {
    // What the old house says of its stick knows nothing of the place that is new here.
    await differences();
    await fc.assert(
      fc.asyncProperty(fc.array(ACT, { minLength: ACTS, maxLength: ACTS }), async (acts) => {
        // Four at a time, as at four desks, each with cards of its own; a place that is new comes alone.
        for (let from = 0; from < acts.length; from += 4) {
          const atOnce = acts.slice(from, from + 4);
          await Promise.all(
            atOnce.flatMap((one, desk) =>
              one.what === 'new place' ? [] : [act({ ...one, intake: (one.intake % 2) * 4 + desk })],
            ),
          );
          for (const one of atOnce) if (one.what === 'new place') await act(one);
        }
        expect(await differences()).toEqual([]);
      }),
      // Shrinking hundreds of acts takes longer than reading what differs.
      { numRuns: RUNS, endOnFailure: true },
    );
  }, 300_000);
});
