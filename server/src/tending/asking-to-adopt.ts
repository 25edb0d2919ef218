import type { AdoptAsk } from '@tally/contract';
import { treeHolders } from '@tally/core/card';
import { formatBytes } from '@tally/core/logbook';
import { foldName, proposeSlug } from '@tally/core/rule';
import { inTransaction } from '../db/database.js';
import type { AdoptedFolder } from '../db/entities/tending.js';
import { type House, houseTime, record, Refusal, tell } from '../house/index.js';
import { makeAssignment, mustExist } from '../people/index.js';
import { placeHere } from './checking.js';
import { groupedBy } from './grouped.js';
import type { Place } from './looking.js';
import { foldersSay } from './reading.js';
import {
  addAdoption,
  adoptionById,
  adoptionsGoing,
  assignmentsIn,
  endAdoption,
  resumeAdoption,
  strayFolders,
  troubledFolders,
} from './store/adoptions.js';
import { slugsLike } from './store/lists.js';

const BY_ITSELF = 'the house';

/**
 * Takes folders of strays into the logbook where they stand: what names do not say is answered by folder. Nothing is moved
 * and nothing is written into the files. @returns the adoption's id; it goes on behind, at whatever station has the place.
 */
export async function askAdopt(house: House, placeId: string, ask: AdoptAsk, who: string): Promise<number> {
  const begun: number[] = [];
  // Who asks twice at once asks for the same folder: one after the other, and the second one is told.
  await house.locks.holdInTurn('adopting', `asking ${placeId}`, NEVER, async () => {
    begun.push(await begin(house, placeId, ask, who));
  });
  if (begun[0] === undefined)
    throw new Refusal('not possible now', 'Somebody else begins to adopt from this place just now. Try again.');
  return begun[0];
}

const NEVER = new AbortController().signal;

async function begin(house: House, placeId: string, ask: AdoptAsk, who: string): Promise<number> {
  const place = await placeHere(house, placeId);
  const wanted = new Map(ask.folders.map((one) => [one.folder, one]));
  const going = (await adoptionsGoing(house.db, [placeId])).flatMap(({ folders: underWay }) =>
    underWay.map(({ folder }) => folder),
  );
  const twice = going.find((folder) => wanted.has(folder));
  if (twice !== undefined) throw new Refusal('conflict', `${twice || 'The root'} is being adopted already.`);
  const folders: AdoptedFolder[] = [];
  let [files, bytes] = [0, 0];
  const said = new Map<string, Awaited<ReturnType<typeof foldersSay>>['folders'][number]>();
  for (const { folder } of ask.folders) {
    if (said.has(folder)) continue;
    const { folders: all } = await foldersSay(house, placeId, folder);
    const holder = all.find((one) => one.folder === '' || folder.startsWith(`${one.folder}/`))?.folder;
    if (holder !== undefined && holder !== folder)
      throw new Refusal('conflict', `${folder} is part of a camera’s tree: adopt ${holder || 'the root'} as a whole.`);
    for (const one of all) said.set(one.folder, one);
  }
  const made = new Map<string, number>();
  for (const [folder, answer] of wanted) {
    const says = said.get(folder);
    if (!says) throw new Refusal('not found', `There are no strays in ${folder || 'the root'} of ${place.name}.`);
    await mustExist(house.db, 'contributor', answer.contributorId);
    await mustExist(house.db, 'assignment', answer.assignmentId);
    let assignmentId = answer.assignmentId ?? says.assignmentId;
    const title = answer.assignmentId === null ? (answer.title ?? (says.assignmentId === null ? null : undefined)) : undefined;
    if (title) {
      assignmentId = made.get(title) ?? (await newAssignment(house, title, answer.day ?? says.from, answer.day ?? says.to, who));
      made.set(title, assignmentId);
    }
    folders.push({ folder, contributorId: answer.contributorId ?? says.contributorId, assignmentId, day: answer.day });
    files += says.files;
    bytes += says.bytes;
  }
  return inTransaction(house.db, async (tx) => {
    const at = house.clock();
    const id = await addAdoption(tx, { placeId, who, begunAt: at, files, bytes, folders });
    const text = `${folders.length} ${folders.length === 1 ? 'folder' : 'folders'} of ${place.name} adopted: ${files} files (${formatBytes(bytes)}).`;
    await record(tx, { at, kind: 'adoption', intakeId: null, who, text, data: { adoption: id } });
    await tell(tx, { type: 'drive', placeId });
    return id;
  });
}

async function newAssignment(house: House, title: string, from: string | null, to: string | null, who: string): Promise<number> {
  const base = proposeSlug(title) || 'adopted';
  const taken = new Set(await slugsLike(house.db, base));
  let slug = base;
  for (let n = 2; taken.has(slug); n++) slug = `${base.slice(0, 56)}-${n}`;
  const day = from ?? houseTime(house, house.clock()).slice(0, 10);
  const assignment = { title, slug, code: '', from: day, to: to ?? day, place: '', expectedCards: 0, expectedContributorIds: [] };
  return makeAssignment(house, assignment, who);
}

export async function stopAdoption(house: House, id: number): Promise<void> {
  const adoption = await adoptionById(house.db, id);
  if (!adoption) throw new Refusal('not found', 'There is no such adoption.');
  if (!(await endAdoption(house.db, id, 'stopped', house.clock()))) throw new Refusal('conflict', 'This adoption is over.');
  await tell(house.db, { type: 'drive', placeId: adoption.placeId });
}

export async function goOnAdopting(house: House, id: number): Promise<void> {
  const adoption = await adoptionById(house.db, id);
  if (!adoption) throw new Refusal('not found', 'There is no such adoption.');
  if (!(await resumeAdoption(house.db, id))) throw new Refusal('conflict', 'This adoption was not stopped.');
  await tell(house.db, { type: 'drive', placeId: adoption.placeId });
}

/** Strays that a house takes in by itself: in folders where all that is filed is of one assignment. */
export async function adoptByItself(house: House, place: Place): Promise<number | null> {
  // What could not be taken in is a person's to look at, not to be tried for ever; what came elsewhere is.
  const troubled = await troubledFolders(house.db, place.id, BY_ITSELF);
  const folders = (await strayFolders(house.db, place.id, '', 1, 500)).filter(({ files, twins }) => files > twins);
  const known = new Map(
    (
      await assignmentsIn(
        house.db,
        folders.map(({ folder }) => foldName(folder)),
      )
    ).map((one) => [one.folded, one]),
  );
  const holders = treeHolders(folders.map(({ folder }) => folder));
  const sure = [...groupedBy(folders, ({ folder }) => holders.get(folder) ?? folder)].flatMap(([folder, some]) => {
    if (troubled.has(folder)) return [];
    const here = some.map((one) => known.get(foldName(one.folder)));
    const assignments = new Set(here.flatMap((one) => one?.assignments ?? []));
    const contributors = new Set(here.flatMap((one) => one?.contributors ?? []));
    // In each of them something of that assignment, and of no other, is filed already.
    if (assignments.size !== 1 || here.some((one) => !one?.assignments.length)) return [];
    const contributorId = contributors.size === 1 ? [...contributors][0]! : null;
    return [{ folder, assignmentId: [...assignments][0]!, contributorId, title: null, day: null }];
  });
  return sure.length ? askAdopt(house, place.id, { folders: sure }, BY_ITSELF) : null;
}
