import { join } from 'node:path';
import type { IntakeRecord } from '@tally/contract';
import { isAside } from '@tally/core/drive';
import { propertiesInSidecar, type Properties, sidecarOf } from '@tally/core/fields';
import { type Difference, intakeTold, type IntakeTold, type ItemTold } from '@tally/core/rebuild';
import { folderOf, pathIn, staysBelow } from '@tally/core/rule';
import pLimit from 'p-limit';
import { keepVersions, type NewVersion, setStands, type StandsAt } from '../crediting/index.js';
import { type Db, inTransaction } from '../db/database.js';
import { sizeAndTime } from '../drive/move-file.js';
import { hashOf, readSidecar } from '../drive/sidecar-file.js';
import { filedByPaths, rebuildFiled, type RebuiltFile } from '../filing/index.js';
import { mustStillStand } from '../drive/place.js';
import { type House, freeNumber, raiseNumbers, rebuildEvents, rebuildIntake, record } from '../house/index.js';
import { keywordIds, rebuildNamed, rebuildPictured, rebuildSaid } from '../people/index.js';
import { rebuildItems, rebuildLeft, refreshTotals } from '../seeing/index.js';
import { type ItemSays, rebuildSayings } from '../slip/index.js';
import { type BinnedFile, rebuildBin, rebuildNames } from '../tending/index.js';
import { type Header, type ReadPlace, recordsOf } from './found.js';

/** Files that are looked at a time: a place may lie behind a slow line. */
const LOOKED_AT_ONCE = 16;

type Item = IntakeRecord['items'][number];
type Told = IntakeTold<IntakeRecord, Item>;

/** What became of one intake. */
export interface TakenIn {
  readonly number: string;
  readonly items: number;
  /** Items that stay out: somebody else's file has their name. */
  readonly out: number;
  /** Files that do not stand where their record says, or with another size. */
  readonly missing: number;
  readonly differences: readonly Difference[];
}

/** All that is taken in at once has in common. */
export interface Common {
  readonly house: House;
  readonly places: readonly ReadPlace[];
  /** Revisions of the rule here, by what the house record calls them. */
  readonly rules: ReadonlyMap<number, number>;
  /** Places that must hold a file, besides those where it stands. */
  readonly wanted: (item: Item, slug: string | null) => readonly string[];
  readonly who: string;
}

/** Takes an intake into the log as its records tell it: read and looked at outside of the transaction, put there in one. */
export async function takeIn(common: Common, headers: readonly Header[], signal: AbortSignal): Promise<TakenIn | null> {
  const found = await recordsOf(headers);
  if (!found.length) return null;
  const told = intakeTold<Item, IntakeRecord>(found);
  // A name that is no UTF-8 is kept byte for byte, and leads out of no card either.
  const bytes = told.items.flatMap(({ item }) => item.fromBytes ?? []);
  if (!bytes.every((one) => staysBelow(Buffer.from(one, 'base64').toString('latin1')))) return null;
  const limit = pLimit(LOOKED_AT_ONCE);
  const stood = new Map(
    await Promise.all(
      told.items.map((one) =>
        limit(async () => {
          signal.throwIfAborted();
          return [one, await stoodOf(common.places, one)] as const;
        }),
      ),
    ),
  );
  // What was not found on a place that went away meanwhile may stand there.
  for (const place of common.places) await mustStillStand(place);
  return inTransaction(common.house.db, (tx) => put(tx, common, told, stood));
}

/** One file as it stands at a place. */
interface Stood {
  readonly placeId: string;
  readonly item: Item;
  readonly isThere: boolean;
  /** What its sidecar says, where that is the one that was written; null: there is none, or it is another one. */
  readonly said: Properties | null;
  readonly sidecarAt: Date | null;
}

const ownPath = ({ folder, item }: ItemTold<Item>): string => pathIn(folder, item.name);

