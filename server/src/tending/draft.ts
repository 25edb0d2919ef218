import type { MendPlan } from '@tally/contract';
import { ASIDE_FOLDER, asFolders, faultsOf, foldersOf, type FolderStep, type Step } from '@tally/core/drive';
import { foldName, folderOf, nameOf, pathIn } from '@tally/core/rule';
import { createHash } from 'node:crypto';
import type { Db } from '../db/database.js';
import { linkAbove, namesOf } from '../drive/move-file.js';
import { placesStanding, type StandingPlace } from '../driving/index.js';
import { type House, houseTime } from '../house/index.js';
import { beingMoved, standingCopies } from './store/mends.js';
import { straysBelow } from './store/stood.js';
import { filedBelow, type FiledRow, namesInFolders } from './store/known.js';

/** What an item is said to be from now on. */
export interface SaidChange {
  readonly itemId: number;
  readonly contributorId?: number;
  readonly assignmentId?: number;
  readonly capturedLocal?: string;
}

/** Something that is done at one place alone. */
export interface Here {
  readonly placeId: string;
  readonly what: 'file' | 'folder' | 'empty folder';
  readonly filedItemId: number | null;
  readonly from: string;
  readonly to: string;
}

/** A filed item's new name. */
export type Named = FiledRow & { readonly to: string; readonly toList: string; readonly toN: number | null };

/** What a mend is to do, before anything is written. */
export interface Draft {
  readonly kind: string;
  readonly words: string;
  readonly names: readonly Named[];
  /** Folders that are renamed as a whole, wherever they stand, whatever is in them. */
  readonly whole?: readonly FolderStep[];
  readonly here?: readonly Here[];
  readonly again?: readonly { readonly filedItemId: number; readonly placeId: string }[];
  /** Folders of which a place gets what explains them anew; of some files the sidecar, too. */
  readonly anew?: readonly { readonly placeId: string; readonly folder: string; readonly sidecarsOf: readonly number[] }[];
  readonly said?: readonly SaidChange[];
  readonly numbers?: readonly { readonly scope: string; readonly first: number; readonly next: number }[];
  /** Copies that a place gets, and leaves at another. */
  readonly toPlace?: {
    readonly files: readonly { readonly id: number; readonly path: string }[];
    readonly from: string | null;
    readonly to: string;
  };
  /** Places that get copies, too. */
  readonly wish?: readonly { readonly filedItemId: number; readonly placeId: string }[];
  readonly faults?: readonly { readonly path: string; readonly why: string }[];
  readonly also?: readonly string[];
  readonly keptUntil?: string | null;
  readonly findings?: readonly number[];
  /** The place where somebody gave these names by hand: there they are right, and others follow. */
  readonly doneAt?: string;
  readonly takesBack?: number;
}

/** A draft with what its places do. */
export interface Drawn extends Draft {
  readonly folders: readonly FolderStep[];
  readonly rest: readonly Step[];
  readonly placesOf: ReadonlyMap<number, readonly string[]>;
  readonly places: readonly StandingPlace[];
  readonly plan: MendPlan;
}

const SHOWN = 300;

const stepOf = ({ filedItemId, folder, name, to }: Named): Step => ({ filedItemId, from: pathIn(folder, name), to });

/** Places where copies of filed items stand or are being made, by item. */
export async function placesOfCopies(db: Db, ids: readonly number[]): Promise<Map<number, string[]>> {
  const placesOf = new Map<number, string[]>();
  for (const { filedItemId, placeId } of await standingCopies(db, ids))
    placesOf.set(filedItemId, [...(placesOf.get(filedItemId) ?? []), placeId]);
  return placesOf;
}

/** Places that are here: what another mend moves there will soon be done. One that is away does both when it is back, in turn. */
export const placesHere = (places: readonly StandingPlace[]): string[] =>
  places.flatMap(({ id, standing }) => (standing.online ? [id] : []));

