import { join } from 'node:path';
import type { WrittenView } from '@tally/contract';
import {
  type Edit,
  type Field,
  FIELDS,
  inWords,
  type Properties,
  type Question,
  says,
  standardOf,
  applyTo,
  propertiesInJpeg,
} from '@tally/core/fields';
import { copiesOfItem, type CopyStands, creditPlan, editOf, insertionFor, type Planned } from '../crediting/index.js';
import { sizeOf } from '../drive/final-name.js';
import { codeOf, joinBytes } from '../drive/list-card.js';
import { listPlaces } from '../driving/index.js';
import { type House, Refusal } from '../house/index.js';
import { itemPlace } from '../seeing/index.js';
import { headOf, saidIn, type SaidIn } from '../drive/said-in.js';

const NOTHING_SAID: SaidIn = { said: [], faults: [] };

/** What stands in an item's file and beside it, in the first copy that is here (else on its card), and what will. */
export async function whatIsWritten(house: House, itemId: number): Promise<WrittenView> {
  const place = await itemPlace(house.db, itemId);
  const plan = place && (await creditPlan(house, place.intakeId))(itemId);
  if (!plan) throw new Refusal('not found', 'There is no such item, or nothing is said of it.');
  const [copies, places] = [await copiesOfItem(house.db, itemId), await listPlaces(house)];
  const nameOf = (id: string) => places.find((one) => one.id === id)?.name ?? id;
  const standing = copies.flatMap((copy) => {
    const root = places.find(({ id }) => id === copy.placeId)?.root;
    return root ? [{ copy, path: join(root, copy.folder, copy.name) }] : [];
  });
  const here = standing.map(({ path }) => path);
  const onCard = place.present && place.station === house.settings.station ? joinBytes(place.sourcePath, place.pathBytes) : null;
  const found = await firstThat(here.length ? here : onCard ? [onCard] : []);
  const asked = copies.length ? copies.flatMap(({ questions }) => questions) : await wouldAsk(plan, onCard);
  return {
    how: plan.how,
    reason: copies.find(({ reason }) => reason !== null)?.reason ?? null,
    rows: rowsOf(found.said, plan, asked),
    questions: questionsOf(plan, asked, await cameWith(standing[0]?.copy, standing[0]?.path)),
    places: copies.map((copy) => ({
      ...{ place: nameOf(copy.placeId), how: copy.how },
      behind: plan.how === 'record only' ? copy.how !== null : copy.fingerprint !== plan.fingerprint,
    })),
    faults: [...found.faults],
  };
}

/** What the first of these files says that can be read. */
async function firstThat(paths: readonly (string | Buffer)[]): Promise<SaidIn> {
  for (const path of paths) {
    try {
      return await saidIn(path);
    } catch (error) {
      // Its place is away, or it is not there any more: the next copy says the same.
      if (!['ENOENT', 'EIO', 'ENODEV', 'ENOTCONN', 'ESTALE', 'EACCES'].includes(codeOf(error))) throw error;
    }
  }
  return NOTHING_SAID;
}

/** What would be asked, were it filed now. */
async function wouldAsk(plan: Planned, onCard: Buffer | null): Promise<readonly Question[]> {
  if (plan.how !== 'inside' || !onCard) return [];
  try {
    const insertion = insertionFor(plan, await headOf(onCard));
    return typeof insertion === 'string' ? [] : insertion.questions;
  } catch (error) {
    if (['ENOENT', 'EIO', 'ENODEV'].includes(codeOf(error))) return [];
    throw error;
  }
}

/** What only programs look at. */
const IDS: readonly Field[] = ['documentId', 'originalDocumentId', 'instanceId'];

function rowsOf(said: SaidIn['said'], plan: Planned, asked: readonly Question[]): WrittenView['rows'] {
  return FIELDS.filter((field) => !IDS.includes(field)).flatMap((field) => {
    const saying = said.filter(([, properties]) => says(properties, field));
    const stands = saying[0] ? inWords(saying[0][1], field) : '';
    const ours =
      plan.how === 'record only' || asked.some((one) => one.field === field) ? stands : inWords(plan.properties, field);
    if (stands === '' && ours === '') return [];
    const isSame = ours === '' || stands === ours || holdsAll(saying[0]?.[1], plan.properties, field);
    return [{ field, name: standardOf(field).name, stands, where: saying.map(([where]) => where), will: isSame ? null : ours }];
  });
}

/** Has a list everything that the house says? Words and people add up. */
function holdsAll(stands: Properties | undefined, ours: Properties, field: (typeof FIELDS)[number]): boolean {
  const [has, wanted] = [stands?.[field], ours[field]];
  return Array.isArray(has) && Array.isArray(wanted) && (wanted as string[]).every((one) => (has as string[]).includes(one));
}

/** What a filed file said when it came: without what was put into it since; null where that cannot be told. */
async function cameWith(copy: CopyStands | undefined, path: string | undefined): Promise<Properties | null> {
  if (copy?.how !== 'inside' || path === undefined) return null;
  try {
    return propertiesInJpeg(applyTo(await headOf(path), editOf(copy.undo ?? [])));
  } catch (error) {
    // Its place is away, or somebody else changed the file: what it came with is not said.
    if (error instanceof RangeError || ['ENOENT', 'EIO', 'ENODEV', 'ENOTCONN', 'ESTALE', 'EACCES'].includes(codeOf(error)))
      return null;
    throw error;
  }
}

/** Questions that are open, and those that a person answered. */
function questionsOf(plan: Planned, asked: readonly Question[], came: Properties | null): WrittenView['questions'] {
  const open = new Map(asked.map((one) => [one.field, one]));
  for (const field of FIELDS) {
    const standing = plan.standing[field];
    if (!standing || open.has(field)) continue;
    open.set(field, { field, theirs: came ? inWords(came, field) : '', ours: inWords(plan.properties, field) });
  }
  return [...open.values()].map((one) => ({
    ...one,
    name: standardOf(one.field).name,
    standing: plan.standing[one.field] ?? null,
  }));
}

/** A copy of an item that tallies and is here, and how what is inside it comes out. @throws Refusal when there is none. */
export async function originalCopy(
  house: House,
  itemId: number,
): Promise<{ path: string; name: string; bytes: number; undo: Edit }> {
  const copies = await copiesOfItem(house.db, itemId);
  const places = await listPlaces(house);
  for (const copy of copies) {
    const root = places.find(({ id }) => id === copy.placeId)?.root;
    if (!root) continue;
    const path = join(root, copy.folder, copy.name);
    const undo = copy.how === 'inside' ? editOf(copy.undo ?? []) : [];
    try {
      await sizeOf(path);
      return { path, name: copy.name, bytes: copy.cardBytes, undo };
    } catch (error) {
      if (codeOf(error) !== 'ENOENT') throw error;
    }
  }
  throw new Refusal('not possible now', copies.length ? 'No place that has a copy of it is here.' : 'It is not filed.');
}
