import { MIDNIGHT } from '../capture/index.js';
import { DEFAULT_KEEPING, KINDS, type Keeping, type Kind } from '../card/index.js';

/** What a sequence counts within: each scope has a counter of its own. */
export const SEQUENCE_SCOPES = [
  'folder',
  'day',
  'assignment',
  'intake',
  'contributor and day',
  'camera and day',
  'same name',
  'never ends',
] as const;
export type SequenceScope = (typeof SEQUENCE_SCOPES)[number];

export const ASSIGNMENT_DAYS = ['each day', 'first day'] as const;
export const SPACES = ['keep', 'hyphen', 'underscore', 'drop'] as const;
export const CASES = ['keep', 'lower', 'upper'] as const;

/** How a house writes names, whatever its lines say. Part of each revision. */
export interface RuleSettings {
  /**
   * The academic, fiscal or survey year. `startMonth` 1–12. The label is a pattern of years: `yyyy` or `yy` is the year
   * in which the season begins, `YYYY` or `YY` the year in which it ends, text stands in quotation marks.
   */
  readonly season: { readonly startMonth: number; readonly label: string };
  readonly kindWords: Readonly<Record<Kind, string>>;
  /** Model, or make and model, as the camera writes it → the house's short name. */
  readonly cameraNames: Readonly<Record<string, string>>;
  readonly letters: {
    readonly spaces: (typeof SPACES)[number];
    readonly case: (typeof CASES)[number];
    /** Write everything in ASCII: `Ærø` → `AEro`. */
    readonly ascii: boolean;
  };
  readonly sequence: { readonly scope: SequenceScope; readonly start: number };
  /** BCP 47 tag of the language of month and day names: one of `LANGUAGES`. */
  readonly language: string;
  /** Stands for what a field outside an optional part cannot say. */
  readonly missing: string;
  /** What a day is, for folders and counters: when it begins (`HH:mm`), and whether an assignment of several is one. */
  readonly day: { readonly begins: string; readonly assignment: (typeof ASSIGNMENT_DAYS)[number] };
  /** What is filed as on the card: folders and names as the camera wrote them. */
  readonly asOnCard: AsOnCard;
}

export interface AsOnCard extends Keeping {
  /** Folder line under which a kept tree stands; null: the general one, and in it a folder for the card. */
  readonly folderLine: string | null;
  /** Kinds that are kept as on the card, whatever structure they lie in. */
  readonly kinds: readonly Exclude<Kind, 'sidecar'>[];
}

export const DEFAULT_SETTINGS: RuleSettings = {
  season: { startMonth: 9, label: 'yyyy-YYYY' },
  kindWords: { photo: 'Stills', raw: 'Raw', video: 'Video', sound: 'Sound', sidecar: 'Sidecar', other: 'Other' },
  cameraNames: {},
  letters: { spaces: 'keep', case: 'keep', ascii: false },
  sequence: { scope: 'folder', start: 1 },
  language: 'en',
  missing: 'unknown',
  day: { begins: MIDNIGHT, assignment: 'each day' },
  asOnCard: { ...DEFAULT_KEEPING, folderLine: null, kinds: [] },
};

type Said<T> = { readonly [K in keyof T]?: T[K] | undefined };

/** Settings as a rule says them: what it does not say is the house's default. */
export interface SaidSettings extends Said<Omit<RuleSettings, 'kindWords' | 'asOnCard'>> {
  readonly asOnCard?: Said<AsOnCard> | undefined;
  readonly kindWords?: Said<RuleSettings['kindWords']> | undefined;
}

/** Settings with what is not said filled in by the house's defaults. */
export function settingsOf(said: SaidSettings = {}): RuleSettings {
  return {
    season: said.season ?? DEFAULT_SETTINGS.season,
    kindWords: withDefaults(said.kindWords),
    cameraNames: said.cameraNames ?? DEFAULT_SETTINGS.cameraNames,
    letters: said.letters ?? DEFAULT_SETTINGS.letters,
    sequence: said.sequence ?? DEFAULT_SETTINGS.sequence,
    language: said.language ?? DEFAULT_SETTINGS.language,
    missing: said.missing ?? DEFAULT_SETTINGS.missing,
    day: said.day ?? DEFAULT_SETTINGS.day,
    asOnCard: asOnCardOf(said.asOnCard),
  };
}

function asOnCardOf(said: SaidSettings['asOnCard'] = {}): AsOnCard {
  const { card, structures, smallVersions, folderLine, kinds } = DEFAULT_SETTINGS.asOnCard;
  return {
    card: said.card ?? card,
    structures: said.structures ?? structures,
    smallVersions: said.smallVersions ?? smallVersions,
    folderLine: said.folderLine ?? folderLine,
    kinds: said.kinds ?? kinds,
  };
}

function withDefaults(said: SaidSettings['kindWords']): RuleSettings['kindWords'] {
  const words = { ...DEFAULT_SETTINGS.kindWords };
  for (const kind of KINDS) words[kind] = said?.[kind] ?? words[kind];
  return words;
}
