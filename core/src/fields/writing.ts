import { extensionOf, type Kind } from '../card/index.js';

/** Where credit is written: in the file, in a sidecar beside it, or in the records of the house only. */
export const WRITINGS = ['inside', 'beside', 'record only'] as const;
export type WritingOf = (typeof WRITINGS)[number];

/** The kinds that carry credit at all. */
export const CREDITED_KINDS = ['photo', 'raw', 'video', 'sound'] as const satisfies readonly Kind[];
export type CreditedKind = (typeof CREDITED_KINDS)[number];

/** What the house says, by kind. */
export type Writing = Readonly<Partial<Record<CreditedKind, WritingOf>>>;

/** Only a JPEG can carry it so that it comes out again; everything else has it beside. */
export const WRITING_BY_ITSELF: Readonly<Record<CreditedKind, WritingOf>> = {
  ...{ photo: 'inside', raw: 'beside', video: 'beside', sound: 'beside' },
};

const JPEG = ['jpg', 'jpeg', 'jpe'];
/** Parts of an object that say nothing of their own. */
const SILENT = ['sidecar', 'proxy', 'thumbnail', 'index'];

export interface Writable {
  readonly kind: Kind;
  readonly name: string;
  readonly role: string | null;
  /** Is it kept as it was on the card? Then nothing is put into it or beside it. */
  readonly keptWhole: boolean;
}

/** Where the credit of an item goes, by its name; whether a JPEG can carry it is seen in its bytes. */
export function writingOf({ kind, name, role, keptWhole }: Writable, house: Writing): WritingOf {
  const credited = CREDITED_KINDS.find((one) => one === kind);
  if (!credited || keptWhole || (role !== null && SILENT.includes(role))) return 'record only';
  const said = house[credited] ?? WRITING_BY_ITSELF[credited];
  const isJpeg = credited === 'photo' && JPEG.includes(extensionOf(name));
  return said === 'inside' && !isJpeg ? 'beside' : said;
}
