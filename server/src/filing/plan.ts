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
import type { Keeping } from '@tally/core/card';
import { foldName, type HouseRule, parseRule, settingsOf } from '@tally/core/rule';
import type { DateDoubt } from '@tally/core/capture';
import { type Holding, mustHold } from '@tally/core/copies';
import { formatBytes } from '@tally/core/logbook';
import { createHash } from 'node:crypto';
import { namesIn } from '../drive/place.js';
import type { Db } from '../db/database.js';
import { promisedNames } from './store/filed.js';
import { type House, nextNumbers, Refusal } from '../house/index.js';
import { currentRule } from '../rules/index.js';
import { placesStanding, promisedBytes, type StandingPlace } from '../driving/index.js';
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

/** What the file systems say of what a plan is about: how the places stand, and what lies in the folders it goes to. */
export interface DriveNow {
  /** Every place that anybody's settings name. */
  readonly places: readonly StandingPlace[];
  /** Folders that were looked at, as the rule spells them. */
  readonly looked: ReadonlySet<string>;
  /** Spelling on the drive of each folder that is there, by its folded path. */
  readonly spelt: ReadonlyMap<string, string>;
  /** Folded names that stand in a folder at any place, by its folded path. */
  readonly names: ReadonlyMap<string, ReadonlySet<string>>;
  /** What stands beside the folders, for whoever looks at the tree. */
  readonly beside: readonly string[];
}

/** What will happen when an intake is filed now. Looks at files: not for transactions. */
export async function planOf(house: House, intakeId: number): Promise<SealedPlan> {
  const { items, slip, doubts } = await planMaterial(house, house.db, intakeId);
  return planItems(house, items, slip, doubts);
}

/** The same for items and a slip that need not be in the database. */
export async function planItems(
  house: Pick<House, 'settings' | 'db'>,
  items: readonly PlanItem[],
  slip: PlanSlip,
  doubts: ReadonlyMap<number, DateDoubt> = new Map(),
): Promise<SealedPlan> {
  const rule = await ruleNow(house.db);
  return planWith(
    house.db,
    rule,
    await driveNow(house, planTargets(items, slip, rule.parsed).folders),
    items,
    slip,
    false,
    doubts,
  );
}

/** The file systems, as far as the plan of an intake goes. Looks at files: not for transactions. */
export async function driveFor(house: House, intakeId: number): Promise<DriveNow> {
  const { items, slip } = await planMaterial(house, house.db, intakeId);
  return driveNow(house, planTargets(items, slip, (await ruleNow(house.db)).parsed).folders);
}

/**
 * The plan of an intake by what was seen of the file systems a moment ago, with its numbers held until the transaction
 * ends. Touches no file. @returns null when it goes to folders by now that were not looked at.
 */
export async function planInTransaction(house: House, tx: Db, intakeId: number, drive: DriveNow): Promise<SealedPlan | null> {
  const { items, slip, doubts } = await planMaterial(house, tx, intakeId);
  const rule = await ruleNow(tx);
  if (planTargets(items, slip, rule.parsed).folders.some((folder) => !drive.looked.has(folder))) return null;
  return planWith(tx, rule, drive, items, slip, true, doubts);
}

interface RuleNow {
  readonly revision: number;
  readonly parsed: HouseRule;
}

async function ruleNow(db: Db): Promise<RuleNow> {
  const { revision, rule } = await currentRule(db);
  const parsed = parseRule(rule);
  if (!parsed.ok) throw new Refusal('conflict', `The house rule cannot be used: ${parsed.error.message}`);
  return { revision, parsed: parsed.rule };
}

/** How the house keeps structures now: what they need of a card is material. */
export const keepingNow = async (db: Db): Promise<Keeping> => settingsOf((await currentRule(db)).rule.settings).asOnCard;

/** Places that the card itself is copied to. */
const withTheCard = (places: readonly StandingPlace[]) =>
  places.filter((place) => place.required && place.fill === 'with the card');

async function planWith(
  db: Db,
  { revision, parsed }: RuleNow,
  seen: DriveNow,
  items: readonly PlanItem[],
  slip: PlanSlip,
  lock: boolean,
  doubts: ReadonlyMap<number, DateDoubt>,
): Promise<SealedPlan> {
  const all = seen.places;
  const places = withTheCard(all);
  const { folders, scopes } = planTargets(items, slip, parsed);
  const drive = await withPromises(db, seen, folders, scopes, lock);
  const plan = makePlan(items, slip, parsed, drive);
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
    otherDays: plan.otherDays.map((one) => ({ ...one, itemIds: [...one.itemIds] })),
    numbers: [...plan.numbers],
    missing: [...plan.missing],
    unsaid: [...plan.unsaid],
    doubts: planDoubts(items, slip, doubts, parsed.settings.day.begins),
    seal: sealOf(plan, slip, revision),
    beside: [...seen.beside],
    obstacles: [...away, ...tooFull],
    tooFull,
    // Where nobody knows what is free, nothing is said of it.
    room: room
      .filter(({ free }) => Number.isFinite(free))
      .map(({ place, free, promised: others, needed }) => ({
        ...{ name: place.name, freeBytes: free - others, afterBytes: free - others - needed },
      })),
  };
  return { plan, view, revision, places: all, placesOf };
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

/** The drive as it was seen, with what is promised to others and which numbers are free. */
async function withPromises(
  db: Db,
  seen: DriveNow,
  folders: readonly string[],
  scopes: readonly string[],
  lock: boolean,
): Promise<DriveView> {
  const next = await nextNumbers(db, scopes, lock);
  const spelt = new Map(seen.spelt);
  const names = new Map([...seen.names].map(([folder, here]) => [folder, new Set(here)]));
  for (const { foldedFolder, name, folder } of await promisedNames(db, folders.map(foldName))) {
    const here = names.get(foldedFolder) ?? new Set<string>();
    here.add(foldName(name));
    names.set(foldedFolder, here);
    if (!spelt.has(foldedFolder)) spelt.set(foldedFolder, folder);
  }
  return { folders: spelt, names, next };
}

/** Looks at the places, and at these folders in them. */
async function driveNow(house: Pick<House, 'settings' | 'db'>, folders: readonly string[]): Promise<DriveNow> {
  // What nobody's settings name any more is asked for nothing.
  const places = (await placesStanding(house)).filter((place) => place.known);
  const spelt = new Map<string, string>();
  const names = new Map<string, Set<string>>();
  const beside = new Set<string>();
  const online = withTheCard(places).filter((place) => place.standing.online);
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
  return { places, looked: new Set(folders), spelt, names, beside: [...beside].sort().slice(0, 400) };
}
