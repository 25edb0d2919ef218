import type { PlanView } from '@tally/contract';
import {
  folderScope,
  makePlan,
  planText,
  targetFolders,
  type DriveView,
  type Plan,
  type PlanItem,
  type PlanSlip,
} from '@tally/core/plan';
import { foldName, parseRule } from '@tally/core/rule';
import { formatBytes } from '@tally/core/logbook';
import { createHash } from 'node:crypto';
import { namesIn } from '../drive/place.js';
import type { Db } from '../store/database.js';
import { nextNumbers, promisedNames } from '../store/filed.js';
import type { IntakeRow } from '../store/intakes.js';
import { itemsOf } from '../store/items.js';
import { currentRule } from '../store/rules.js';
import { Refusal, type House } from './house.js';
import { placesNow, type StandingPlace } from './places.js';
import { houseTime } from './receive.js';
import { theIntake } from './slip.js';

export interface SealedPlan {
  readonly plan: Plan;
  readonly view: PlanView;
  readonly revision: number;
  readonly places: readonly StandingPlace[];
}

/** What will happen when an intake is filed now. */
export async function planOf(house: House, db: Db, intakeId: number, lock: boolean): Promise<SealedPlan> {
  const intake = await theIntake({ db }, intakeId);
  const items = (await itemsOf(db, intakeId)).map((item): PlanItem => ({
    id: item.id,
    path: item.path,
    bytes: item.bytes,
    kind: item.kind,
    captured: item.captured.local,
    camera: { make: item.make, model: item.model },
    leader: item.leader,
    taken: item.taken,
    setAside: item.setAside,
    alreadyFiled: item.filedAs ?? item.alreadyFiled?.path ?? null,
    problem: item.problem,
    contributor: item.contributor,
    assignment: item.assignment,
  }));
  return planItems(house, db, items, slipOf(house, intake), lock);
}

function slipOf(house: House, intake: IntakeRow): PlanSlip {
  return {
    contributor: intake.contributor,
    assignment: intake.assignment,
    cardLabel: intake.card.label ?? '',
    received: houseTime(house, intake.receivedAt),
  };
}

/** The same for items and a slip that need not be in the database. With `lock` the numbers are held until the transaction ends. */
export async function planItems(
  house: Pick<House, 'settings'>,
  db: Db,
  items: readonly PlanItem[],
  slip: PlanSlip,
  lock: boolean,
): Promise<SealedPlan> {
  const revision = await currentRule(db);
  const parsed = parseRule(revision);
  if (!parsed.ok) throw new Refusal('conflict', `The house rule cannot be used: ${parsed.error.message}`);
  const places = (await placesNow(db)).filter((place) => place.required);
  const drive = await viewDrive(db, places, targetFolders(items, slip, parsed.rule), lock);
  const plan = makePlan(items, slip, parsed.rule, drive);
  const view: PlanView = {
    ...plan,
    placements: [...plan.placements],
    folders: [...plan.folders],
    left: [...plan.left],
    clashes: [...plan.clashes],
    numbers: [...plan.numbers],
    missing: [...plan.missing],
    seal: sealOf(plan, slip, revision.revision),
    beside: drive.beside,
    obstacles: places.flatMap((place) =>
      place.standing.online ? spaceProblem(place, plan.bytes) : [`${place.name}: ${place.standing.problem}`],
    ),
  };
  return { plan, view, revision: revision.revision, places };
}

function spaceProblem(place: StandingPlace, bytes: number): string[] {
  if (!place.standing.online || place.standing.freeBytes > bytes) return [];
  return [`${place.name} has ${formatBytes(place.standing.freeBytes)} free, this card needs ${formatBytes(bytes)}`];
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
  lock: boolean,
): Promise<DriveView & { beside: string[] }> {
  const next = await nextNumbers(db, folders.map(folderScope), lock);
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
