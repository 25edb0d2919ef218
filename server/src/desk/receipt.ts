import { createHash } from 'node:crypto';
import { receiptFacts, spread, type ReceiptItem } from '@tally/core/logbook';
import type { NotchShape } from '@tally/core/copies';
import { reasonLeft } from '@tally/core/plan';
import sharp from 'sharp';
import type { Previews } from '../media/previews.js';
import { squareCode } from '../paper/code.js';
import type { Paper } from '../paper/print.js';
import { receiptPdf, type ReceiptPaper } from '../paper/receipt.js';
import { itemsOf } from '../store/items.js';
import { proofsOf } from '../store/filed.js';
import { houseTime, type House } from './house.js';
import { pictureSource } from './items.js';
import { placesNow } from './places.js';
import { theIntake } from './slip.js';

const PICTURES = 12;
const PICTURE_PX = 240;

/** The receipt of an intake as it stands now. @param base where the interface is reached, for the code. */
export async function receiptOf(house: House, previews: Previews, intakeId: number, paper: Paper, base: string): Promise<Buffer> {
  const intake = await theIntake(house, intakeId);
  const [items, proofs, places] = await Promise.all([
    itemsOf(house.db, intakeId),
    proofsOf(house.db, intakeId),
    placesNow(house.db),
  ]);
  const rows: ReceiptItem[] = items
    .filter(({ setAside }) => setAside === null)
    .map((item) => {
      const filed = proofs.get(item.id);
      return {
        ...{ id: item.id, path: item.path, kind: item.kind, bytes: item.bytes, filedAs: item.filedAs },
        captured: item.captured.local,
        left:
          item.filedAs === null
            ? (reasonLeft({ ...item, alreadyFiled: item.alreadyFiled?.path ?? null }) ?? 'not filed yet')
            : null,
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
  const receipt: ReceiptPaper = {
    ...{ house: house.settings.house, intake: intake.number, state: intake.state, zone: house.settings.zone },
    card: [intake.card.label, intake.card.volume].filter(Boolean).join(', '),
    contributor: intake.contributor ? `${intake.contributor.name} (${intake.contributor.code})` : '',
    assignment: intake.assignment ? `${intake.assignment.title} (${intake.assignment.slug})` : '',
    received: `${time(intake.receivedAt)} by ${intake.receivedBy} at ${intake.station}`,
    filedAt: filedAt && time(filedAt),
    clearedAt: intake.clearedAt === null ? null : time(new Date(intake.clearedAt)),
    printedAt: time(house.clock()),
    ...{ facts, address, notes: intake.note === null ? [] : [intake.note] },
    listHash: createHash('sha256').update(list.join('')).digest('hex'),
    stick: intake.stick.map((run) => ({
      ...{ count: run.count, card: run.card as NotchShape },
      copies: held.map(({ id }) => run.copies[rowOf.get(id)!] as NotchShape),
    })),
    pictures: await contactSheet(house, previews, rows),
    code: await squareCode(address),
  };
  return receiptPdf(receipt, paper);
}

/** A few pictures of what was filed, grey: most printers of desks are. What shows no picture is left out. */
async function contactSheet(house: House, previews: Previews, rows: readonly ReceiptItem[]): Promise<ReceiptPaper['pictures']> {
  const seen = rows.filter(({ kind, filedAs }) => filedAs !== null && (kind === 'photo' || kind === 'video' || kind === 'raw'));
  const pictures: { data: string; name: string }[] = [];
  for (const { id, filedAs } of spread(seen, PICTURES)) {
    const source = await pictureSource(house, id);
    const picture = await previews.made(source, 'sheet', { priority: 1, signal: new AbortController().signal }).catch(() => null);
    if (!picture) continue;
    const grey = await sharp(picture)
      .resize(PICTURE_PX, PICTURE_PX, { fit: 'inside' })
      .greyscale()
      .jpeg({ quality: 72 })
      .toBuffer();
    const name = filedAs!.slice(filedAs!.lastIndexOf('/') + 1);
    pictures.push({ data: `data:image/jpeg;base64,${grey.toString('base64')}`, name });
  }
  return pictures;
}
