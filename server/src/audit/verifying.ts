import type { AuditVerdict } from '@tally/contract';
import { GENESIS, type Head } from '@tally/core/audit';
import { setImmediate as breathe } from 'node:timers/promises';
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
  let [before, position, erased] = [GENESIS, 0, 0];
  for (let page = await linksAfter(house.db, 0, PAGE); page.length; page = await linksAfter(house.db, position, PAGE)) {
    for (const link of page) {
      for (position++; position < link.position; position++) name(`Link ${position} is missing.`);
      const stands = link.hash.toString('hex');
      const fault = faultOf(link, before);
      if (fault) name(fault);
      else if (link.erasedBy !== null) erased++;
      for (const { place, hash, at } of heads.get(position) ?? [])
        if (hash !== stands)
          name(`At ${place} the log had another end after ${position} events, on ${at}: it was written anew since.`);
      heads.delete(position);
      before = stands;
    }
    // Others are answered meanwhile.
    await breathe();
  }
  for (const [at, ones] of heads)
    name(`At ${ones[0]!.place} the log had ${at} events on ${ones[0]!.at}; now ${position} are chained. Some are gone.`);
  const { events, passedBy } = await countEvents(house.db);
  if (passedBy) name(`${passedBy} events stand in no link: they came in beside the log.`);
  if (unnamed) problems.push(`… and ${unnamed} more.`);
  return { events, chained: position, waiting: Math.max(0, events - passedBy - position), heads: headsRead, erased, problems };
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
