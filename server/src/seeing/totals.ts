import type { StickRuns } from '@tally/contract';
import { cameraName, type Kind } from '@tally/core/card';
import { notchesOf } from '@tally/core/copies';
import type { Db } from '../db/database.js';
import type { IntakeTotals } from '../db/entities/intake.js';
import { type AlikeItems, countedItems, type RunOfItems } from './store/counted.js';
import { intakeById, type IntakeRow, keepParts, keepTotals, namesOfParts, NO_TOTALS, type PartOfIntake } from '../house/index.js';
import { placesInOrder } from '../driving/index.js';

/** Runs of notches that look alike, however their items stand. */
function stickOf(runs: readonly RunOfItems[], places: readonly string[]): StickRuns {
  const stick: { count: number; card: string; copies: string[] }[] = [];
  for (const { items, taken, odd, filed, confirmed, copies } of runs) {
    const alreadyFiled = confirmed === null ? null : { confirmed };
    const notch = notchesOf(
      { taken, problem: odd ? 'odd' : null, filedAs: filed ? 'filed' : null, alreadyFiled, copies: copies ?? [] },
      places,
    );
    const last = stick.at(-1);
    if (last?.card === notch.card && last.copies.every((shape, row) => shape === notch.copies[row])) last.count += items;
    else stick.push({ count: items, ...notch });
  }
  return stick;
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
  const { alike, runs, first, last } = await countedItems(db, intakeId);
  const places = await placesInOrder(db);
  const counts = new Set(places.flatMap((place) => (place.counts ? [place.id] : [])));
  const byKind: Partial<Record<Kind, { items: number; bytes: number }>> = {};
  const cameras = new Map<string, number>();
  const sum = { items: 0, bytes: 0, taken: 0, filed: 0, alreadyFiled: 0, comparing: 0, read: 0 };
  for (const some of alike) {
    const { items, bytes, kind } = some;
    const ofKind = (byKind[kind] ??= { items: 0, bytes: 0 });
    ofKind.items += items;
    ofKind.bytes += bytes;
    sum.items += items;
    sum.bytes += bytes;
    if (some.taken && some.confirmed === null && !some.odd) sum.taken += items;
    // Filed means: whole wherever a card is filed to. What fills up later is on the stick.
    if (isFiled(some, counts)) sum.filed += items;
    if (some.confirmed && !some.filed) sum.alreadyFiled += items;
    if (some.taken && some.confirmed === false && !some.filed) sum.comparing += items;
    if (some.read) sum.read += items;
    const camera = cameraName(some);
    if (camera) cameras.set(camera, (cameras.get(camera) ?? 0) + items);
  }
  const nameOf = (path: string | null) => (path === null ? null : path.slice(path.lastIndexOf('/') + 1));
  const totals: IntakeTotals = {
    ...sum,
    byKind,
    camera: [...cameras].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null,
    ...{ first: nameOf(first), last: nameOf(last) },
    stick: stickOf(
      runs,
      places.map((place) => place.id),
    ),
  };
  const own = await namesOfParts(
    db,
    [...new Set(alike.flatMap(({ contributorId }) => contributorId ?? []))],
    [...new Set(alike.flatMap(({ assignmentId }) => assignmentId ?? []))],
  );
  const said = [totals.camera, totals.first, totals.last, ...own].filter(Boolean).join(' ');
  return { totals, parts: partsOf(alike, intake, counts), said };
}

/** Counts an intake anew and keeps the result with it. Call it in a transaction that holds the intake. */
export async function refreshTotals(db: Db, intakeId: number): Promise<IntakeTotals> {
  const counted = await countIntake(db, intakeId);
  if (!counted) return NO_TOTALS;
  await keepParts(db, intakeId, counted.parts);
  await keepTotals(db, intakeId, counted.totals, counted.said);
  return counted.totals;
}

function isFiled({ copies }: AlikeItems, counts: ReadonlySet<string>): boolean {
  const counting = (copies ?? []).filter(({ place }) => counts.has(place));
  return counting.length > 0 && counting.every((copy) => copy.state === 'tallied');
}

/** What of an intake is whose and was shot for what: as the item says, else as the slip does. */
function partsOf(alike: readonly AlikeItems[], slip: IntakeRow, counts: ReadonlySet<string>): PartOfIntake[] {
  const parts = new Map<string, PartOfIntake>();
  for (const some of alike) {
    const contributorId = some.contributorId ?? slip.contributor?.id ?? null;
    const assignmentId = some.assignmentId ?? slip.assignment?.id ?? null;
    const key = `${contributorId} ${assignmentId}`;
    const part = parts.get(key) ?? { contributorId, assignmentId, items: 0, given: 0, filed: 0, bytes: 0 };
    const given = some.taken || some.filed || some.confirmed === true;
    parts.set(key, {
      ...{ contributorId, assignmentId, items: part.items + some.items, given: part.given + (given ? some.items : 0) },
      ...{ filed: part.filed + (isFiled(some, counts) ? some.items : 0), bytes: part.bytes + some.bytes },
    });
  }
  return [...parts.values()];
}
