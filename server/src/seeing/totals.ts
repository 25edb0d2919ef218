import type { StickRuns } from '@tally/contract';
import { cameraName, type Kind } from '@tally/core/card';
import { notchesOf } from '@tally/core/copies';
import type { Db } from '../db/database.js';
import type { IntakeTotals } from '../db/entities/intake.js';
import { countedItems, type CountedItem } from './store/counted.js';
import { intakeById, type IntakeRow, keepParts, keepTotals, namesOfParts, NO_TOTALS, type PartOfIntake } from '../house/index.js';
import { placesInOrder } from '../driving/index.js';

function stickOf(items: readonly CountedItem[], places: readonly string[]): StickRuns {
  const runs: { count: number; card: string; copies: string[] }[] = [];
  for (const item of items) {
    const notch = notchesOf(item, places);
    const last = runs.at(-1);
    if (last?.card === notch.card && last.copies.every((shape, row) => shape === notch.copies[row])) last.count++;
    else runs.push({ count: 1, ...notch });
  }
  return runs;
}

/** What an intake comes to: its totals, what of it is whose, and words by which the logbook finds it. */
export interface Counted {
  readonly totals: IntakeTotals;
  readonly parts: readonly PartOfIntake[];
  readonly said: string;
}

/** Counts an intake anew. @returns null when it is not there. */
export async function countIntake(db: Db, intakeId: number): Promise<Counted | null> {
  const intake = await intakeById(db, intakeId);
  if (!intake) return null;
  const items = await countedItems(db, intakeId);
  const places = await placesInOrder(db);
  const counts = new Set(places.flatMap((place) => (place.counts ? [place.id] : [])));
  const byKind: Partial<Record<Kind, { items: number; bytes: number }>> = {};
  const cameras = new Map<string, number>();
  let bytes = 0;
  for (const item of items) {
    const sum = (byKind[item.kind] ??= { items: 0, bytes: 0 });
    sum.items++;
    sum.bytes += item.bytes;
    bytes += item.bytes;
    const camera = cameraName(item);
    if (camera) cameras.set(camera, (cameras.get(camera) ?? 0) + 1);
  }
  const named = items.filter((item) => item.kind !== 'sidecar' && item.kind !== 'other');
  const nameOf = (item: CountedItem | undefined) => (item ? item.path.slice(item.path.lastIndexOf('/') + 1) : null);
  const totals: IntakeTotals = {
    items: items.length,
    bytes,
    byKind,
    camera: [...cameras].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null,
    taken: items.filter((item) => item.taken && !item.alreadyFiled && !item.problem).length,
    // Filed means: whole wherever a card is filed to. What fills up later is on the stick.
    filed: items.filter((item) => isFiled(item, counts)).length,
    alreadyFiled: items.filter((item) => item.alreadyFiled?.confirmed && !item.filedAs).length,
    comparing: items.filter((item) => item.taken && item.alreadyFiled?.confirmed === false && !item.filedAs).length,
    read: items.filter((item) => item.read).length,
    first: nameOf(named[0] ?? items[0]),
    last: nameOf(named.at(-1) ?? items.at(-1)),
    stick: stickOf(
      items,
      places.map((place) => place.id),
    ),
  };
  const own = await namesOfParts(
    db,
    [...new Set(items.flatMap(({ contributorId }) => contributorId ?? []))],
    [...new Set(items.flatMap(({ assignmentId }) => assignmentId ?? []))],
  );
  const said = [totals.camera, totals.first, totals.last, ...own].filter(Boolean).join(' ');
  return { totals, parts: partsOf(items, intake, counts), said };
}

/** Counts an intake anew and keeps the result with it. Call it in a transaction that holds the intake. */
export async function refreshTotals(db: Db, intakeId: number): Promise<IntakeTotals> {
  const counted = await countIntake(db, intakeId);
  if (!counted) return NO_TOTALS;
  await keepParts(db, intakeId, counted.parts);
  await keepTotals(db, intakeId, counted.totals, counted.said);
  return counted.totals;
}

function isFiled(item: CountedItem, counts: ReadonlySet<string>): boolean {
  const copies = item.copies.filter(({ place }) => counts.has(place));
  return copies.length > 0 && copies.every((copy) => copy.state === 'tallied');
}

/** What of an intake is whose and was shot for what: as the item says, else as the slip does. */
function partsOf(items: readonly CountedItem[], slip: IntakeRow, counts: ReadonlySet<string>): PartOfIntake[] {
  const parts = new Map<string, PartOfIntake>();
  for (const item of items) {
    const contributorId = item.contributorId ?? slip.contributor?.id ?? null;
    const assignmentId = item.assignmentId ?? slip.assignment?.id ?? null;
    const key = `${contributorId} ${assignmentId}`;
    const sum = parts.get(key) ?? { contributorId, assignmentId, items: 0, given: 0, filed: 0, bytes: 0 };
    const given = item.taken || item.filedAs !== null || item.alreadyFiled?.confirmed === true;
    parts.set(key, {
      ...{ contributorId, assignmentId, items: sum.items + 1, given: sum.given + Number(given) },
      ...{ filed: sum.filed + Number(isFiled(item, counts)), bytes: sum.bytes + item.bytes },
    });
  }
  return [...parts.values()];
}