/** Looks at the drive as far as a draft goes, and says what would happen. Looks at files: not for transactions. */
export async function drawn(house: House, draft: Draft): Promise<Drawn> {
  const { db } = house;
  const places = (await placesStanding(house)).filter(({ known }) => known);
  const steps = draft.names.map(stepOf);
  const ids = draft.names.map(({ filedItemId }) => filedItemId);
  const placesOf = await placesOfCopies(db, ids);
  const concerned = new Set([...placesOf.values()].flat());
  const online = places.filter(({ id, standing }) => standing.online && (concerned.has(id) || draft.whole?.length));
  const { into } = foldersOf(steps);
  const wholes = (draft.whole ?? []).map(({ to }) => to);
  const targets = [...new Set([...into, ...[...into, ...wholes].flatMap(above).map(folderOf)])];
  const promised = new Set(await namesInFolders(db, into));
  const stands = new Set(promised);
  // A folder that something is filed in stands, also where its place is away.
  for (const folder of new Set(into.flatMap(above))) if ((await filedBelow(db, folder)) > 0) stands.add(foldName(folder));
  for (const { root } of online)
    for (const folder of targets) for (const name of await namesOf(root, folder)) stands.add(foldName(pathIn(folder, name)));
  const isTaken = (folded: string) => stands.has(folded);
  const faults = [...(draft.faults ?? [])];
  // What was done by hand cannot be prevented: where something else has a name, the place says so when its turn comes.
  const inItsWay = draft.doneAt === undefined ? isTaken : (folded: string) => promised.has(folded);
  for (const { step, why } of faultsOf(steps, inItsWay)) faults.push({ path: step.from, why });
  for (const { from, to } of draft.whole ?? []) {
    if (isTaken(foldName(to)) && foldName(from) !== foldName(to)) faults.push({ path: from, why: `${to} stands there already` });
    if (to.startsWith(`${from}/`)) faults.push({ path: from, why: 'a folder cannot go into itself' });
  }
  for (const id of await beingMoved(db, ids, placesHere(places))) {
    const one = draft.names.find(({ filedItemId }) => filedItemId === id)!;
    faults.push({ path: pathIn(one.folder, one.name), why: 'another mend is moving it just now' });
  }
  for (const { name, root } of online) {
    const links = new Set<string>();
    for (const folder of new Set([...into, ...wholes.map(folderOf)])) {
      const link = await linkAbove(root, folder);
      if (link !== null) links.add(link);
    }
    for (const path of links) faults.push({ path, why: `it is a link on ${name}, and leads elsewhere` });
  }
  const { folders, rest } = draft.whole
    ? { folders: draft.whole, rest: [] }
    : draft.kind === 'put aside'
      ? { folders: [], rest: steps }
      : await compacted(house, steps, isTaken);
  faults.push(...(await faultsHere(places, draft.here ?? [])));
  const plan = planOfDraft(draft, { steps, folders, faults, places, concerned, stands });
  return { ...draft, folders, rest, placesOf, places, plan };
}

async function compacted({ db }: House, steps: readonly Step[], stands: (folded: string) => boolean) {
  const counts = new Map<string, number>();
  for (const folder of new Set(steps.flatMap(({ from }) => above(folderOf(from)))))
    // What others put there does not go along unasked.
    counts.set(folder, (await straysBelow(db, folder)) ? -1 : await filedBelow(db, folder));
  return asFolders(steps, (folder) => counts.get(folder) ?? -1, stands);
}

const above = (folder: string): string[] => folder.split('/').map((_, index, parts) => parts.slice(0, index + 1).join('/'));

async function faultsHere(places: readonly StandingPlace[], here: readonly Here[]): Promise<{ path: string; why: string }[]> {
  const byId = new Map(places.map((place) => [place.id, place]));
  const faults: { path: string; why: string }[] = [];
  const listed = new Map<string, Promise<string[]>>();
  for (const { placeId, what, from, to } of here) {
    const place = byId.get(placeId);
    if (!place?.standing.online) {
      faults.push({ path: from, why: `${place?.name ?? placeId} is not here` });
      continue;
    }
    if (what === 'empty folder') continue;
    const key = `${placeId}\0${folderOf(to)}`;
    const names = listed.get(key) ?? namesOf(place.root, folderOf(to));
    listed.set(key, names);
    const name = foldName(nameOf(to));
    if (foldName(from) !== foldName(to) && (await names).some((one) => foldName(one) === name))
      faults.push({ path: from, why: `${to} stands there already` });
  }
  return faults;
}

