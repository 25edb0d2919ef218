import { type KeptReceipt, ReceiptName } from '@tally/contract';
import { createHash } from 'node:crypto';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { receiptFacts, type ReceiptItem, spread } from '@tally/core/logbook';
import type { NotchShape } from '@tally/core/copies';
import { keep, readKept } from '../media/kept.js';
import { squareCode } from '../paper/code.js';
import type { Paper } from '../paper/print.js';
import { type ReceiptPaper, receiptPdf } from '../paper/receipt.js';
import { recordedCredit, whyLeft } from '../slip/index.js';
import { termsStanding } from '@tally/core/credit';
import { type House, houseTime, type IntakeRow, record, Refusal, theIntake } from '../house/index.js';
import { type ItemRow, itemsOf, pictureSource } from '../seeing/index.js';
import { proofsOf } from '../filing/index.js';
import { placesStanding } from '../driving/index.js';
import { receiptsTold } from './store.js';

const PICTURES = 12;
const PICTURE_PX = 240;

/** What a receipt says, before its pictures are looked up. */
type Said = Omit<ReceiptPaper, 'pictures' | 'code'>;

/**
 * The receipt of an intake as it stands now. Each that says something new is kept with the intake, and logged; asked for
 * again while nothing changed, the very same file is given. @param base where the interface is reached, for the code.
 */
export async function receiptOf(house: House, intakeId: number, paper: Paper, base: string, who: string): Promise<Buffer> {
  const { said, rows } = await receiptNow(house, intakeId, base);
  const { printedAt, ...lasting } = said;
  const digest = createHash('sha256')
    .update(JSON.stringify([lasting, paper]))
    .digest('hex')
    .slice(0, 16);
  const before = (await keptReceipts(house, intakeId)).find(({ name }) => name.endsWith(`_${digest}.pdf`));
  const known = before && (await keptReceipt(house, intakeId, before.name).catch(() => null));
  if (known) return known;
  const pictures = await contactSheet(house, rows);
  const pdf = await receiptPdf({ ...said, pictures, code: await squareCode(said.address) }, paper);
  const name = `${printedAt.replace(' ', 'T').replace(':', '')}_${paper}_${digest}.pdf`;
  const { uid } = await theIntake(house, intakeId);
  await keep(join(receiptsFolder(house, uid), name), pdf);
  await record(house.db, { at: house.clock(), kind: 'receipt', intakeId, who, text: `Receipt made (${paper}).`, data: { name } });
  return pdf;
}

/** @param of an intake's id that nobody else draws; until these were there, its id in the database */
const receiptsFolder = (house: House, of: string) => join(house.settings.dataDir, 'receipts', of);

/** Receipts that were made of an intake, oldest first. */
export async function keptReceipts(house: House, intakeId: number): Promise<KeptReceipt[]> {
  const { uid } = await theIntake(house, intakeId);
  const own = await namesIn(receiptsFolder(house, uid));
  const older = await namesIn(receiptsFolder(house, String(intakeId)));
  // A former database gave the same id to another intake: its receipts are not in this one's log.
  const told = older.length ? new Set(await receiptsTold(house.db, intakeId)) : null;
  const names = new Set([...own, ...older.filter((name) => told?.has(name))]);
  return [...names].sort().flatMap((name) => {
    const [at, paper] = name.split('_');
    return ReceiptName.safeParse(name).success ? [{ name, at: `${at!.slice(0, 13)}:${at!.slice(13)}`, paper: paper! }] : [];
  });
}

/** One of them. @throws Refusal when there is none of that name. */
export async function keptReceipt(house: House, intakeId: number, name: string): Promise<Buffer> {
  const isKept = (await keptReceipts(house, intakeId)).some((one) => one.name === name);
  const { uid } = await theIntake(house, intakeId);
  const pdf = isKept
    ? ((await readKept(join(receiptsFolder(house, uid), name))) ??
      (await readKept(join(receiptsFolder(house, String(intakeId)), name))))
    : null;
  if (!pdf) throw new Refusal('not found', 'There is no such receipt.');
  return pdf;
}

const namesIn = (folder: string): Promise<string[]> => readdir(folder).catch(() => []);

