import type { WallClock } from '../capture/index.js';
import { extensionOf, stemOf, type Kind } from '../card/index.js';

/** What a rule can speak of, for one item. Null means the slip or the file does not say. */
export interface RuleContext {
  readonly captured: WallClock;
  readonly received: WallClock;
  readonly contributor: { readonly code: string; readonly name: string } | null;
  readonly assignment: { readonly slug: string; readonly title: string } | null;
  readonly cardLabel: string;
  readonly camera: { readonly make: string | null; readonly model: string | null };
  readonly kind: Kind;
  /** The name on the card, with its extension. */
  readonly original: string;
  /** Number in the sequence, from 1; null where the rule has none. */
  readonly n: number | null;
}

/** One item as an example: the same wherever a rule is shown or tried without a card. */
export const EXAMPLE: RuleContext = {
  captured: '2026-04-18T09:12:31',
  received: '2026-04-21T17:42:00',
  contributor: { code: 'IB', name: 'Ines Barrow' },
  assignment: { slug: 'reed-planting', title: 'Reed planting day' },
  cardLabel: 'C-014',
  camera: { make: 'Halden', model: 'M4' },
  kind: 'photo',
  original: 'HM4_0417.JPG',
  n: 1,
};

export type FieldType = 'date' | 'number' | 'text';

interface FieldEntry {
  readonly name: string;
  readonly type: FieldType;
  readonly example: string;
  readonly explanation: string;
  readonly value: (context: RuleContext) => string | number | null;
}

const entry = <const E extends FieldEntry>(field: E): E => field;

/** The one table of fields. A new field is one new entry here. */
export const FIELDS = [
  entry({
    name: 'captured',
    type: 'date',
    example: '2026-04-18',
    explanation: 'local capture time, corrected',
    value: (c) => c.captured,
  }),
  entry({
    name: 'received',
    type: 'date',
    example: '2026-04-21',
    explanation: 'when the card was handed in',
    value: (c) => c.received,
  }),
  entry({
    name: 'contributor.code',
    type: 'text',
    example: 'IB',
    explanation: 'short code of who took it',
    value: (c) => c.contributor?.code ?? null,
  }),
  entry({
    name: 'contributor.name',
    type: 'text',
    example: 'Ines Barrow',
    explanation: 'name of who took it',
    value: (c) => c.contributor?.name ?? null,
  }),
  entry({
    name: 'assignment.slug',
    type: 'text',
    example: 'reed-planting',
    explanation: 'short name of the assignment',
    value: (c) => c.assignment?.slug ?? null,
  }),
  entry({
    name: 'assignment.title',
    type: 'text',
    example: 'Reed planting day',
    explanation: 'title of the assignment',
    value: (c) => c.assignment?.title ?? null,
  }),
  entry({
    name: 'card.label',
    type: 'text',
    example: 'C-014',
    explanation: 'tape label of the card',
    value: (c) => c.cardLabel || null,
  }),
  entry({
    name: 'camera.make',
    type: 'text',
    example: 'Halden',
    explanation: 'maker of the camera',
    value: (c) => c.camera.make,
  }),
  entry({
    name: 'camera.model',
    type: 'text',
    example: 'M4',
    explanation: 'model of the camera',
    value: (c) => c.camera.model,
  }),
  entry({ name: 'kind', type: 'text', example: 'photo', explanation: 'kind of the item', value: (c) => c.kind }),
  entry({
    name: 'original',
    type: 'text',
    example: 'HM4_0417',
    explanation: 'name on the card',
    value: (c) => stemOf(c.original),
  }),
  entry({ name: 'n', type: 'number', example: '0001', explanation: 'number in the sequence', value: (c) => c.n }),
  entry({ name: 'ext', type: 'text', example: 'jpg', explanation: 'extension', value: (c) => extensionOf(c.original) || null }),
] as const;

export type FieldName = (typeof FIELDS)[number]['name'];

const BY_NAME: ReadonlyMap<string, FieldEntry & { name: FieldName }> = new Map(FIELDS.map((field) => [field.name, field]));

export function fieldNamed(name: string): (FieldEntry & { name: FieldName }) | undefined {
  return BY_NAME.get(name);
}
