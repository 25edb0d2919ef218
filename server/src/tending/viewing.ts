import type {
  AdoptionView,
  CheckView,
  FindingsQuery,
  FindingsView,
  FolderQuery,
  FolderView,
  FindingView,
  FoundQuery,
  FoundView,
  GrowthView,
  MendsQuery,
  MendsView,
  PathLeads,
  PlaceState,
  StoodFileView,
  StoodFolderView,
  TreeQuery,
  TreeView,
} from '@tally/contract';
import { FINDING_KINDS, FINDINGS, type FindingKind } from '@tally/core/drive';
import { nameOf, pathIn } from '@tally/core/rule';
import { listPlaces } from '../driving/index.js';
import { filedAtPath } from '../filing/index.js';
import { type House, Refusal } from '../house/index.js';
import { filedByMonth } from '../shelf/index.js';
import { type AdoptionRow, lastAdoption } from './store/adoptions.js';
import { type CheckRow, lastCheck } from './store/checks.js';
import { countFindings, type FindingRow, findingsAfter, findingsById, findingsIn, foundInFolders } from './store/findings.js';
import { mendsBefore, movesAt, movesLeft } from './store/mends.js';
import { folderAt, foldersIn, type FolderSums } from './store/stood.js';
import { coverageOf, filedHere, findingsHere, straysHere, withFolders } from './store/viewing.js';

async function mustBePlace(house: House, placeId: string): Promise<void> {
  if (!(await listPlaces(house)).some(({ id }) => id === placeId)) throw new Refusal('not found', 'There is no such place.');
}

type Coverage = (path: string) => (number | null)[];

const folderView = (one: FolderSums, folders: boolean, copies: Coverage): StoodFolderView => ({
  ...{ path: one.path, name: one.name, files: one.allFiles, bytes: one.allBytes, known: one.allKnown },
  ...{ strays: one.allStrays, trouble: one.allTrouble, folders, copies: copies(one.path) },
});

/** How many of what is filed in folders each place has, in the order of the places. */
async function coverage(house: House, paths: readonly string[]): Promise<Coverage> {
  const places = (await listPlaces(house)).filter(({ known }) => known);
  const rows = new Map((await coverageOf(house.db, paths)).map((row) => [`${row.placeId} ${row.path}`, row.known]));
  const looked = new Set((await coverageOf(house.db, [''])).map(({ placeId }) => placeId));
  return (path) => places.map(({ id }) => rows.get(`${id} ${path}`) ?? (looked.has(id) ? 0 : null));
}

/** One level of the tree of a place, as it stood when it was looked at last. */
export async function treeOf(house: House, placeId: string, { folder, after, limit }: TreeQuery): Promise<TreeView> {
  await mustBePlace(house, placeId);
  const own = await folderAt(house.db, placeId, folder);
  const rows = await foldersIn(house.db, placeId, folder, after, limit + 1);
  const shown = rows.slice(0, limit);
  const copies = await coverage(house, [folder, ...shown.map(({ path }) => path)]);
  const deeper = new Set(
    await withFolders(
      house.db,
      placeId,
      shown.map(({ path }) => path),
    ),
  );
  return {
    folder: own && folderView(own, rows.length > 0, copies),
    folders: shown.map((one) => folderView(one, deeper.has(one.path), copies)),
    more: rows.length > limit,
  };
}

/** What stands in a folder: what is logged and what is not, by name. */
export async function folderOfPlace(house: House, placeId: string, { folder, after, limit }: FolderQuery): Promise<FolderView> {
  await mustBePlace(house, placeId);
  const [filed, strays, found] = await Promise.all([
    filedHere(house.db, folder, after, limit + 1),
    straysHere(house.db, placeId, folder, after ? pathIn(folder, after) : '', limit + 1),
    findingsHere(house.db, placeId, folder),
  ]);
  const findings = new Map<string, StoodFileView['findings']>();
  for (const { kind, path, other, what } of found)
    findings.set(nameOf(path), [...(findings.get(nameOf(path)) ?? []), { kind: kind as FindingKind, other, what }]);
  const files: StoodFileView[] = [
    ...filed.map((one) => ({
      ...{ name: one.name, bytes: one.bytes, strayId: null, twin: null, findings: findings.get(one.name) ?? [] },
      item: { id: one.itemId, intakeId: one.intakeId, intakeNumber: one.intakeNumber, kind: one.kind, pictured: one.pictured },
      copies: one.copies,
    })),
    ...strays.map((one) => ({
      ...{ name: nameOf(one.path), bytes: one.bytes, item: null, copies: [], strayId: one.id, twin: one.twin },
      findings: findings.get(nameOf(one.path)) ?? [],
    })),
  ].sort((a, b) => (a.name < b.name ? -1 : 1));
  const shown = files.slice(0, limit);
  return { files: shown, next: files.length > limit ? shown.at(-1)!.name : null };
}

const findingView = ({ id, kind, path, other, what, files, since }: FindingRow): FindingView => ({
  ...{ id, kind, path, other, what, files, since: since.toISOString(), mend: FINDINGS[kind].mend },
});