async function stoodOf(places: readonly ReadPlace[], told: ItemTold<Item>): Promise<Stood[]> {
  const stood: Stood[] = [];
  for (const { placeId, item } of told.at) {
    // What was not whole there when that was written is not looked for; records of before say nothing of it.
    if (item.talliedAt === null && item.fast !== null) continue;
    const path = join(places.find(({ id }) => id === placeId)!.root, ownPath(told));
    const isThere = (await sizeAndTime(path))?.bytes === (item.inside?.bytes ?? item.bytes);
    const beside = isThere && item.beside ? await sidecarAt(sidecarOf(path), item.beside.xxh128) : null;
    stood.push({ placeId, item, isThere, said: beside?.said ?? null, sidecarAt: beside?.modifiedAt ?? null });
  }
  return stood;
}

/** What a sidecar says that is the one which was written; null: it is another one by now, or none. */
async function sidecarAt(path: string, xxh128: string): Promise<{ said: Properties; modifiedAt: Date } | null> {
  const bytes = await readSidecar(path).catch(() => null);
  if (!(bytes instanceof Buffer) || (await hashOf(bytes)).toString('hex') !== xxh128) return null;
  const said = propertiesInSidecar(bytes);
  const stands = await sizeAndTime(path);
  return typeof said === 'string' || !stands ? null : { said, modifiedAt: stands.modifiedAt };
}

async function put(tx: Db, common: Common, told: Told, stood: ReadonlyMap<ItemTold<Item>, readonly Stood[]>): Promise<TakenIn> {
  const { house, who, rules } = common;
  const { record: says, items } = told;
  const at = house.clock();
  const number = await freeNumber(tx, says.intake, Number(says.receivedAt.slice(0, 4)));
  const named = await namesOf(tx, told, at);
  const intakeId = await rebuildIntake(tx, {
    ...{
      record: says,
      number,
      contributorId: named.contributor(says.contributor),
      assignmentId: named.assignment(says.assignment),
    },
    ruleRevision: says.rule === null ? null : (rules.get(says.rule) ?? null),
    ...{ termsId: named.terms(says.says.terms), locationId: named.location(says.says.location) },
  });
  // Before anything of it is filed: what is told makes its records due, once it has some.
  await rebuildEvents(tx, intakeId, says.events);
  const itemIds = await rebuildItems(
    tx,
    intakeId,
    items.map(({ item }) => ({
      ...{ item, contributorId: named.contributor(item.contributor), assignmentId: named.assignment(item.assignment) },
    })),
    says.adopted === null,
  );
  await rebuildSayings(
    tx,
    intakeId,
    {
      ...{ creditLine: says.says.creditLine, copyrightNotice: says.says.copyrightNotice },
      ...{ termsId: named.terms(says.says.terms), locationId: named.location(says.says.location) },
      wordIds: says.says.keywords.flatMap((text) => named.word(text) ?? []),
    },
    items.map(({ item }) => sayingsOf(itemIds.get(item.from)!, item, named)),
  );
  const files = items.map((one) => fileOf(itemIds.get(one.item.from)!, one, stood.get(one)!, common, says));
  const filedIds = await rebuildFiled(tx, intakeId, files);
  await putCredit(tx, items, stood, (item) => filedIds.get(itemIds.get(item.from)!));
  await putNames(tx, items, (item) => filedIds.get(itemIds.get(item.from)!), who, at);
  await putLeft(tx, intakeId, says);
  const isOther = number !== says.intake ? ` Its number was ${says.intake}, which another intake has by now.` : '';
  const text = `Taken into the log again from its record on the drive.${isOther}`;
  await record(tx, { at, kind: 'rebuilt', intakeId, who, text });
  await raiseNumbers(
    tx,
    says.drawn.map(({ scope, next }) => ({ scope, next })),
  );
  await refreshTotals(tx, intakeId);
  const missing = [...stood.values()].reduce((sum, some) => sum + some.filter(({ isThere }) => !isThere).length, 0);
  return { number, items: items.length, out: files.length - filedIds.size, missing, differences: told.differences };
}

