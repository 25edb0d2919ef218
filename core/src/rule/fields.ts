import type { WallClock } from '../capture/index.js';
import { extensionOf, stemOf, type Kind } from '../card/index.js';
import { own } from '../lookup/index.js';
import { CODES, DIGITS, FREE, SLUGS, sortsIn, type Letters } from './letters.js';
import { seasonOf } from './season.js';
import type { RuleSettings } from './settings.js';

/** What a rule can speak of, for one item. Null means that nobody and nothing says. */
export interface RuleContext {
  readonly captured: WallClock;
  readonly received: WallClock;
  /** When it is filed: now. */
  readonly filed: WallClock;
  readonly contributor: { readonly code: string; readonly name: string } | null;
  readonly assignment: {
    readonly slug: string;
    readonly title: string;
    readonly code?: string | null;
    /** First day, `yyyy-MM-dd`. */
    readonly from?: string | null;
    /** Last day. */
    readonly to?: string | null;
    readonly place?: string | null;
  } | null;
  readonly cardLabel: string;
  readonly camera: { readonly make: string | null; readonly model: string | null };
  readonly kind: Kind;
  /** The name on the card, with its extension. */
  readonly original: string;
  /** The same with its folders, from the root of the card; absent where nobody says. */
  readonly cardPath?: string | null;
  /** Number of the intake, `2026-0412`; null before there is one. */
  readonly intake: string | null;
  readonly description: string | null;
  /** What footage is for: main or supporting. */
  readonly role: string | null;
  /** Flat colour profile that footage was shot with. */
  readonly profile: string | null;
  /** Number in the sequence; null where the rule has none. */
  readonly n: number | null;
}

/** One item as an example: the same wherever a rule is shown or tried without a card. */
export const EXAMPLE: RuleContext = {
  captured: '2026-04-18T09:12:31',
  received: '2026-04-21T17:42:00',
  filed: '2026-04-21T17:58:00',
  contributor: { code: 'IB', name: 'Ines Barrow' },
  assignment: { slug: 'reed-planting', title: 'Reed planting day', from: '2026-04-18', place: 'North Creek' },
  cardLabel: 'C-014',
  camera: { make: 'Halden', model: 'M4' },
  kind: 'photo',
  original: 'HM4_0417.JPG',
  cardPath: 'DCIM/104HALDN/HM4_0417.JPG',
  intake: '2026-0412',
  description: null,
  role: null,
  profile: null,
  n: 1,
};

export type FieldType = 'date' | 'number' | 'text';

interface FieldEntry {
  readonly name: string;
  readonly type: FieldType;
  readonly example: string;
  readonly explanation: string;
  readonly value: (context: RuleContext, settings: RuleSettings) => string | number | null;
  /** What a written value can consist of: how it is told apart when a name is read back. */
  readonly letters: Letters | ((settings: RuleSettings) => Letters);
  /** Every item has it: the slip must say it before anything is filed, or it follows from the file. */
  readonly always?: boolean;
  /** The item as it would be with this value; absent where the value follows from others. */
  readonly put?: (context: RuleContext, text: string) => RuleContext;
}

const entry = <const E extends FieldEntry>(field: E): E => field;
const NOBODY = { code: 'NN', name: 'Nobody' };
const NOTHING = { slug: 'nothing', title: 'Nothing' };

const wordsIn = (name: string) => name.split(/\s+/).filter(Boolean);
/** Values never make folders: a card's own are joined. */
const joined = (path: string | undefined) => (path ? path.split('/').join('-') : null);
const trailingNumber = (original: string) => /(\d{1,12})\D*$/.exec(stemOf(original))?.[1] ?? null;

/** The house's short name of a camera, else its model. */
function cameraName({ camera: { make, model } }: RuleContext, { cameraNames }: RuleSettings): string | null {
  return own(cameraNames, `${make ?? ''} ${model ?? ''}`.trim()) ?? (model === null ? null : (own(cameraNames, model) ?? model));
}

const date = <const N extends string>(
  name: N,
  example: string,
  explanation: string,
  value: (context: RuleContext) => string | null,
) => entry({ name, type: 'date', example, explanation, value, letters: FREE, always: true });

