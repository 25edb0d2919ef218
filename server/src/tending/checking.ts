import type { CheckAsk } from '@tally/contract';
import { folderOf } from '@tally/core/rule';
import { Walker, followsEntries } from '../drive/walk.js';
import { abilitiesOf, placesStanding } from '../driving/index.js';
import { type House, record, Refusal, tell } from '../house/index.js';
import { carryOutAt } from './carrying.js';
import type { Named } from './draft.js';
import { Looking, type Looked, type LookOptions, type MovedCopy, type Place } from './looking.js';
import { mendNow } from './mending.js';
import { followBeside } from './hand-moved.js';
import { findNearTwins } from './near-twins.js';
import { judgeNames } from './naming.js';
import { beginCheck, checkById, checkProgress, endCheck } from './store/checks.js';
import { countFindings } from './store/findings.js';
import { filedIn } from './store/known.js';
import { foldersOfPlace, listAgain } from './store/stood.js';

/** A place that is here. @throws Refusal when there is none of that name, or it is away. */
export async function placeHere(house: House, placeId: string): Promise<Place> {
  const found = (await placesStanding(house)).find(({ id }) => id === placeId);
  if (!found) throw new Refusal('not found', 'There is no such place.');
  if (!found.standing.online) throw new Refusal('not possible now', `${found.name} ${found.standing.problem}.`);
  return { ...found, ...(await abilitiesOf(found)) };
}

/** Says that a place is to be checked: it is begun at once, by this station. @returns the check's id. */
export async function askCheck(house: House, placeId: string, ask: CheckAsk, who: string): Promise<number> {
  await placeHere(house, placeId);
  const id = await beginCheck(house.db, { placeId, ...ask, who, station: house.settings.station, begunAt: house.clock() });
  if (id === null) throw new Refusal('conflict', 'This place is being checked already.');
  await tell(house.db, { type: 'drive', placeId });
  return id;
}

/** Somebody wants a check to end before it is through: what it found so far is not kept. */
export async function stopCheck(house: House, id: number): Promise<void> {
  const check = await checkById(house.db, id);
  if (!check) throw new Refusal('not found', 'There is no such check.');
  if (!(await endCheck(house.db, id, 'stopped', house.clock()))) throw new Refusal('conflict', 'This check is over.');
  await tell(house.db, { type: 'drive', placeId: check.placeId });
}

/**
 * Carries out a check. Safe to be killed and called again: it begins anew, and what it had found stands until it is through.
 */
export async function runCheck(house: House, checkId: number, outer: AbortSignal): Promise<void> {
  const check = await checkById(house.db, checkId);
  if (check?.state !== 'going') return;
  const stopped = new AbortController();
  const signal = AbortSignal.any([outer, stopped.signal]);
  try {
    const place = await placeHere(house, check.placeId);
    const looked = await lookAt(house, place, signal, {
      how: check.how,
      onProgress: async (sums) => {
        await checkProgress(house.db, checkId, sums);
        await tell(house.db, { type: 'drive', placeId: place.id });
        if ((await checkById(house.db, checkId))?.state !== 'going') stopped.abort();
      },
    });
    if (check.names) await judgeNames(house, place.id, check.strict, signal);
    await findNearTwins(house, place.id, signal);
    await checkProgress(house.db, checkId, looked);
    await endCheck(house.db, checkId, 'done', house.clock());
    const found = await countFindings(house.db, place.id);
    const words = found.map(({ kind, files }) => `${files} ${kind}`).join(', ') || 'everything is as it should be';
    const text = `${place.name} checked by ${check.how}, ${looked.files} files in ${looked.folders} folders: ${words}.`;
    await record(house.db, {
      at: house.clock(),
      kind: 'drive check',
      intakeId: null,
      who: check.who,
      text,
      data: { place: place.id, found },
    });
  } catch (error) {
    // Told to stop, or the process ends: a sweep begins it anew unless somebody stopped it.
    if (signal.aborted) return;
    await endCheck(
      house.db,
      checkId,
      'failed',
      house.clock(),
      error instanceof Refusal ? error.message : `It broke off: ${(error as Error).message}`,
    );
    if (!(error instanceof Refusal)) throw error;
  } finally {
    await tell(house.db, { type: 'drive', placeId: check.placeId });
  }
}

type Ways = Pick<LookOptions, 'how' | 'onProgress'>;