/** Ids of all that an intake's records name. */
interface Named {
  readonly contributor: (one: { code: string } | null) => number | null;
  readonly assignment: (one: { slug: string } | null) => number | null;
  readonly terms: (name: string | null) => number | null;
  readonly location: (name: string | null) => number | null;
  readonly word: (text: string) => number | null;
  readonly person: (name: string) => number | null;
}

async function namesOf(tx: Db, { record: says, items }: Told, at: Date): Promise<Named> {
  const all = items.map(({ item }) => item);
  const day = says.receivedAt.slice(0, 10);
  const ids = await rebuildNamed(
    tx,
    [says, ...all].flatMap(({ contributor }) => contributor ?? []),
    [says, ...all].flatMap(({ assignment }) => (assignment ? [{ ...assignment, day }] : [])),
    at,
  );
  const spelt = all.flatMap(({ credit }) => credit?.terms ?? []);
  const nameOnly = [says, ...all]
    .flatMap(({ says: { terms } }) => terms ?? [])
    .filter((name) => !spelt.some((one) => one.name === name));
  const lists = await rebuildSaid(
    tx,
    [...spelt, ...nameOnly.map((name) => ({ name, stance: 'ask first', sentence: '', web: null, until: null }))],
    [says, ...all].flatMap(({ says: { location } }) => location ?? []),
  );
  const words = await keywordIds(tx, [
    ...says.says.keywords,
    ...all.flatMap(({ says: { keywords } }) => keywords.map(({ text }) => text)),
  ]);
  const persons = await rebuildPictured(
    tx,
    all.flatMap(({ credit }) => credit?.personShown ?? []),
  );
  return {
    contributor: (one) => (one && ids.contributors.get(one.code)) ?? null,
    assignment: (one) => (one && ids.assignments.get(one.slug)) ?? null,
    terms: (name) => (name === null ? null : (lists.terms.get(name) ?? null)),
    location: (name) => (name === null ? null : (lists.locations.get(name) ?? null)),
    word: (text) => words.get(text) ?? null,
    person: (name) => persons.get(name) ?? null,
  };
}

const sayingsOf = (itemId: number, item: Item, named: Named): ItemSays => ({
  ...{ itemId, creditLine: item.says.creditLine, copyrightNotice: item.says.copyrightNotice },
  ...{ termsId: named.terms(item.says.terms), locationId: named.location(item.says.location) },
  ...{ lat: item.says.lat, lon: item.says.lon, standing: item.says.standing },
  words: item.says.keywords.flatMap(({ text, has }) => {
    const id = named.word(text);
    return id === null ? [] : [{ id, has }];
  }),
  picturedIds: (item.credit?.personShown ?? []).flatMap(({ name }) => named.person(name) ?? []),
});

function fileOf(itemId: number, one: ItemTold<Item>, stood: readonly Stood[], common: Common, says: IntakeRecord): RebuiltFile {
  const { item, folder } = one;
  const slug = (item.assignment ?? says.assignment)?.slug ?? null;
  const standing = stood.map(({ placeId, item: there, isThere }): RebuiltFile['copies'][number] => ({
    ...{ placeId, state: isThere ? 'tallied' : 'missing', talliedAt: there.talliedAt, proof: there.proof },
    problem: isThere ? null : 'it is not where its record says, or has another size',
  }));
  const waiting = common
    .wanted(item, slug)
    .filter((placeId) => !stood.some((there) => there.placeId === placeId))
    .map((placeId) => ({ placeId, state: 'waiting' as const, talliedAt: null, proof: null, problem: null }));
  return {
    ...{ itemId, path: ownPath(one), listFolder: folder, n: item.n, bytes: item.bytes, xxh128: item.xxh128, fast: item.fast },
    ...{ filedAt: item.filedAt, copies: [...standing, ...waiting] },
  };
}

type FiledId = (item: Item) => number | undefined;

