import { fastIdentityOf, hashFile } from '../drive/hashing.js';
import { sizeOf } from '../drive/final-name.js';
import pLimit from 'p-limit';
import type { ClearanceView } from '@tally/contract';
import { setAsideReason } from '@tally/core/card';
import { type CardClearance, type CardFileNow, clearanceOfCard, mustHold } from '@tally/core/copies';
import { join } from 'node:path';
import { type CardEntry, codeOf, joinBytes, listCard } from '../drive/list-card.js';
import type { Expected } from '../drive/remove-file.js';
import { cardHere } from './card-here.js';
import { type ClearableItem, clearableItems } from './store/clearable.js';
import { inTransaction } from '../db/database.js';
import { type House, type IntakeRow, lockIntake, record, Refusal, tell } from '../house/index.js';
import { markMissing } from '../filing/index.js';
import { touchItems } from '../seeing/index.js';
import { placesStanding, type StandingPlace } from '../driving/index.js';

const LOOKS_AT_ONCE = 16;

export interface LookedAtCard {
  readonly view: ClearanceView;
  readonly clearance: CardClearance;
  /** What each file was when it was looked at. */
  readonly expected: ReadonlyMap<CardFileNow, Expected>;
}

/**
 * May the card of an intake be cleared, as it is now? Lists the card, takes every file's fast identity (or, `full`,
 * reads every byte), and looks for every copy at its place. With `only`, it is about these items alone; with `at`, the card
 * lies in that folder, whatever reader it was read in. A copy that is not at its place any more is written down as missing.
 * @throws Refusal when the card is not in a reader of this station.
 */
export async function clearanceNow(
  house: House,
  intakeId: number,
  full: boolean,
  only: readonly number[] | null = null,
  at: string | null = null,
): Promise<ClearanceView> {
  return (await lookAtCard(house, await cardHere(house, intakeId, at), full, only)).view;
}

/** Looks at a card as it is now. Touches files: not for transactions. */
export async function lookAtCard(
  house: House,
  intake: IntakeRow,
  full: boolean,
  only: readonly number[] | null,
): Promise<LookedAtCard> {
  const required = (await placesStanding(house)).filter((place) => place.required);
  const all = await clearableItems(house.db, intake.id);
  const asked = only === null ? all : all.filter(({ id }) => only.includes(id));
  if (only !== null && asked.length < new Set(only).size) throw new Refusal('not found', 'There is no such item on this card.');
  const items = new Map(asked.map((item) => [item.pathBytes.toString('hex'), item]));
  const limit = pLimit(LOOKS_AT_ONCE);
  const expected = new Map<CardFileNow, Expected>();
  const kinds = new Set<string>();
  const missing: { filedItemId: number; placeId: string }[] = [];
  const entries = (await listCard(intake.sourcePath)).filter(
    (entry) => only === null || items.has(entry.pathBytes.toString('hex')),
  );
  const files = await Promise.all(
    entries.map((entry) =>
      limit(async (): Promise<CardFileNow> => {
        const item = items.get(entry.pathBytes.toString('hex'));
        const { file, quick } = await lookAtFile(intake.sourcePath, entry, item, required, full, missing);
        if (quick) expected.set(file, { ...entry, quickHash: quick });
        if (file.is === 'same' && item) kinds.add(item.kind);
        return file;
      }),
    ),
  );
  if (only !== null) files.push(...goneFrom(asked, entries));
  if (missing.length) await copiesMissing(house, intake.id, missing);
  const places = required.map(({ id, name, standing }) => ({ id, name, device: standing.online ? standing.device : null }));
  const clearance = clearanceOfCard(files, places);
  const view: ClearanceView = {
    safe: clearance.safe,
    reasons: clearance.reasons.map((reason) => ({ ...reason, paths: [...reason.paths] })),
    files: clearance.removable.length,
    bytes: clearance.removable.reduce((sum, { bytes }) => sum + bytes, 0),
    left: clearance.left.length,
    aside: asked.flatMap(({ path, aside }) => (aside === null ? [] : [{ path, reason: aside }])),
    kept: files.filter(({ is }) => is === 'index').length,
    askAgain: kinds.has('sound') || kinds.has('other'),
    full,
    places: places.map(({ id, name, device }) => ({
      ...{ name, device },
      files: files.filter(({ is, copiesAt }) => is === 'same' && copiesAt?.includes(id) === true).length,
    })),
  };
  return { view, clearance, expected };
}

