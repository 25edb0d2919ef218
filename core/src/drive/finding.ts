/*
 * What a check can find. One table: what each kind is called, what it means, and which mend follows.
 */

/** What a person can do about a finding. */
export const MENDS = [
  'copy again',
  'put aside',
  'adopt',
  'put back',
  'name by the rule',
  'name for every system',
  'bring together',
  'remove the folder',
  'make copies',
  'write anew',
] as const;
export type MendName = (typeof MENDS)[number];

interface FindingEntry {
  /** As it is counted: `3 missing`. */
  readonly title: string;
  /** What it means, for whoever sees it the first time. */
  readonly says: string;
  /** null: nothing follows by itself, a person has to look. */
  readonly mend: MendName | null;
  /** Is something lost or about to be? Else it is untidy. */
  readonly trouble: boolean;
}

/** Order: as people are shown them, what is lost first. */
export const FINDINGS = {
  missing: {
    title: 'missing',
    says: 'The logbook has it here, and it does not stand here.',
    mend: 'copy again',
    trouble: true,
  },
  changed: {
    title: 'changed',
    says: 'Its bytes are not those that were filed.',
    mend: 'put back',
    trouble: true,
  },
  unreadable: {
    title: 'unreadable',
    says: 'It stands here, and its bytes cannot be read: its disk may be about to fail.',
    mend: 'put back',
    trouble: true,
  },
  'spoilt list': {
    title: 'list spoilt',
    says: 'A list, record, history or sidecar that we wrote here is gone, or is not as we wrote it.',
    mend: 'write anew',
    trouble: true,
  },
  'only here': {
    title: 'only here',
    says: 'No other device has a copy that tallies.',
    mend: 'make copies',
    trouble: true,
  },
  moved: {
    title: 'moved',
    says: 'Somebody moved it by hand: the same bytes stand under another name.',
    mend: 'put back',
    trouble: false,
  },
  stray: {
    title: 'stray',
    says: 'It stands here, and the logbook does not know it.',
    mend: 'adopt',
    trouble: false,
  },
  twin: {
    title: 'twin',
    says: 'The same bytes are filed already, somewhere else.',
    mend: 'put aside',
    trouble: false,
  },
  'near twin': {
    title: 'near twin',
    says: 'The same picture is filed in a larger size.',
    mend: 'put aside',
    trouble: false,
  },
  'record of others': {
    title: 'record of others',
    says: 'It is of another house, or of an earlier life of this one. It leads to the bytes of cards, and stays.',
    mend: null,
    trouble: false,
  },
  misnamed: {
    title: 'misnamed',
    says: 'The house rule gives it another name.',
    mend: 'name by the rule',
    trouble: false,
  },
  'wrong date': {
    title: 'wrong date',
    says: 'Its folder or its name bears another day than that on which it was taken.',
    mend: 'name by the rule',
    trouble: false,
  },
  illegal: {
    title: 'illegal somewhere',
    says: 'A name that not every system can keep.',
    mend: 'name for every system',
    trouble: false,
  },
  'too long': {
    title: 'too long',
    says: 'A name or a path that is longer than some system can open.',
    mend: 'name for every system',
    trouble: false,
  },
  'case apart': {
    title: 'alike but for case',
    says: 'Two names that differ only by letter case or Unicode form: some systems take them for one.',
    mend: 'name for every system',
    trouble: false,
  },
  parted: {
    title: 'parted',
    says: 'A raw and its JPEG, or a clip and its sidecar, stand apart.',
    mend: 'bring together',
    trouble: false,
  },
  'left alone': {
    title: 'sidecar alone',
    says: 'What it belongs to does not stand beside it.',
    mend: 'put aside',
    trouble: false,
  },
  leftover: {
    title: 'leftover',
    says: 'A program or a system left it behind.',
    mend: 'put aside',
    trouble: false,
  },
  'empty folder': {
    title: 'empty folder',
    says: 'Nothing stands in it.',
    mend: 'remove the folder',
    trouble: false,
  },
  odd: {
    title: 'odd',
    says: 'No regular file or folder: it is not followed and not opened.',
    mend: null,
    trouble: false,
  },
} as const satisfies Readonly<Record<string, FindingEntry>>;

export type FindingKind = keyof typeof FINDINGS;
export const FINDING_KINDS = Object.keys(FINDINGS) as readonly FindingKind[];

/** One thing that a check found. */
export interface Finding {
  readonly kind: FindingKind;
  /** Where it stands, or stood; a folder for findings about folders. */
  readonly path: string;
  /** Filed item it is about; null: none of the logbook's. */
  readonly filedItemId: number | null;
  /** The other path it is about: where it went, what it is a twin of, what it should be called. */
  readonly other: string | null;
  /** What exactly, in words; '' when the kind says all. */
  readonly what: string;
}

export const finding = (kind: FindingKind, path: string, more: Partial<Omit<Finding, 'kind' | 'path'>> = {}): Finding => ({
  kind,
  path,
  filedItemId: null,
  other: null,
  what: '',
  ...more,
});