/** What is said in each file or beside it, so that it comes out again, and follows what is said next. */
async function putCredit(
  tx: Db,
  items: readonly ItemTold<Item>[],
  stood: ReadonlyMap<ItemTold<Item>, readonly Stood[]>,
  idOf: FiledId,
): Promise<void> {
  const versions: { placeId: string; version: NewVersion; modifiedAt: Date | null }[] = [];
  for (const one of items) {
    const filedItemId = idOf(one.item);
    if (filedItemId === undefined) continue;
    for (const there of stood.get(one)!) {
      const version = versionOf(filedItemId, there);
      if (version) versions.push({ placeId: there.placeId, version, modifiedAt: there.sidecarAt });
    }
  }
  // What differs from place to place is another version: one of each at a time.
  let left = versions;
  while (left.length) {
    const [now, later]: [typeof left, typeof left] = [[], []];
    const taken = new Map<number, string>();
    for (const one of left) {
      const key = `${one.version.how} ${one.version.fingerprint} ${one.version.hash?.toString('hex') ?? ''}`;
      const known = taken.get(one.version.filedItemId);
      if (known === undefined || known === key) now.push(one);
      else later.push(one);
      if (known === undefined) taken.set(one.version.filedItemId, key);
    }
    const unique = new Map(now.map(({ version }) => [version.filedItemId, version]));
    const numbers = await keepVersions(tx, [...unique.values()]);
    await setStands(
      tx,
      now.map(({ placeId, version, modifiedAt }): StandsAt => ({
        ...{ filedItemId: version.filedItemId, placeId, version: numbers.get(version.filedItemId)!, modifiedAt },
      })),
    );
    left = later;
  }
}

function versionOf(filedItemId: number, { item, said }: Stood): NewVersion | null {
  const { inside, beside } = item;
  const hash = (hex: string | null) => (hex === null ? null : Buffer.from(hex, 'hex'));
  if (inside)
    return {
      ...{ filedItemId, how: 'inside', fingerprint: inside.as ?? '', bytes: inside.bytes, hash: hash(inside.xxh128) },
      ...{ quickHash: hash(inside.fast), undo: [...inside.undo], said: null, reason: null, questions: [] },
    };
  if (beside && said)
    return {
      ...{ filedItemId, how: 'beside', fingerprint: beside.as ?? '', bytes: beside.bytes, hash: hash(beside.xxh128) },
      ...{ quickHash: null, undo: null, said, reason: beside.why, questions: [] },
    };
  return null;
}

/** Where files stood before, and what lies in the bin. */
async function putNames(tx: Db, items: readonly ItemTold<Item>[], idOf: FiledId, who: string, at: Date): Promise<void> {
  const binned: BinnedFile[] = [];
  const former: { filedItemId: number; path: string; until: string }[] = [];
  for (const one of items) {
    const filedItemId = idOf(one.item);
    if (filedItemId === undefined) continue;
    const { bin, formerly } = one.item;
    if (bin && isAside(folderOf(ownPath(one))))
      binned.push({
        ...{ filedItemId, path: ownPath(one), from: bin.path, by: bin.by, at: bin.at, words: bin.words, until: bin.until },
        placeIds: one.at.map(({ placeId }) => placeId),
      });
    former.push(...formerly.filter(({ path }) => path !== bin?.path).map((before) => ({ filedItemId, ...before })));
  }
  await rebuildBin(tx, binned);
  await rebuildNames(tx, former, who, at);
}

async function putLeft(tx: Db, intakeId: number, { left, aside }: IntakeRecord): Promise<void> {
  const filed = await filedByPaths(
    tx,
    left.flatMap(({ at }) => at ?? []),
  );
  const by = new Map(aside.map((one) => [one.from, one]));
  await rebuildLeft(
    tx,
    intakeId,
    left.map((one) => ({
      ...one,
      filedItemId: one.at === null ? null : (filed.get(one.at) ?? null),
      ...{ aside: by.get(one.from)?.reason ?? null, asideBy: by.get(one.from)?.by ?? null },
    })),
  );
}
