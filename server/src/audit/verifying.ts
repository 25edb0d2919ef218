import type { AuditVerdict } from '@tally/contract';
import { GENESIS, type Head } from '@tally/core/audit';
import { setImmediate as breathe } from 'node:timers/promises';
import { z } from 'zod';
import { placesStanding } from '../driving/index.js';
import type { House } from '../house/index.js';
import { digestOf, linkHash } from './chaining.js';
import { headsAt } from './heads.js';
import { countEvents, linksAfter, type LinkedEvent } from './store/chain.js';

const PAGE = 1_000;
/** What is named one by one; whoever changed more is not named any better. */
const NAMED = 50;

/**
 * Compares the log with its chain, and the chain with the heads on the drive. Reads the whole log, page by page.
 * What it cannot see: a change of what is not chained yet, and of what came after the newest head that is still as it was.
 */
export async function verifyLog(house: House): Promise<AuditVerdict> {
  const problems: string[] = [];
  let unnamed = 0;
  const name = (problem: string) => {
    if (problems.length < NAMED) problems.push(problem);
    else unnamed++;
  };
  const heads = await headsOnPlaces(house, name);
  const headsRead = [...heads.values()].flat().length;
  const unlike: HeadAt[] = [];
  const epochs: Epoch[] = [];
  let [before, position, erased] = [GENESIS, 0, 0];
  for (let page = await linksAfter(house.db, 0, PAGE); page.length; page = await linksAfter(house.db, position, PAGE)) {
    for (const link of page) {
      for (position++; position < link.position; position++) name(`Link ${position} is missing.`);
      const stands = link.hash.toString('hex');
      const fault = faultOf(link, before);
      if (fault) name(fault);
      else if (link.erasedBy !== null) erased++;
      else epochs.push(...epochOf(link));
      unlike.push(...(heads.get(position) ?? []).filter(({ hash }) => hash !== stands));
      heads.delete(position);
      before = stands;
    }
    // Others are answered meanwhile.
    await breathe();
  }
  const earlier = [...unlike, ...[...heads.values()].flat()].filter((head) => isOfBefore(head, epochs));
  for (const head of unlike)
    if (!earlier.includes(head))
      name(`At ${head.place} the log had another end after ${head.position} events, on ${head.at}: it was written anew since.`);
  for (const [at, ones] of heads) {
    const gone = ones.find((one) => !earlier.includes(one));
    if (gone) name(`At ${gone.place} the log had ${at} events on ${gone.at}; now ${position} are chained. Some are gone.`);
  }
  const { events, passedBy } = await countEvents(house.db);
  if (passedBy) name(`${passedBy} events stand in no link: they came in beside the log.`);
  if (unnamed) problems.push(`… and ${unnamed} more.`);
  return {
    events,
    chained: position,
    waiting: Math.max(0, events - passedBy - position),
    heads: headsRead,
    erased,
    notes: notesOf(epochs, earlier),
    problems,
  };
}

function faultOf(link: LinkedEvent, before: string): string | null {
  const { position, eventId, id, at, kind, text, salt, erasedBy, erasedTo } = link;
  const digest = link.digest.toString('hex');
  if (linkHash(before, position, digest) !== link.hash.toString('hex'))
    return `Link ${position} (event ${eventId}) is not what it was.`;
  if (id === null || at === null || kind === null || text === null) return `Event ${eventId} is gone (link ${position}).`;
  const told = { id, at, kind, intakeId: link.intakeId, who: link.who, text, data: link.data };
  // What was erased is accounted for by an event in the chain, which is looked at in its turn.
  if (digestOf(salt, told) === (erasedBy === null ? digest : erasedTo)) return null;
  return `Event ${eventId} of ${at.toISOString()} is not what it was: “${text.slice(0, 80)}”.`;
}

/** The log went on in another database: what that knew of the one before ends after this many events. */
interface Epoch {
  readonly epoch: number;
  readonly after: number;
  readonly at: Date;
}

const EpochData = z.object({ epoch: z.number(), after: z.number() });

function epochOf({ kind, data, at }: LinkedEvent): Epoch[] {
  const said = kind === 'chain' ? EpochData.safeParse(data) : null;
  return said?.success && at ? [{ ...said.data, at }] : [];
}

/** Does a head tell of events that a database had which is not there any more, and of which no copy was brought back? */
const isOfBefore = (head: Head, epochs: readonly Epoch[]): boolean =>
  epochs.some(
    ({ epoch, after, at }) => head.position > after && (head.epoch === null ? new Date(head.at) <= at : head.epoch < epoch),
  );

function notesOf(epochs: readonly Epoch[], earlier: readonly HeadAt[]): string[] {
  const notes = epochs.map(
    ({ after, at }) => `On ${at.toISOString()} the house went on in another database, after ${after} events.`,
  );
  const last = earlier.reduce((most, { position }) => Math.max(most, position), 0);
  if (last) {
    const to = `${earlier.length} heads on the drive tell of up to ${last} events of the database before`;
    notes.push(`${to}: those that the copy it comes from did not have are lost, and cannot be verified.`);
  }
  return notes;
}

type HeadAt = Head & { readonly place: string };

/** The heads that places remember, by position. */
async function headsOnPlaces(house: House, name: (problem: string) => void): Promise<Map<number, HeadAt[]>> {
  const found = new Map<number, HeadAt[]>();
  for (const place of await placesStanding(house)) {
    if (!place.standing.online) continue;
    const file = await headsAt(place.root);
    if (file?.odd) name(`At ${place.name}, ${file.odd} lines of the heads were written by somebody else.`);
    for (const head of file?.heads ?? [])
      found.set(head.position, [...(found.get(head.position) ?? []), { ...head, place: place.name }]);
  }
  return found;
}