interface Seen {
  readonly steps: readonly Step[];
  readonly folders: readonly FolderStep[];
  readonly faults: readonly { readonly path: string; readonly why: string }[];
  readonly places: readonly StandingPlace[];
  readonly concerned: ReadonlySet<string>;
  readonly stands: ReadonlySet<string>;
}

function planOfDraft(draft: Draft, { steps, folders, faults, places, concerned, stands }: Seen): MendPlan {
  const here = draft.here ?? [];
  const placeName = (id: string) => places.find((place) => place.id === id)?.name ?? id;
  const shown = [
    ...steps.map(({ from, to }) => ({ from, to, place: null })),
    ...here.flatMap(({ what, from, to, placeId }) => (what === 'file' ? [{ from, to, place: placeName(placeId) }] : [])),
  ];
  const { into, outOf } = foldersOf(steps);
  const all = new Set([...concerned, ...here.map(({ placeId }) => placeId)]);
  if (draft.toPlace) for (const id of [draft.toPlace.from, draft.toPlace.to]) if (id !== null) all.add(id);
  const [again, anew] = [draft.again?.length ?? 0, draft.anew?.length ?? 0];
  for (const { placeId } of [...(draft.wish ?? []), ...(draft.anew ?? [])]) all.add(placeId);
  // Somebody reads a plan before it is begun: that its tray is called after another second by then makes it no other plan.
  const seal = createHash('sha256')
    .update(
      JSON.stringify([
        ...[draft.kind, steps, folders, here, draft.again, draft.anew, draft.wish, draft.said, draft.toPlace, faults],
      ]).replaceAll(OF_A_TRAY, ASIDE_FOLDER),
    )
    .digest('base64url');
  return {
    ...{ kind: draft.kind, words: draft.words, seal },
    items:
      steps.length +
      here.length +
      again +
      (draft.anew?.length ?? 0) +
      (draft.toPlace?.files.length ?? 0) +
      (draft.wish?.length ?? 0),
    ...{ steps: shown.slice(0, SHOWN), moreSteps: Math.max(0, shown.length - SHOWN) },
    folders: [
      ...folders.map(({ from, to }) => ({ from, to, place: null })),
      ...here.flatMap(({ what, from, to, placeId }) => (what === 'folder' ? [{ from, to, place: placeName(placeId) }] : [])),
    ],
    makes: into.filter((folder) => folder && !stands.has(foldName(folder))),
    empties: [
      ...outOf.filter((folder) => folder && !into.includes(folder)),
      ...here.flatMap(({ what, from }) => (what === 'empty folder' ? [from] : [])),
    ],
    also: [
      ...(draft.also ?? []),
      ...(anew ? [`What explains ${anew === 1 ? 'a folder' : `${anew} folders`} is written anew from the logbook.`] : []),
      ...(again ? [`${again} ${again === 1 ? 'copy is' : 'copies are'} made anew from another place.`] : []),
    ],
    faults: faults.slice(0, SHOWN),
    places: places.flatMap(({ id, name, standing }) => (all.has(id) ? [{ name, now: standing.online }] : [])),
  };
}

/** The folder of the tray that is called after a moment. */
const OF_A_TRAY = new RegExp(`${ASIDE_FOLDER}/\\d{4}-\\d\\d-\\d\\d_\\d{6}(?=/)`, 'g');

/** Where something lies once it is put aside: under the moment, with the path it had. */
export function asidePath(house: Pick<House, 'settings' | 'clock'>, path: string): string {
  return `${ASIDE_FOLDER}/${houseTime(house, house.clock()).slice(0, 19).replace('T', '_').replaceAll(':', '')}/${path}`;
}

/** So many days what was put aside is kept at least. */
export function keptUntil(house: Pick<House, 'settings' | 'clock'>): string {
  const at = new Date(house.clock().getTime() + house.settings.asideDays * 86_400_000);
  return houseTime(house, at).slice(0, 10);
}
