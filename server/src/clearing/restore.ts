import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { standsAt } from '../drive/card-identity.js';
import { SourceError } from '../drive/copy-file.js';
import { codeOf } from '../drive/list-card.js';
import { probe } from '../drive/place.js';
import { restoreFile, type RestoreTo } from '../drive/restore-file.js';
import { placesStanding, type StandingPlace } from '../driving/index.js';
import { inTransaction } from '../db/database.js';
import { record, Refusal, tell, theIntake, type House } from '../house/index.js';
import { setGone } from '../seeing/index.js';
import { type Asking, TAKEN_BACK } from './clear-card.js';
import { beginWork, endWork } from './store/card-work.js';
import { holdingCard } from './card-here.js';
import { editOf } from '../crediting/index.js';
import { clearableItems, type ClearableItem, type InsideOf } from './store/clearable.js';

export interface Restored {
  readonly restored: number;
  readonly bytes: number;
  readonly failed: { path: string; why: string }[];
}

const NEVER = new AbortController().signal;

/**
 * Restores the files of an intake to the card of another intake (or its own) that lies in a reader of this station now.
 * While it goes on nobody takes that card for another one. Called again after an interruption, it goes on.
 * @throws Refusal when that card is not there.
 */
export function restoreToCard(
  house: House,
  intakeId: number,
  cardOf: number,
  { who, workId }: Asking,
  signal: AbortSignal = NEVER,
): Promise<Restored> {
  return holdingCard(house, cardOf, signal, async (inner) => {
    const card = await theIntake(house, cardOf);
    const { sourcePath, station } = card;
    if (!card.present || station !== house.settings.station || !(await standsAt(sourcePath, card))) {
      throw new Refusal('not possible now', `That card is not in a reader of ${house.settings.station}.`);
    }
    if (card.state === 'filing') throw new Refusal('conflict', 'That card is being filed: wait until its copies tally.');
    const work = {
      kind: 'restore',
      intakeId: cardOf,
      ofIntakeId: intakeId,
      station,
      ask: {},
      who,
    } as const;
    const id = await beginWork(house.db, work, workId);
    if (id === null) throw new Refusal('conflict', TAKEN_BACK);
    const answer = await restoreIntake(house, intakeId, sourcePath, who, inner, cardOf === intakeId);
    inner.throwIfAborted();
    await inTransaction(house.db, async (tx) => {
      await endWork(tx, id, answer);
      await tell(tx, { type: 'items', intakeId });
    });
    return answer;
  });
}

/**
 * Puts the files of an intake back as they were on its card, under their original names, folders and times, byte for
 * byte: into a card or any other folder. Nothing that stands there is replaced; every file is flushed, read back past the
 * page cache and compared before it gets its name.
 * @param signal ends it between two files; called again it goes on. @param own whether that is the card it came from.
 */
export async function restoreIntake(
  house: House,
  intakeId: number,
  target: string,
  who: string,
  signal: AbortSignal = NEVER,
  own = false,
): Promise<Restored> {
  await theIntake(house, intakeId);
  await mkdir(target, { recursive: true });
  const places = (await placesStanding(house)).filter(({ standing }) => standing.online);
  const abilities = await probe({ root: target });
  const failed: { path: string; why: string }[] = [];
  let [restored, bytes] = [0, 0];
  const back: Buffer[] = [];
  for (const item of await clearableItems(house.db, intakeId)) {
    if (signal.aborted) break;
    if (!item.filed) continue;
    const temporaryName = `.tally-restore-${intakeId}-${item.id}.part`;
    const why = await restoreOne(item, places, { root: target, files: house.files, signal, temporaryName, ...abilities });
    if (why === null) {
      restored++;
      bytes += item.bytes;
      back.push(item.pathBytes);
    } else failed.push({ path: item.path, why });
  }
  const rest = failed.length ? ` ${failed.length} could not be, first ${failed[0]!.path}: ${failed[0]!.why}.` : '';
  const text = `Restored ${restored} files as they were on the card into ${target}.${rest}`;
  await record(house.db, { at: house.clock(), kind: 'restored', intakeId, who, text });
  if (own) await setGone(house.db, intakeId, back, null);
  return { restored, bytes, failed };
}

const copyWith = (inside: InsideOf | undefined) =>
  inside && { bytes: inside.bytes, hash: Buffer.from(inside.hash, 'hex'), undo: editOf(inside.undo) };

/** @returns why it could not be restored from any place, or null. */
async function restoreOne(item: ClearableItem, places: readonly StandingPlace[], to: RestoreTo): Promise<string | null> {
  const filed = item.filed!;
  let why = 'no copy is there';
  for (const place of places.filter(({ id }) => filed.tallied.includes(id))) {
    try {
      // The copy carries its own time: what was on the card had that of the card.
      const from = Buffer.from(join(place.root, filed.folder, filed.name));
      const problem = await restoreFile({ ...item, hash: filed.hash }, from, to, copyWith(filed.inside[place.id]));
      if (problem === null) return null;
      why = problem === 'the copy is not what was filed' ? `the copy at ${place.name} is not what was filed` : problem;
    } catch (error) {
      why = error instanceof SourceError ? `${place.name}: ${error.message}` : `${place.name}: ${codeOf(error)}`;
    }
  }
  return why;
}
