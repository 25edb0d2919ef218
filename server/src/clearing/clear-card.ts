import type { ClearAnswer, ClearRequest } from '@tally/contract';
import type { CardFileNow, ClearanceReason } from '@tally/core/copies';
import { formatBytes } from '@tally/core/logbook';
import { inTransaction } from '../db/database.js';
import { cardIdentity, type CardIdentity, liesOn } from '../drive/card-identity.js';
import { cardFacts } from '../drive/card-device.js';
import { codeOf, listCard } from '../drive/list-card.js';
import { type Expected, removeFile } from '../drive/remove-file.js';
import {
  happens,
  type House,
  type IntakeRow,
  lockIntake,
  record,
  Refusal,
  setCleared,
  tell,
  theIntake,
  type Where,
} from '../house/index.js';
import { setGone, setGoneExcept } from '../seeing/index.js';
import { cardHere, holdingCard } from './card-here.js';
import { type LookedAtCard, lookAtCard } from './clearance.js';
import { beginWork, endWork } from './store/card-work.js';

export const TAKEN_BACK = 'Whoever asked for this waits for it no more: nothing was done.';
const NEVER = new AbortController().signal;

/** Who asks, and by which request: one that was asked of this station, else a new one. */
export interface Asking {
  readonly who: string;
  readonly workId?: number;
}

/**
 * Clears a card, or removes some of its items alone: every file that stands in all required places, each looked at once
 * more in the moment before. Folders, index files of the camera and everything that is not what it was stay. Two people
 * clearing at once: one does. While it goes on nobody files the card, and nobody takes it for another one.
 * @param at a folder where the card lies, in no reader. @param signal ends it between two files.
 * @throws Refusal when the card is not safe to clear, or not what the person saw.
 */
export function clearCard(
  house: House,
  intakeId: number,
  ask: ClearRequest,
  asking: Asking,
  at: string | null = null,
  signal: AbortSignal = NEVER,
): Promise<ClearAnswer> {
  return holdingCard(house, intakeId, signal, (inner) => clearHeld(house, intakeId, ask, asking, at, inner));
}

async function clearHeld(
  house: House,
  intakeId: number,
  ask: ClearRequest,
  asking: Asking,
  at: string | null,
  signal: AbortSignal,
): Promise<ClearAnswer> {
  const intake = await cardHere(house, intakeId, at);
  const looked = await lookAtCard(house, intake, false, ask.items ?? null);
  const going = mayGo(looked, ask);
  const workId = await begins(house, intake, ask, asking, looked.view);
  const { answer, gone } = await removeAll(intake.sourcePath, going, looked.expected, signal);
  // Told to stop, or the lock is lost: a sweep says what came of it.
  signal.throwIfAborted();
  // The file that told that the card is there may be gone: another one does from now on.
  const identity = at === null && (await liesOn(intake.sourcePath, intake.device)) ? await identityNow(house, intake) : null;
  await ended(house, intake, ask, asking.who, { workId, answer, gone, places: looked.view.places, identity });
  return answer;
}

const identityNow = async ({ settings }: House, { sourcePath, reader }: IntakeRow) => ({
  ...(await cardIdentity(sourcePath, await listCard(sourcePath))),
  reader: { ...(await cardFacts(sourcePath, reader?.letsGo ? settings.reader : {})), letsGo: reader?.letsGo ?? false },
});

/** Reasons about single files: these stay on the card while the others go. */
const STAYS: readonly ClearanceReason[] = ['new', 'changed', 'unreadable', 'odd', 'copies', 'left'];

/** The files that a person wants gone, if they may go. @throws Refusal with every reason why not. */
function mayGo({ view, clearance }: LookedAtCard, ask: ClearRequest): readonly CardFileNow[] {
  // Each file that goes stands in every required place, whatever stays beside it.
  const allowed = ask.keep ? STAYS : ask.letGo ? ['left'] : [];
  const blocking = clearance.reasons.filter(({ kind }) => !allowed.includes(kind));
  if (blocking.length) throw new Refusal('conflict', `Not safe to clear: ${blocking.map(({ words }) => words).join('; ')}.`);
  const going = ask.letGo ? [...clearance.removable, ...clearance.left] : clearance.removable;
  if (going.length !== ask.files)
    throw new Refusal('conflict', `There are ${going.length} files to clear now, not ${ask.files}. Look again.`);
  if (view.askAgain && !ask.sure) {
    throw new Refusal('conflict', 'There is sound or something of unknown kind among these files: say that you are sure.');
  }
  return going;
}

