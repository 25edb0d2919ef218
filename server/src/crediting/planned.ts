import { createHash } from 'node:crypto';
import { basename } from 'node:path';
import type { RecordedCredit } from '@tally/contract';
import {
  comesOutAgain,
  type ContactSaid,
  intoJpeg,
  propertiesOf,
  type Insertion,
  type Properties,
  type Standing,
  writingOf,
  type WritingOf,
} from '@tally/core/fields';
import { type House, theIntake } from '../house/index.js';
import { recordedCredit } from '../slip/index.js';
import { factsOf, type FactsOf, writingOfHouse } from './store.js';

/** What is to be said in a file or beside it. */
export interface Planned {
  readonly how: WritingOf;
  readonly properties: Properties;
  readonly standing: Standing;
  /** Whether the house corrected the camera's clock. */
  readonly corrected: boolean;
  /** Stands for all of it: another one, and the files must follow. */
  readonly fingerprint: string;
}

/** What each item of an intake is to say, as the house knows it now. */
export async function creditPlan(house: House, intakeId: number): Promise<(itemId: number) => Planned | null> {
  const { number } = await theIntake(house, intakeId);
  const [writing, credits] = [await writingOfHouse(house.db), await recordedCredit(house, intakeId)];
  const facts = new Map((await factsOf(house.db, intakeId)).map((one) => [one.itemId, one]));
  const known = new Map<number, Planned>();
  // What was adopted is not written into: beside it, if the house has that at all.
  const wayOf = (fact: FactsOf): WritingOf => {
    const way = writingOf({ ...fact, name: fact.path }, writing);
    if (!fact.adopted || way === 'record only') return way;
    return house.settings.besideAdopted === 'nothing' ? 'record only' : 'beside';
  };
  return (itemId) => {
    const [fact, credit] = [facts.get(itemId), credits(itemId)];
    if (!fact || !credit) return null;
    const planned = known.get(itemId) ?? plannedFor(house.settings.house, number, fact, credit, wayOf(fact));
    known.set(itemId, planned);
    return planned;
  };
}

function plannedFor(house: string, intake: string, fact: FactsOf, credit: RecordedCredit, how: WritingOf): Planned {
  const { standing, corrected } = fact;
  const documentId = `uuid:${uuidOf(`${house}\0${intake}\0${fact.path}`)}`;
  const known = {
    ...{ ...credit, house, documentId, name: basename(fact.path), description: fact.description, contact: contactOf(fact) },
    assignment: fact.slug === null ? null : { slug: fact.slug, title: fact.title ?? fact.slug },
    captured: { local: fact.local, offsetMinutes: fact.offsetMinutes },
    taken: fact.lat === null || fact.lon === null ? null : { lat: fact.lat, lon: fact.lon },
  };
  const fingerprint = createHash('sha256')
    .update(JSON.stringify([known, standing, corrected, how]))
    .digest('base64url');
  const properties = propertiesOf({ ...known, instanceId: `uuid:${uuidOf(`${documentId}\0${fingerprint}`)}` });
  return { how, properties, standing, corrected, fingerprint };
}

/** What may leave the house of how somebody can be reached. */
function contactOf(fact: FactsOf): ContactSaid | null {
  const open = (part: 'address' | 'email' | 'phone' | 'web') => (fact.inside.includes(part) ? '' : fact[part]);
  const contact = { address: open('address'), email: open('email'), phone: open('phone'), web: open('web') };
  return Object.values(contact).every((part) => part === '') ? null : contact;
}

/** A UUID that a text always gives (RFC 9562, version 8). */
function uuidOf(text: string): string {
  const bytes = createHash('sha256').update(text).digest().subarray(0, 16);
  bytes[6] = (bytes[6]! & 0x0f) | 0x80;
  bytes[8] = (bytes[8]! & 0x3f) | 0x80;
  return bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');
}

const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest();

/**
 * How a JPEG comes to say what is planned. @param head of the file as it was on the card, at least up to its first scan.
 * @returns words for why it has to be said beside it.
 */
export function insertionFor(planned: Planned, head: Uint8Array): Insertion | string {
  const insertion = intoJpeg(head, planned.properties, planned.standing, planned.corrected, md5);
  if (typeof insertion !== 'string' && !comesOutAgain(head, insertion)) return 'what is put into it would not come out again';
  return insertion;
}
