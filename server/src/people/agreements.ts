import type { AgreementSaid } from '@tally/contract';
import { changesInWords } from '@tally/core/logbook';
import type { z } from 'zod';
import { inTransaction } from '../db/database.js';
import { type House, record, Refusal, tell } from '../house/index.js';
import { deleteAgreement, holdAgreement, insertAgreement, scanOf, updateAgreement } from './store/agreements.js';
import { nameOf } from './store/people.js';

type Said = z.infer<typeof AgreementSaid>;

const none = () => new Refusal('not found', 'There is no such agreement.');

export async function addAgreement(house: House, contributorId: number, said: Said, who: string): Promise<number> {
  return inTransaction(house.db, async (tx) => {
    const name = await nameOf(tx, 'contributor', contributorId);
    if (name === null) throw new Refusal('not found', 'There is no such contributor.');
    const id = await insertAgreement(tx, contributorId, said);
    const text = `Agreement with ${name}: ${said.what}${said.until ? `, until ${said.until}` : ''}.`;
    await record(tx, { at: house.clock(), kind: 'agreement', intakeId: null, who, text, data: { id, contributorId, said } });
    await tell(tx, { type: 'people' });
    return id;
  });
}

/** Corrects an agreement, or (null) takes it out of the list; the log keeps what it was. */
export async function changeAgreement(house: House, id: number, said: Said | null, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const before = await holdAgreement(tx, id);
    if (!before) throw none();
    if (said) await updateAgreement(tx, id, said);
    else await deleteAgreement(tx, id);
    const changes = said ? changesInWords(before, said, { what: 'what', signedOn: 'signed', until: 'last day' }) : ['taken out'];
    const text = `Agreement with ${await nameOf(tx, 'contributor', before.contributorId)}, ${before.what}: ${changes.join('; ')}.`;
    await record(tx, { at: house.clock(), kind: 'agreement', intakeId: null, who, text, data: { id, before, said } });
    await tell(tx, { type: 'people' });
  });
}

/** What a scan may be, by its first bytes (ISO 32000-1, ITU-T T.81, PNG third edition); what it claims to be does not count. */
const KINDS_OF_SCAN = [
  { type: 'application/pdf', begins: Buffer.from('%PDF-') },
  { type: 'image/jpeg', begins: Buffer.from([0xff, 0xd8, 0xff]) },
  { type: 'image/png', begins: Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]) },
];

/** Keeps a scan of the paper with an agreement. */
export async function keepScan(house: House, id: number, scan: Buffer, who: string): Promise<void> {
  const kind = KINDS_OF_SCAN.find(({ begins }) => scan.subarray(0, begins.length).equals(begins));
  if (!kind) throw new Refusal('conflict', 'A scan is a PDF, a JPEG or a PNG: this is none of them.');
  await inTransaction(house.db, async (tx) => {
    const before = await holdAgreement(tx, id);
    if (!before) throw none();
    await updateAgreement(tx, id, { scan, scanType: kind.type });
    const text = `Scan of the agreement with ${await nameOf(tx, 'contributor', before.contributorId)}, ${before.what}: ${scan.length} bytes.`;
    await record(tx, { at: house.clock(), kind: 'agreement', intakeId: null, who, text });
    await tell(tx, { type: 'people' });
  });
}

export async function readScan(house: House, id: number): Promise<{ type: string; scan: Buffer }> {
  const found = await scanOf(house.db, id);
  if (!found?.scan || found.scanType === null) throw new Refusal('not found', 'No scan is kept with this agreement.');
  return { type: found.scanType, scan: found.scan };
}