/** Written down before anything goes. @returns the work's id. */
async function begins(
  house: House,
  { id: intakeId, station }: IntakeRow,
  ask: ClearRequest,
  { who, workId }: Asking,
  view: LookedAtCard['view'],
): Promise<number> {
  return inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const { state } = await theIntake({ db: tx }, intakeId);
    if (state === 'filing') throw new Refusal('conflict', 'This card is being filed: wait until its copies tally.');
    const places = view.places.map(({ name }) => name).join(' and ');
    const letting = ask.letGo && view.left ? ` and ${view.left} that were left and stand nowhere else` : '';
    const text = `${ask.items ? 'Removing' : 'Clearing'} begins: ${view.files} files that stand in ${places}${letting}.`;
    await record(tx, { at: house.clock(), kind: 'clearing', intakeId, who, text });
    const work = { kind: 'clear', intakeId, ofIntakeId: intakeId, station, ask, who } as const;
    const begun = await beginWork(tx, work, workId);
    if (begun === null) throw new Refusal('conflict', TAKEN_BACK);
    return begun;
  });
}

/** What came of it. @param outcome.identity what the card is known by from now on; null: it lies in no reader any more. */
async function ended(
  house: House,
  { id: intakeId, sourcePath, station }: IntakeRow,
  ask: ClearRequest,
  who: string,
  outcome: {
    workId: number;
    answer: ClearAnswer;
    gone: readonly Buffer[];
    places: LookedAtCard['view']['places'];
    identity: (CardIdentity & Pick<Where, 'reader'>) | null;
  },
): Promise<void> {
  const { answer, identity } = outcome;
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const isWhole = !ask.items && !ask.keep;
    if (answer.removed && isWhole) await setCleared(tx, intakeId, house.clock());
    await setGone(tx, intakeId, outcome.gone, house.clock());
    await happens(tx, house, intakeId, { what: 'cleared' }, identity ? { where: { sourcePath, station, ...identity } } : {});
    const [first] = answer.stayed;
    const stayed = first ? ` ${answer.stayed.length} stayed: ${first.path}: ${first.why}.` : '';
    await record(tx, {
      ...{ at: house.clock(), kind: isWhole ? 'cleared' : 'removed', intakeId, who },
      text: `${isWhole ? 'Cleared: ' : ''}${answer.removed} files removed from the card (${formatBytes(answer.bytes)}).${stayed}`,
      data: { ...answer, places: outcome.places.map(({ name, device }) => ({ name, device })) },
    });
    await endWork(tx, outcome.workId, answer);
    await tell(tx, { type: 'items', intakeId });
    await tell(tx, { type: 'intake', intakeId });
    await tell(tx, { type: 'desk' });
  });
}

async function removeAll(
  root: string,
  going: readonly CardFileNow[],
  expected: ReadonlyMap<CardFileNow, Expected>,
  signal: AbortSignal,
): Promise<{ answer: ClearAnswer; gone: Buffer[] }> {
  const gone: Buffer[] = [];
  const stayed: ClearAnswer['stayed'] = [];
  let [removed, bytes] = [0, 0];
  for (const file of going) {
    if (signal.aborted) break;
    const why = await removeFile(root, expected.get(file)!).catch(codeOf);
    if (why === null) {
      removed++;
      gone.push(expected.get(file)!.pathBytes);
      bytes += file.bytes;
    } else stayed.push({ path: file.path, why });
  }
  return { answer: { removed, bytes, stayed }, gone };
}

/** Whoever cleared a card was killed: what is gone stood in every required place. Says so, and knows the card as it is now. */
export async function clearingWasInterrupted(house: House, intakeId: number, workId: number): Promise<void> {
  const { settings, clock } = house;
  const intake = await theIntake(house, intakeId);
  const { sourcePath, station } = intake;
  const isHere = intake.present && station === settings.station && (await liesOn(sourcePath, intake.device));
  const there = isHere ? await listCard(sourcePath) : null;
  const identity = there ? await cardIdentity(sourcePath, there) : null;
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await happens(tx, house, intakeId, { what: 'cleared' }, identity ? { where: { sourcePath, station, ...identity } } : {});
    const paths = there?.map(({ pathBytes }) => pathBytes);
    if (paths) await setGoneExcept(tx, intakeId, paths, clock());
    const text = 'Clearing was interrupted: what is gone from the card stood in every required place. Look again to go on.';
    await record(tx, { at: clock(), kind: 'clearing interrupted', intakeId, who: null, text });
    await endWork(tx, workId, null, { kind: 'not possible now', message: text });
    await tell(tx, { type: 'intake', intakeId });
  });
}