/** The one table of fields. A new field is one new entry here. */
export const FIELDS = [
  date('captured', '2026-04-18', 'local capture time, corrected', (c) => c.captured),
  date('received', '2026-04-21', 'when the card was handed in', (c) => c.received),
  date('filed', '2026-04-21', 'when it is filed: the day of copying', (c) => c.filed),
  entry({
    name: 'season',
    always: true,
    type: 'text',
    example: '2025-2026',
    explanation: 'academic, fiscal or survey year of the capture time',
    value: (c, { season }) => seasonOf(c.captured, season),
    letters: ({ season }) => {
      const { length } = seasonOf('2026-04-18', season);
      return { set: sortsIn(seasonOf('2026-04-18', season)), min: length, max: length, length };
    },
  }),
  entry({
    name: 'quarter',
    always: true,
    type: 'text',
    example: 'Q2',
    explanation: 'quarter of the capture time',
    value: (c) => `Q${Math.ceil(Number(c.captured.slice(5, 7)) / 3)}`,
    letters: { ...CODES, length: 2 },
  }),
  entry({
    name: 'contributor.code',
    always: true,
    type: 'text',
    example: 'IB',
    explanation: 'short code of who took it',
    value: (c) => c.contributor?.code ?? null,
    letters: CODES,
    put: (c, code) => ({ ...c, contributor: { ...(c.contributor ?? NOBODY), code } }),
  }),
  entry({
    name: 'contributor.name',
    always: true,
    type: 'text',
    example: 'Ines Barrow',
    explanation: 'name of who took it',
    value: (c) => c.contributor?.name ?? null,
    letters: FREE,
    put: (c, name) => ({ ...c, contributor: { ...(c.contributor ?? NOBODY), name } }),
  }),
  entry({
    name: 'contributor.given',
    type: 'text',
    example: 'Ines',
    explanation: 'given names',
    value: (c) => (c.contributor ? wordsIn(c.contributor.name).slice(0, -1).join(' ') || null : null),
    letters: FREE,
  }),
  entry({
    name: 'contributor.surname',
    always: true,
    type: 'text',
    example: 'Barrow',
    explanation: 'last word of the name',
    value: (c) => (c.contributor ? (wordsIn(c.contributor.name).at(-1) ?? null) : null),
    letters: FREE,
    put: (c, name) => ({ ...c, contributor: { ...(c.contributor ?? NOBODY), name } }),
  }),
  entry({
    name: 'contributor.initials',
    always: true,
    type: 'text',
    example: 'IB',
    explanation: 'first letter of each name (several people may share them)',
    value: (c) =>
      wordsIn(c.contributor?.name ?? '')
        .map((word) => String.fromCodePoint(word.codePointAt(0)!).toUpperCase())
        .join('') || null,
    letters: FREE,
  }),
  entry({
    name: 'assignment.slug',
    always: true,
    type: 'text',
    example: 'reed-planting',
    explanation: 'short name of the assignment',
    value: (c) => c.assignment?.slug ?? null,
    letters: SLUGS,
    put: (c, slug) => ({ ...c, assignment: { ...(c.assignment ?? NOTHING), slug } }),
  }),
  entry({
    name: 'assignment.title',
    always: true,
    type: 'text',
    example: 'Reed planting day',
    explanation: 'title of the assignment',
    value: (c) => c.assignment?.title ?? null,
    letters: FREE,
    put: (c, title) => ({ ...c, assignment: { ...(c.assignment ?? NOTHING), title } }),
  }),
  entry({
    name: 'assignment.code',
    type: 'text',
    example: 'T26-04',
    explanation: "the house's own number or letters for the assignment",
    value: (c) => c.assignment?.code ?? null,
    letters: FREE,
    put: (c, code) => ({ ...c, assignment: { ...(c.assignment ?? NOTHING), code } }),
  }),
  date('assignment.start', '2026-04-18', 'first day of the assignment', (c) =>
    c.assignment?.from ? `${c.assignment.from}T00:00:00` : null,
  ),
  entry({
    name: 'assignment.place',
    type: 'text',
    example: 'North Creek',
    explanation: 'where the assignment was',
    value: (c) => c.assignment?.place ?? null,
    letters: FREE,
    put: (c, place) => ({ ...c, assignment: { ...(c.assignment ?? NOTHING), place } }),
  }),
  entry({
    name: 'card.label',
    type: 'text',
    example: 'C-014',
    explanation: 'tape label of the card',
    value: (c) => c.cardLabel || null,
    letters: FREE,
    put: (c, cardLabel) => ({ ...c, cardLabel }),
  }),
  entry({
    name: 'card.folder',
    type: 'text',
    example: 'DCIM-104HALDN',
    explanation: 'its folders on the card, joined by hyphens',
    value: (c) => joined(c.cardPath?.slice(0, Math.max(0, c.cardPath.lastIndexOf('/')))),
    letters: FREE,
    put: (c, folder) => ({ ...c, cardPath: `${folder}/${c.original}` }),
  }),
  entry({
    name: 'card.path',
    type: 'text',
    example: 'DCIM-104HALDN-HM4_0417',
    explanation: 'its whole path on the card, joined by hyphens, without extension',
    value: (c) => joined(c.cardPath?.slice(0, c.cardPath.length - extensionOf(c.original).length).replace(/\.$/, '')),
    letters: FREE,
    put: (c, path) => ({ ...c, cardPath: `${path}.${extensionOf(c.original) || 'jpg'}` }),
  }),
  entry({
    name: 'camera',
    type: 'text',
    example: 'M4',
    explanation: "the house's short name for the camera, else its model",
    value: cameraName,
    letters: FREE,
    put: (c, model) => ({ ...c, camera: { ...c.camera, model } }),
  }),
  entry({
    name: 'camera.make',
    type: 'text',
    example: 'Halden',
    explanation: 'maker of the camera',
    value: (c) => c.camera.make,
    letters: FREE,
    put: (c, make) => ({ ...c, camera: { ...c.camera, make } }),
  }),
  entry({
    name: 'camera.model',
    type: 'text',
    example: 'M4',
    explanation: 'model of the camera',
    value: (c) => c.camera.model,
    letters: FREE,
    put: (c, model) => ({ ...c, camera: { ...c.camera, model } }),
  }),
  entry({
    name: 'kind',
    always: true,
    type: 'text',
    example: 'Stills',
    explanation: "the house's word for the kind of item",
    value: (c, { kindWords }) => kindWords[c.kind],
    letters: FREE,
  }),
  entry({
    name: 'original',
    always: true,
    type: 'text',
    example: 'HM4_0417',
    explanation: 'name on the card, without extension',
    value: (c) => stemOf(c.original),
    letters: FREE,
    put: (c, stem) => ({ ...c, original: `${stem}.${extensionOf(c.original) || 'jpg'}` }),
  }),
  entry({
    name: 'original.number',
    type: 'text',
    example: '0417',
    explanation: "the camera's own number: the last digits of the name on the card",
    value: (c) => trailingNumber(c.original),
    letters: DIGITS,
    put: (c, digits) => ({ ...c, original: `HM4_${digits}.${extensionOf(c.original) || 'jpg'}` }),
  }),
  entry({
    name: 'intake',
    type: 'text',
    example: '2026-0412',
    explanation: 'number of the intake',
    value: (c) => c.intake,
    letters: { ...DIGITS, set: DIGITS.set | SLUGS.set, min: 9 },
  }),
  entry({
    name: 'description',
    type: 'text',
    example: 'Egret at dawn',
    explanation: 'what somebody wrote about this item',
    value: (c) => c.description,
    letters: FREE,
    put: (c, description) => ({ ...c, description }),
  }),
  entry({
    name: 'footage.role',
    type: 'text',
    example: 'main',
    explanation: 'what footage is for: main or supporting',
    value: (c) => c.role,
    letters: FREE,
  }),
  entry({
    name: 'footage.profile',
    type: 'text',
    example: 'flat-2',
    explanation: 'flat colour profile that footage was shot with',
    value: (c) => c.profile,
    letters: FREE,
    put: (c, profile) => ({ ...c, profile }),
  }),
  entry({
    name: 'n',
    always: true,
    type: 'number',
    example: '0001',
    explanation: 'number in the sequence',
    value: (c) => c.n,
    letters: DIGITS,
  }),
  entry({
    name: 'ext',
    type: 'text',
    example: 'jpg',
    explanation: 'extension (it is added to every name by itself)',
    value: (c) => extensionOf(c.original) || null,
    letters: FREE,
  }),
] as const;

export type FieldName = (typeof FIELDS)[number]['name'];
export type Field = FieldEntry & { readonly name: FieldName };

const BY_NAME: ReadonlyMap<string, Field> = new Map(FIELDS.map((field) => [field.name, field]));

export function fieldNamed(name: string): Field | undefined {
  return BY_NAME.get(name);
}
