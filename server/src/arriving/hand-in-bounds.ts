import type { HandInStart } from '@tally/contract';
import { formatBytes } from '@tally/core/logbook';
import { holdUntilEnd } from '../db/locks.js';
import type { Db } from '../db/database.js';
import { freeBytesAt } from '../drive/place.js';
import { boundsOf, type Bounds } from '../door/index.js';
import { Refusal, type House } from '../house/index.js';
import { isOfKind, nameOf } from '../people/index.js';
import { handedInBy, wantedBytes } from './store/hand-ins.js';

/** So much is left on the disk where files arrive, whoever hands in: the database and pictures may be on it. */
const LEFT_FREE_BYTES = 512 * 1024 * 1024;

/** Free bytes where files arrive: asked before the transaction that counts on them. */
export const freeWhereFilesArrive = ({ settings }: Pick<House, 'settings'>): Promise<number> => freeBytesAt(settings.dataDir);

/**
 * What somebody is bound to goes for what they hand in. @returns the same with what is bound said.
 * @throws Refusal when it says something else.
 */
export async function withinBounds(tx: Db, start: HandInStart, bounds: Bounds): Promise<HandInStart> {
  const { contributorId, assignmentId, ofKind } = bounds;
  if (contributorId !== null && start.contributorId !== contributorId)
    throw new Refusal(
      'conflict',
      `Only ${(await nameOf(tx, 'contributor', contributorId)) ?? 'somebody else'} hands in by this.`,
    );
  if (assignmentId !== null && start.assignmentId !== null && start.assignmentId !== assignmentId)
    throw new Refusal('conflict', `This is for ${(await nameOf(tx, 'assignment', assignmentId)) ?? 'another assignment'} only.`);
  if (ofKind !== null && start.contributorId !== null && !(await isOfKind(tx, start.contributorId, ofKind)))
    throw new Refusal('conflict', `Only ${ofKind} hand in by this.`);
  return { ...start, assignmentId: assignmentId ?? start.assignmentId };
}

/**
 * Is there room for a hand-in, by the quota of whoever hands in and on the disk? Called in the transaction that adds it, one
 * after the other: what two announce at once is counted for both. What was announced and has not come yet is kept free.
 * @param free bytes, asked just before
 * @throws Refusal when there is none
 */
export async function roomFor(
  tx: Db,
  personId: number,
  { bytes, files }: { readonly bytes: number; readonly files: number },
  free: number,
): Promise<void> {
  await holdUntilEnd(tx, 'handing in', 0);
  const { quotaBytes, quotaFiles } = await boundsOf(tx, personId);
  const before = await handedInBy(tx, personId);
  if (quotaBytes !== null && before.bytes + bytes > quotaBytes)
    throw new Refusal(
      'too much',
      `${formatBytes(quotaBytes)} may be handed in by this, ${left(quotaBytes - before.bytes)} left.`,
    );
  if (quotaFiles !== null && before.files + files > quotaFiles)
    throw new Refusal(
      'too much',
      `${quotaFiles} files may be handed in by this, ${Math.max(0, quotaFiles - before.files)} are left.`,
    );
  const room = free - LEFT_FREE_BYTES - (await wantedBytes(tx));
  if (bytes > room)
    throw new Refusal('no room', `There is no room for ${formatBytes(bytes)} here now. Tell the media desk; nothing was sent.`);
}

const left = (bytes: number) => `${formatBytes(Math.max(0, bytes))} ${bytes === 1 ? 'is' : 'are'}`;