/** Looks at all of a place; what was moved by hand on the one that leads is followed. */
export async function lookAt(house: House, place: Place, signal: AbortSignal, ways: Ways): Promise<Looked> {
  await carryOutAt(house, place.id, signal);
  const walker = new Walker();
  try {
    return await followed(house, place, signal, ways, walker, (looking) => looking.whole());
  } finally {
    await walker.close();
  }
}

/** The place whose names lead: what is moved there by hand, the house follows. */
const leads = ({ kind }: Place) => kind === 'shared drive';

async function followed(
  house: House,
  place: Place,
  signal: AbortSignal,
  ways: Ways,
  walker: Walker,
  look: (looking: Looking) => Promise<Looked>,
): Promise<Looked> {
  const places = await placesStanding(house);
  const looking = new Looking(house, place, walker, { ...ways, signal, follows: leads(place) });
  looking.names = new Map(places.map(({ id, name }) => [id, name]));
  looking.devices = new Map(places.flatMap(({ id, standing }) => (standing.online ? [[id, standing.device] as const] : [])));
  const looked = await look(looking).finally(() => looking.end());
  if (looked.moved.length && leads(place)) await follow(house, place, looked.moved, signal);
  return looked;
}

const folderInWords = (folder: string) => (folder === '' ? 'the root' : folder);

/** What was moved by hand is called so from now on, everywhere. */
async function follow(house: House, place: Place, moved: readonly MovedCopy[], signal: AbortSignal): Promise<void> {
  const rows = new Map<number, Awaited<ReturnType<typeof filedIn>>[number]>();
  for (const folder of new Set(moved.map(({ row }) => row.folder)))
    for (const row of await filedIn(house.db, folder, 200_000)) rows.set(row.filedItemId, row);
  const names = moved.flatMap(({ row, to }): Named[] => {
    const filed = rows.get(row.filedItemId);
    if (!filed) return [];
    // What stands as on the card keeps its lists where its tree is.
    const below = filed.folder.slice(filed.listFolder.length);
    const folder = folderOf(to);
    const keepsTree = below !== '' && folder.endsWith(below);
    return [{ ...filed, to, toList: keepsTree ? folder.slice(0, folder.length - below.length) : folder, toN: filed.n }];
  });
  if (!names.length) return;
  const folders = new Set(moved.map(({ row }) => row.folder));
  const words = `${names.length} ${names.length === 1 ? 'file was' : 'files were'} moved by hand on ${place.name}${folders.size === 1 ? `, out of ${folderInWords([...folders][0]!)}` : ''}: the log follows`;
  const mend = await mendNow(house, { kind: 'followed', words, names, doneAt: place.id }, 'the drive').catch((error: unknown) => {
    // Others are at the same files just now, or an earlier mend is: the next round follows.
    if (!(error instanceof Refusal)) throw error;
    house.log.info({ place: place.id, why: error.message }, 'what was moved by hand is followed later');
    return null;
  });
  if (mend !== null) await followBeside(house, place, moved, signal);
  // What was a stray a moment ago is counted anew.
  await listAgain(house.db, place.id, [...new Set([...folders, ...names.map(({ to }) => folderOf(to))])]);
}

/** How the folders of a place are looked at in between: only those whose time says that something came or went. */
export class Rounds {
  private readonly walker = new Walker();
  private readonly follows = new Map<string, Promise<boolean>>();

  close(): Promise<void> {
    return this.walker.close();
  }

  /**
   * One round of a place. The first one, and each on a file system whose folders keep no time, looks at everything.
   * @returns whether anything was looked at.
   */
  async round(house: House, place: Place, signal: AbortSignal): Promise<boolean> {
    const known = await foldersOfPlace(house.db, place.id);
    if (!known.length) {
      await lookAt(house, place, signal, { how: 'size and time' });
      return true;
    }
    const follows = this.follows.get(place.mark) ?? followsEntries(place.root);
    this.follows.set(place.mark, follows);
    const keepsTime = await follows;
    const now = await this.walker.changed(
      place.root,
      known.map(({ path }) => path),
    );
    const changed = known
      .filter(({ changedMs }, index) => now[index] !== -1 && (!keepsTime || now[index] !== changedMs))
      .map(({ path }) => path);
    const gone = known.filter((_, index) => now[index] === -1).map(({ path }) => path);
    // A place that went away in this moment has not lost all its folders.
    if (gone.includes('')) return false;
    if (!changed.length && !gone.length) return false;
    await followed(house, place, signal, { how: 'size and time' }, this.walker, (looking) => looking.some(changed, gone));
    await tell(house.db, { type: 'drive', placeId: place.id });
    return true;
  }
}