export async function findingsOf(house: House, placeId: string, query: FindingsQuery): Promise<FindingsView> {
  await mustBePlace(house, placeId);
  const { kind = null, folder = null, after, limit } = query;
  const rows =
    query.in !== undefined && kind !== null
      ? await findingsIn(house.db, placeId, kind, query.in, after, limit + 1)
      : await findingsAfter(house.db, placeId, kind, folder, after, limit + 1);
  const shown = rows.slice(0, limit);
  return { findings: shown.map(findingView), next: rows.length > limit ? shown.at(-1)!.id : null };
}

/** What was found, by kind and folder: what is lost first. */
export async function foundTogether(house: House, placeId: string, query: FoundQuery): Promise<FoundView> {
  await mustBePlace(house, placeId);
  const { afterKind, afterFolder, limit } = query;
  const from = afterKind === undefined ? 0 : FINDING_KINDS.indexOf(afterKind);
  const kinds = FINDING_KINDS.slice(from).filter((kind) => query.kind === undefined || kind === query.kind);
  const rows: ({ kind: FindingKind } & Awaited<ReturnType<typeof foundInFolders>>[number])[] = [];
  for (const kind of kinds) {
    if (rows.length > limit) break;
    const after = kind === afterKind ? afterFolder! : null;
    const some = await foundInFolders(house.db, placeId, kind, after, limit + 1 - rows.length);
    rows.push(...some.map((row) => ({ kind, ...row })));
  }
  const shown = rows.slice(0, limit);
  const firsts = await findingsById(
    house.db,
    shown.map(({ first }) => first),
  );
  const byId = new Map(firsts.map((row) => [row.id, row]));
  const last = shown.at(-1);
  return {
    // One that was mended meanwhile is found no more.
    together: shown.flatMap(({ kind, folder, findings, files, since, first }) => {
      const row = byId.get(first);
      const one = { kind, folder, findings, files, since: since.toISOString(), mend: FINDINGS[kind].mend };
      return row ? [{ ...one, first: findingView(row) }] : [];
    }),
    next: rows.length > limit && last ? { kind: last.kind, folder: last.folder } : null,
  };
}

const checkView = ({ id, how, state, who, begunAt, endedAt, files, bytes, folders, problem }: CheckRow): CheckView => ({
  ...{ id, how, state, who, files, bytes, folders, problem },
  ...{ begunAt: begunAt.toISOString(), endedAt: endedAt?.toISOString() ?? null },
});

export const adoptionView = ({ folders, begunAt, endedAt, ...one }: AdoptionRow): AdoptionView => ({
  ...one,
  ...{ folders: folders.length, begunAt: begunAt.toISOString(), endedAt: endedAt?.toISOString() ?? null },
});

/** How a place stands against the logbook. */
export async function placeState(house: House, placeId: string): Promise<PlaceState> {
  await mustBePlace(house, placeId);
  const [check, found, adoption, moves, root] = await Promise.all([
    lastCheck(house.db, placeId),
    countFindings(house.db, placeId),
    lastAdoption(house.db, placeId),
    movesAt(house.db, placeId),
    folderAt(house.db, placeId, ''),
  ]);
  return {
    check: check && checkView(check),
    found: found.sort((a, b) => FINDING_KINDS.indexOf(a.kind) - FINDING_KINDS.indexOf(b.kind)),
    adoption: adoption && adoptionView(adoption),
    ...moves,
    folder: root && folderView(root, true, await coverage(house, [''])),
  };
}

/** What was mended, the newest first, and what of it is still to be done where. */
export async function mendViews(house: House, { before, limit }: MendsQuery): Promise<MendsView> {
  const rows = await mendsBefore(house.db, before ?? null, limit + 1);
  const shown = rows.slice(0, limit);
  const names = new Map((await listPlaces(house)).map(({ id, name }) => [id, name]));
  const left = await movesLeft(
    house.db,
    shown.map(({ id }) => id),
  );
  return {
    mends: shown.map(({ at, emptiedAt, before: _before, ...mend }) => ({
      ...mend,
      ...{ at: at.toISOString(), emptiedAt: emptiedAt?.toISOString() ?? null },
      waiting: left.flatMap((one) =>
        one.mendId === mend.id && one.waiting ? [{ place: names.get(one.placeId) ?? one.placeId, moves: one.waiting }] : [],
      ),
      problems: left.flatMap((one) => (one.mendId === mend.id && one.problem !== null ? [one.problem] : [])),
    })),
    next: rows.length > limit ? shown.at(-1)!.id : null,
  };
}

/** The item that a printed or linked path leads to, whatever it is called by now. */
export async function whereLeads(house: House, path: string): Promise<PathLeads> {
  const found = await filedAtPath(house.db, path.replace(/^\/+/, ''));
  if (!found) throw new Refusal('not found', 'Nothing is filed there, and nothing was.');
  const { itemId, intakeId, intakeNumber, path: now, until } = found;
  return { itemId, intakeId, intakeNumber, path: now, until: until?.toISOString() ?? null };
}

export const growth = async (house: House): Promise<GrowthView> => ({ months: await filedByMonth(house) });
