import type { LetGoAnswer, LetGoRequest } from '@tally/contract';
import { pullingOf, type Pulling } from '@tally/core/reader';
import { type Db, inTransaction } from '../db/database.js';
import { letCardGo } from '../drive/card-device.js';
import { happens, type House, type IntakeRow, intakesWhere, lockIntake, record, Refusal, theIntake } from '../house/index.js';
import { cardHere, holdingCard } from './card-here.js';
import { TAKEN_BACK, type Asking } from './clear-card.js';
import { beginWork, endWork, openWork } from './store/card-work.js';

const NEVER = new AbortController().signal;
/** How long after clearing a card is let go by itself: one that is put in again later is wanted. */
const SOON_MS = 10 * 60_000;

/** May the card of an intake be pulled, as far as anybody knows? */
export const pullingOfIntake = (intake: IntakeRow): Pulling => pullingOf({ ...intake, letsGo: intake.reader?.letsGo ?? false });

/**
 * Lets the card of an intake go, at this station: unmounts it, after which it may be pulled.
 * @throws Refusal while something needs it, with the reason; when only something waits on it, `anyway` goes over it.
 */
export function letGo(
  house: House,
  intakeId: number,
  { anyway }: LetGoRequest,
  { who, workId }: Asking,
  signal: AbortSignal = NEVER,
): Promise<LetGoAnswer> {
  // Whoever clears or restores holds the card: nobody else is at it from here on.
  return holdingCard(house, intakeId, signal, async () => {
    const intake = await cardHere(house, intakeId, null);
    const id = await inTransaction(house.db, async (tx) => {
      await lockIntake(tx, intakeId);
      const now = await theIntake({ db: tx }, intakeId);
      const { standing, why, waits } = pullingOfIntake({ ...now, letGo: null });
      if (standing === 'no card') throw new Refusal('conflict', 'There is no card to let go.');
      if (standing === 'needed' && !(waits && anyway))
        throw new Refusal('conflict', `Not yet: ${why ?? ''}.${waits ? ' It can be let go all the same.' : ''}`);
      // A plain folder is not mounted: there is nothing to do, and nothing to be written down.
      if (!now.reader?.letsGo) return null;
      await happens(tx, house, intakeId, { what: 'letting go' });
      const work = { kind: 'let go', intakeId, ofIntakeId: intakeId, station: intake.station, ask: { anyway }, who } as const;
      const begun = await beginWork(tx, work, workId);
      if (begun === null) throw new Refusal('conflict', TAKEN_BACK);
      return begun;
    });
    const called = intake.card.label ?? intake.card.volume;
    const answer = answerFor(intake);
    if (id === null) {
      if (workId !== undefined) await endWork(house.db, workId, answer);
      return answer;
    }
    const problem = await unmounting(house, intake);
    if (problem !== null) {
      await notLetGo(house, intakeId, id, `${called} could not be let go: ${problem}.`);
      throw new Refusal('not possible now', `It could not be let go: ${problem}. It is still in use: do not pull it.`);
    }
    await inTransaction(house.db, async (tx) => {
      await happens(tx, house, intakeId, { what: 'let go' });
      await wasLetGo(tx, house, intake, id, who);
    });
    return answer;
  });
}

const answerFor = ({ id, card }: IntakeRow): LetGoAnswer => ({
  intakeId: id,
  words: `${card.label ?? card.volume} may be pulled.`,
});

async function wasLetGo(tx: Db, house: House, intake: IntakeRow, workId: number, who: string | null): Promise<void> {
  const text = 'The card was let go: it may be pulled.';
  await record(tx, { at: house.clock(), kind: 'let go', intakeId: intake.id, who, text });
  await endWork(tx, workId, answerFor(intake));
}

const unmounting = (house: House, { sourcePath }: IntakeRow): Promise<string | null> =>
  letCardGo(sourcePath, house.settings.reader).then(
    () => null,
    (error: unknown) => (error as Error).message,
  );

/** It is in the reader as before, and somebody is told. */
async function notLetGo(house: House, intakeId: number, workId: number, message: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await happens(tx, house, intakeId, { what: 'not let go' });
    await endWork(tx, workId, null, { kind: 'not possible now', message });
  });
}

/** Somebody was killed while letting a card go: it is in the reader as before, or the watch saw it go, and that is told. */
export async function lettingGoWasInterrupted(house: House, intakeId: number, workId: number): Promise<void> {
  const isGone = await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const intake = await theIntake({ db: tx }, intakeId);
    if (intake.letGo !== 'done') return false;
    await wasLetGo(tx, house, intake, workId, null);
    return true;
  });
  if (!isGone) await notLetGo(house, intakeId, workId, 'Letting the card go was interrupted. Do it again.');
}

/** Cards of this station that the house lets go by itself: what was cleared or given back a moment ago. */
export async function letGoByItself(house: House): Promise<number[]> {
  const { db, settings, clock } = house;
  if (!settings.letGoAfter.length) return [];
  const cleared = settings.letGoAfter.includes('clearing');
  const back = settings.letGoAfter.includes('giving back');
  const found = await intakesWhere(
    db,
    `i.present and i.station = $1 and i.let_go is null and (i.reader->>'letsGo')::boolean
     and (($2 and i.cleared_at > $4) or ($3 and k.tray = 'out' and k.tray_since > $4))`,
    [settings.station, cleared, back, new Date(clock().getTime() - SOON_MS)],
  );
  const busy = new Set((await openWork(db, settings.station)).map(({ intakeId }) => intakeId));
  return found.filter((intake) => !busy.has(intake.id) && pullingOfIntake(intake).standing === 'let it go').map(({ id }) => id);
}