async function receiptNow(house: House, intakeId: number, base: string): Promise<{ said: Said; rows: readonly ReceiptItem[] }> {
  const intake = await theIntake(house, intakeId);
  const [items, proofs, places, creditOf] = await Promise.all([
    itemsOf(house.db, intakeId),
    proofsOf(house.db, intakeId),
    placesStanding(house),
    recordedCredit(house, intakeId),
  ]);
  const today = houseTime(house, house.clock()).slice(0, 10);
  const rows: ReceiptItem[] = items
    .filter(({ setAside }) => setAside === null)
    .map((item) => {
      const filed = proofs.get(item.id);
      const credit = creditOf(item.id);
      return {
        ...{ id: item.id, path: item.path, kind: item.kind, bytes: item.bytes, filedAs: item.filedAs },
        captured: item.captured.local,
        left: item.filedAs === null ? whyNotFiled(item) : null,
        terms: termsStanding(credit?.terms ?? null, today, credit?.embargoUntil ?? null).words,
        unshown: credit?.personShown.some(({ consent }) => consent === 'no') ?? false,
        copies: filed?.copies ?? [],
      };
    });
  const held = places.filter(({ id }) => rows.some(({ copies }) => copies.some(({ place }) => place === id)));
  const facts = receiptFacts(
    rows,
    held.map(({ id, name, kind, standing }) => ({ id, name, kind, device: standing.online ? standing.device : null })),
  );
  const list = [...proofs.values()].map(({ path, hash }) => `${hash ?? '-'}  ${path}\n`).sort();
  const filedAt = [...proofs.values()].reduce<Date | null>(
    (last, { filedAt: at }) => (at && (!last || at > last) ? at : last),
    null,
  );
  const time = (at: Date) => houseTime(house, at).slice(0, 16).replace('T', ' ');
  const rowOf = new Map(places.map(({ id }, index) => [id, index]));
  const address = `${base}/logbook/${intakeId}`;
  const said: Said = {
    ...{ house: house.settings.house, intake: intake.number, state: intake.state, zone: house.settings.zone },
    card: [intake.card.label, intake.card.volume].filter(Boolean).join(', '),
    contributor: everybody(intake).join('; '),
    assignment: everyAssignment(intake).join('; '),
    received: `${time(intake.receivedAt)} ${receivedWords(intake)}`,
    filedAt: filedAt && time(filedAt),
    clearedAt: intake.clearedAt === null ? null : time(new Date(intake.clearedAt)),
    printedAt: time(house.clock()),
    ...{ facts, address, notes: intake.note === null ? [] : [intake.note] },
    listHash: createHash('sha256').update(list.join('')).digest('hex'),
    stick: intake.stick.map((run) => ({
      ...{ count: run.count, card: run.card as NotchShape },
      copies: held.map(({ id }) => run.copies[rowOf.get(id)!] as NotchShape),
    })),
  };
  return { said, rows };
}

/** What nobody received by hand was received by the station itself: that is not said twice. */
const receivedWords = ({ receivedBy, station }: IntakeRow): string =>
  receivedBy === station ? `at ${station}` : `by ${receivedBy} at ${station}`;

/** Why an item was not filed, and what became of it since. */
function whyNotFiled(item: ItemRow): string {
  const why = whyLeft(item) ?? 'not filed yet';
  return item.goneAt === null ? why : `${why}, and gone with the clearing`;
}

/** Whose an intake is: everybody whose items are in it, the most first. */
const everybody = ({ parts, contributor }: IntakeRow): string[] => [
  ...new Set((parts.length ? parts : [{ contributor }]).flatMap(({ contributor: by }) => (by ? `${by.name} (${by.code})` : []))),
];

const everyAssignment = ({ parts, assignment }: IntakeRow): string[] => [
  ...new Set(
    (parts.length ? parts : [{ assignment }]).flatMap(({ assignment: one }) => (one ? `${one.title} (${one.slug})` : [])),
  ),
];

/** A few pictures of what was filed, grey: most printers of desks are. What shows no picture is left out. */
async function contactSheet(house: House, rows: readonly ReceiptItem[]): Promise<ReceiptPaper['pictures']> {
  const seen = rows.filter(({ kind, filedAs }) => filedAs !== null && (kind === 'photo' || kind === 'video' || kind === 'raw'));
  const pictures: { data: string; name: string }[] = [];
  for (const { id, filedAs } of spread(seen, PICTURES)) {
    const source = await pictureSource(house, id);
    const picture = await house.previews
      .made(source, 'sheet', { priority: 1, signal: new AbortController().signal })
      .catch(() => null);
    if (!picture) continue;
    const grey = await house.previews.forPaper(picture, PICTURE_PX);
    if (!grey) continue;
    const name = filedAs!.slice(filedAs!.lastIndexOf('/') + 1);
    pictures.push({ data: `data:image/jpeg;base64,${grey.toString('base64')}`, name });
  }
  return pictures;
}
