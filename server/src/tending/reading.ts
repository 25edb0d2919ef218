import type { FolderSaysView } from '@tally/contract';
import { folderSays, NameReader, type FolderSays, type HouseLists, type Reader } from '@tally/core/drive';
import { treeHolders } from '@tally/core/card';
import { nameOf, parseRule, pathIn, ruleOf, STARTERS } from '@tally/core/rule';
import type { House } from '../house/index.js';
import { listRules } from '../rules/index.js';
import { groupedBy } from './grouped.js';
import { strayFolders } from './store/adoptions.js';
import { houseLists } from './store/lists.js';

/** So many names of a folder are read to know what it is. */
const NAMES_OF_FOLDER = 60;
const MOST_FOLDERS = 2_000;

/** What names can have been made by: today's rule, those before it, and the habits that many houses have. */
async function readersOf(house: Pick<House, 'db'>): Promise<Reader[]> {
  const rules = await listRules(house.db);
  const own = rules.flatMap(({ revision, rule }, index): Reader[] => {
    const parsed = parseRule(rule);
    return parsed.ok ? [{ name: index === 0 ? 'the rule of today' : `revision ${revision} of the rule`, rule: parsed.rule }] : [];
  });
  return [...own, ...STARTERS.map(({ title, rule }): Reader => ({ name: `the habit “${title}”`, rule: ruleOf(rule) }))];
}

export async function nameReader(house: Pick<House, 'db'>): Promise<{ reader: NameReader; lists: HouseLists }> {
  const [readers, lists] = [await readersOf(house), await houseLists(house.db)];
  return { reader: new NameReader(readers, lists), lists };
}

export interface SaidFolder extends FolderSays {
  readonly twins: number;
}

/** What the names of strays say, in a folder and below, folder by folder; a camera's tree goes with the folder that holds it. */
export async function foldersSay(
  house: Pick<House, 'db'>,
  placeId: string,
  folder: string,
): Promise<{ folders: SaidFolder[]; lists: HouseLists; more: number }> {
  const { reader, lists } = await nameReader(house);
  const rows = await strayFolders(house.db, placeId, folder, NAMES_OF_FOLDER, MOST_FOLDERS + 1);
  const holders = treeHolders(rows.map((row) => row.folder));
  const adopted = groupedBy(rows.slice(0, MOST_FOLDERS), (row) => holders.get(row.folder) ?? row.folder);
  const folders = [...adopted].map(([holder, some]): SaidFolder => {
    const read = some.flatMap(({ paths }) =>
      paths.map((path) => ({ bytes: 0, says: reader.read(pathIn(holder, nameOf(path))) })),
    );
    const sum = (of: (row: (typeof some)[number]) => number) => some.reduce((all, row) => all + of(row), 0);
    return {
      ...folderSays(holder, read.slice(0, NAMES_OF_FOLDER)),
      ...{ files: sum(({ files }) => files), bytes: sum(({ bytes }) => bytes), twins: sum(({ twins }) => twins) },
    };
  });
  return { folders, lists, more: Math.max(0, rows.length - MOST_FOLDERS) };
}

export async function foldersSayView(
  house: Pick<House, 'db'>,
  placeId: string,
  folder: string,
): Promise<{ folders: FolderSaysView[]; more: number }> {
  const { folders, lists, more } = await foldersSay(house, placeId, folder);
  const contributors = new Map(lists.contributors.map(({ id, name, codes }) => [id, { id, name, code: codes[0]! }]));
  const assignments = new Map(lists.assignments.map(({ id, slug, title }) => [id, { id, slug, title }]));
  return {
    more,
    folders: folders.map(({ contributorId, assignmentId, asks, ...said }) => ({
      ...said,
      contributor: contributorId === null ? null : (contributors.get(contributorId) ?? null),
      assignment: assignmentId === null ? null : (assignments.get(assignmentId) ?? null),
      asks: [...asks],
    })),
  };
}
