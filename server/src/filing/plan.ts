import type { PlanView } from '@tally/contract';
import {
  type DriveView,
  makePlan,
  type Plan,
  planDoubts,
  type PlanItem,
  type PlanSlip,
  planTargets,
  planText,
} from '@tally/core/plan';
import { foldName, parseRule } from '@tally/core/rule';
import type { DateDoubt } from '@tally/core/capture';
import { type Holding, mustHold } from '@tally/core/copies';
import { formatBytes } from '@tally/core/logbook';
import { createHash } from 'node:crypto';
import { namesIn } from '../drive/place.js';
import type { Db } from '../db/database.js';
import { promisedBytes, promisedNames } from './store/filed.js';
import { type House, nextNumbers, Refusal } from '../house/index.js';
import { currentRule } from '../rules/index.js';
import { placesNow, type StandingPlace } from '../driving/index.js';
import { planMaterial } from '../slip/index.js';

export interface SealedPlan {
  readonly plan: Plan;
  readonly view: PlanView;
  readonly revision: number;
  /** Every place, with how it stands. */
  readonly places: readonly StandingPlace[];
  /** Places that must hold what a placement is of. */
  readonly placesOf: (placement: { itemId: number }) => string[];
}

/** What will happen when an intake is filed now. */
export async function planOf(house: House, db: Db, intakeId: number, lock: boolean): Promise<SealedPlan> {
  const { items, slip, doubts } = await planMaterial(house, db, intakeId);
  return planItems(house, db, items, slip, lock, doubts);
}

/** The same for items and a slip that need not be in the database. With `lock` the numbers are held until the transaction ends. */
export async function planItems(
  house: Pick<House, 'settings'>,
  db: Db,
  items: readonly PlanItem[],
  slip: PlanSlip,
  lock: boolean,
  doubts: ReadonlyMap<number, DateDoubt> = new Map(),
): Promise<SealedPlan> {
  const revision = await currentRule(db);
  const parsed = parseRule(revision.rule);
  if (!parsed.ok) throw new Refusal('conflict', `The house rule cannot be used: ${parsed.error.message}`);
  // What nobody's settings name any more is asked for nothing.
  const all = (await placesNow({ ...house, db })).filter((place) => place.known);
  const places = all.filter((place) => place.required && place.fill === 'with the card');
  const { folders, scopes } = planTargets(items, slip, parsed.rule);
  const drive = await viewDrive(db, places, folders, scopes, lock);
  const plan = makePlan(items, slip, parsed.rule, drive);
  const holding = holdingOf(items, slip);
  const placesOf = (one: { itemId: number }) => all.flatMap(({ id, holds }) => (holding(holds, one) ? [id] : []));
  const promised = await promisedBytes(db);
  const room = all.flatMap((place): Room[] => {
    if (!place.standing.online) return [];
    const needed = plan.placements.reduce((sum, one) => sum + (holding(place.holds, one) ? one.bytes : 0), 0);
    return [{ place, free: place.standing.freeBytes, promised: promised.get(place.id) ?? 0, needed }];
  });
  const filedTo = new Set(places.map(({ id }) => id));
  const tooFull = room.flatMap((one) => (filedTo.has(one.place.id) ? spaceProblem(one) : []));
  const away = places.flatMap(({ name, standing }) => (standing.online ? [] : [`${name}: ${standing.problem}`]));
  const view: PlanView = {
    ...plan,
    placements: [...plan.placements],
    folders: [...plan.folders],
    left: [...plan.left],
    clashes: [...plan.clashes],
    numbers: [...plan.numbers],
    missing: [...plan.missing],
    unsaid: [...plan.unsaid],
    doubts: planDoubts(items, slip, doubts),
    seal: sealOf(plan, slip, revision.revision),
    beside: drive.beside,
    obstacles: [...away, ...tooFull],
    tooFull,
    room: room.map(({ place, free, promised: others, needed }) => ({
      ...{ name: place.name, freeBytes: free - others, afterBytes: free - others - needed },
    })),
  };
  return { plan, view, revision: revision.revision, places: all, placesOf };
}

/** Must a place hold what is placed there? */
function holdingOf(items: readonly PlanItem[], slip: PlanSlip): (holds: Holding, placement: { itemId: number }) => boolean {
  const byId = new Map(items.map((item) => [item.id, item]));
  return (holds, { itemId }) => {
    const item = byId.get(itemId)!;
    return mustHold(holds, { kind: item.kind, assignment: item.assignment?.slug ?? slip.assignment?.slug ?? null });
  };
}

/** Bytes at a place: free by the system, promised to copies that are not there yet, needed by this card. */
interface Room {
  readonly place: StandingPlace;
  readonly free: number;
  readonly promised: number;
  readonly needed: number;
}

function spaceProblem({ place, free, promised, needed }: Room): string[] {
  if (free - promised > needed) return [];
  const others = promised ? `, ${formatBytes(promised)} of it promised to other cards` : '';
  return [`${place.name} has ${formatBytes(free)} free${others}, this card needs ${formatBytes(needed)}`];
}

function sealOf(plan: Plan, slip: PlanSlip, revision: number): string {
  const text = JSON.stringify([revision, slip.contributor?.code, slip.assignment?.slug, planText(plan)]);
  return createHash('sha256').update(text).digest('base64url');
}

/** The drive as far as these folders go: what stands there, what is promised, which numbers are free. */
async function viewDrive(
  db: Db,
  places: readonly StandingPlace[],
  folders: readonly string[],
  scopes: readonly string[],
  lock: boolean,
): Promise<DriveView & { beside: string[] }> {
  const next = await nextNumbers(db, scopes, lock);
  const spelt = new Map<string, string>();
  const names = new Map<string, Set<string>>();
  const beside = new Set<string>();
  const online = places.filter((place) => place.standing.online);
  const listed = new Map<string, Promise<string[]>>();
  const list = (root: string, folder: string) => {
    const key = `${root}\0${folder}`;
    const known = listed.get(key) ?? namesIn(root, folder);
    listed.set(key, known);
    return known;
  };

  for (const folder of folders) {
    for (const [index, place] of online.entries()) {
      // Walk down with the drive's own spelling of each folder.
      let actual = '';
      let exists = true;
      for (const part of folder.split('/')) {
        const siblings = await list(place.root, actual);
        const found = siblings.includes(part) ? part : siblings.find((name) => foldName(name) === foldName(part));
        if (index === 0 && part === folder.split('/').at(-1)) {
          for (const name of siblings) if (!name.startsWith('.')) beside.add(actual ? `${actual}/${name}` : name);
        }
        if (found === undefined) {
          exists = false;
          break;
        }
        actual = actual ? `${actual}/${found}` : found;
        if (index === 0) spelt.set(foldName(actual), actual);
      }
      if (!exists) continue;
      const key = foldName(folder);
      const here = names.get(key) ?? new Set<string>();
      for (const name of await list(place.root, actual)) here.add(foldName(name));
      names.set(key, here);
    }
  }
  for (const { foldedFolder, name, folder } of await promisedNames(db, folders.map(foldName))) {
    const here = names.get(foldedFolder) ?? new Set<string>();
    here.add(foldName(name));
    names.set(foldedFolder, here);
    if (!spelt.has(foldedFolder)) spelt.set(foldedFolder, folder);
  }
  return { folders: spelt, names, next, beside: [...beside].sort().slice(0, 400) };
}