/** Items that were asked about and are not on the card. */
function goneFrom(asked: readonly ClearableItem[], entries: readonly CardEntry[]): CardFileNow[] {
  const there = new Set(entries.map(({ pathBytes }) => pathBytes.toString('hex')));
  return asked
    .filter(({ pathBytes }) => !there.has(pathBytes.toString('hex')))
    .map(({ path, bytes }) => ({ path, bytes, is: 'gone', copiesAt: null, neededAt: [] }));
}

async function lookAtFile(
  root: string,
  entry: CardEntry,
  item: ClearableItem | undefined,
  required: readonly StandingPlace[],
  full: boolean,
  missing: { filedItemId: number; placeId: string }[],
): Promise<{ file: CardFileNow; quick: Buffer | null }> {
  const { path, bytes } = entry;
  const neededAt = item ? required.flatMap(({ id, holds }) => (mustHold(holds, item) ? [id] : [])) : [];
  const told = (is: CardFileNow['is'], copiesAt: CardFileNow['copiesAt'] = null) => ({ path, bytes, is, copiesAt, neededAt });
  if (entry.problem !== null) return { file: told('odd'), quick: null };
  // What the card's structure needs was filed like anything else; what nobody listed is told by its name.
  if ((item ? item.setAside : setAsideReason(path)) !== null) return { file: told('index'), quick: null };
  try {
    const quick = await fastIdentityOf(joinBytes(root, entry.pathBytes), bytes);
    if (!item) return { file: told('new'), quick };
    // What was never read cannot have been compared; what was filed is compared with what was filed.
    const known = item.filed?.quickHash ?? item.quickHash;
    if (bytes !== item.bytes || known?.equals(quick) !== true) return { file: told('changed'), quick };
    if (full && item.filed && !(await hashFile(joinBytes(root, entry.pathBytes))).equals(item.filed.hash)) {
      return { file: told('changed'), quick };
    }
    return { file: told('same', item.filed && (await copiesThere(item, required, missing))), quick };
  } catch {
    return { file: told('unreadable'), quick: null };
  }
}

/** Places where the copy tallied and is still there, whole. Those that are gone from a place that is here are noted. */
async function copiesThere(
  { filed, bytes }: ClearableItem,
  required: readonly StandingPlace[],
  missing: { filedItemId: number; placeId: string }[],
): Promise<string[]> {
  const there: string[] = [];
  for (const { id, root, standing } of required) {
    if (!filed || !standing.online || !filed.tallied.includes(id)) continue;
    try {
      if ((await sizeOf(join(root, filed.folder, filed.name))) === (filed.inside[id]?.bytes ?? bytes)) there.push(id);
    } catch (error) {
      // What cannot be looked at does not count; only what is not there is missing.
      if (codeOf(error) === 'ENOENT') missing.push({ filedItemId: filed.id, placeId: id });
    }
  }
  return there;
}

/** Other hands took copies away: said once, and seen on the stick. */
async function copiesMissing(
  house: House,
  intakeId: number,
  missing: readonly { filedItemId: number; placeId: string }[],
): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const count = await markMissing(tx, missing);
    if (!count) return;
    const text = `${count} ${count === 1 ? 'copy is' : 'copies are'} not at their place any more.`;
    await record(tx, { at: house.clock(), kind: 'missing', intakeId, who: null, text, data: missing });
    await touchItems(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
  });
}
