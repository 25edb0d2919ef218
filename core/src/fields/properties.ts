/** A location by its parts, as the IPTC standard has it (Location structure). */
export interface LocationSaid {
  readonly name: string;
  /** Part of a town: the standard's sublocation. */
  readonly part: string;
  readonly town: string;
  readonly region: string;
  readonly country: string;
  /** ISO 3166-1: two letters in XMP, three in IIM; '' when nobody says. */
  readonly countryCode: string;
  readonly lat: number | null;
  readonly lon: number | null;
}

/** How the creator can be reached: what may leave the house. */
export interface ContactSaid {
  readonly address: string;
  readonly email: string;
  readonly phone: string;
  readonly web: string;
}

/** Everything a file can say of itself in the standard's fields. Empty text, an empty list and null say nothing. */
export interface Properties {
  readonly creator: readonly string[];
  readonly creditLine: string;
  readonly copyrightNotice: string;
  readonly usageTerms: string;
  readonly webStatement: string;
  readonly rightsMarked: boolean | null;
  readonly description: string;
  readonly headline: string;
  readonly words: readonly string[];
  readonly locationCreated: LocationSaid | null;
  readonly locationShown: LocationSaid | null;
  readonly personShown: readonly string[];
  readonly jobId: string;
  /** ISO 8601 with an offset where one is known: `2026-04-18T09:41:07+01:00`. */
  readonly dateCreated: string;
  readonly contact: ContactSaid | null;
  readonly instructions: string;
  readonly source: string;
  /** Name the file came with. */
  readonly preservedFileName: string;
  readonly documentId: string;
  readonly originalDocumentId: string;
  readonly instanceId: string;
}

export type Field = keyof Properties;

export const NOTHING: Properties = {
  ...{ creator: [], creditLine: '', copyrightNotice: '', usageTerms: '', webStatement: '', rightsMarked: null },
  ...{ description: '', headline: '', words: [], locationCreated: null, locationShown: null, personShown: [] },
  ...{ jobId: '', dateCreated: '', contact: null, instructions: '', source: '', preservedFileName: '' },
  ...{ documentId: '', originalDocumentId: '', instanceId: '' },
};

/** Namespaces of the schemas (ISO 16684-1, annexes; IPTC Photo Metadata Standard), with the prefix each is written with. */
export const NAMESPACES = {
  dc: 'http://purl.org/dc/elements/1.1/',
  xmpRights: 'http://ns.adobe.com/xap/1.0/rights/',
  xmpMM: 'http://ns.adobe.com/xap/1.0/mm/',
  photoshop: 'http://ns.adobe.com/photoshop/1.0/',
  Iptc4xmpCore: 'http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/',
  Iptc4xmpExt: 'http://iptc.org/std/Iptc4xmpExt/2008-02-29/',
  exif: 'http://ns.adobe.com/exif/1.0/',
} as const;
export type Prefix = keyof typeof NAMESPACES;

/** How a value stands in XMP (ISO 16684-1, clause 6.3): plain, a list, or by language. */
export type Form = 'text' | 'boolean' | 'language' | 'seq' | 'bag' | 'contact' | 'locations';

export interface Standard {
  readonly field: Field;
  /** Name in the IPTC Photo Metadata Standard. */
  readonly name: string;
  readonly xmp: { readonly prefix: Prefix; readonly name: string; readonly form: Form };
  /** Data sets of IIM 4.2, record 2, with the most bytes each holds. */
  readonly iim?: readonly { readonly dataset: number; readonly most: number }[];
  /** Tag of the first image directory (Exif 2.32, table 3). */
  readonly exif?: number;
  /** Nobody types these: what came with the file stays and nobody is asked. */
  readonly quiet?: boolean;
}

/**
 * Our record and each property, in one table. IPTC Photo Metadata Standard 2023.1; IIM 4.2; Exif 2.32; which fields of
 * the three say the same: Metadata Working Group, guidelines 2.0, chapter 5 (all from memory).
 */
export const STANDARDS: readonly Standard[] = [
  {
    ...{ field: 'creator', name: 'Creator', xmp: { prefix: 'dc', name: 'creator', form: 'seq' } },
    ...{ iim: [{ dataset: 80, most: 32 }], exif: 0x013b },
  },
  {
    ...{ field: 'creditLine', name: 'Credit Line', xmp: { prefix: 'photoshop', name: 'Credit', form: 'text' } },
    iim: [{ dataset: 110, most: 32 }],
  },
  {
    ...{ field: 'copyrightNotice', name: 'Copyright Notice', xmp: { prefix: 'dc', name: 'rights', form: 'language' } },
    ...{ iim: [{ dataset: 116, most: 128 }], exif: 0x8298 },
  },
  { field: 'usageTerms', name: 'Rights Usage Terms', xmp: { prefix: 'xmpRights', name: 'UsageTerms', form: 'language' } },
  { field: 'webStatement', name: 'Web Statement of Rights', xmp: { prefix: 'xmpRights', name: 'WebStatement', form: 'text' } },
  { field: 'rightsMarked', name: 'Marked', xmp: { prefix: 'xmpRights', name: 'Marked', form: 'boolean' }, quiet: true },
  {
    ...{ field: 'description', name: 'Description', xmp: { prefix: 'dc', name: 'description', form: 'language' } },
    ...{ iim: [{ dataset: 120, most: 2000 }], exif: 0x010e },
  },
  {
    ...{ field: 'headline', name: 'Headline', xmp: { prefix: 'photoshop', name: 'Headline', form: 'text' } },
    iim: [{ dataset: 105, most: 256 }],
  },
  {
    ...{ field: 'words', name: 'Keywords', xmp: { prefix: 'dc', name: 'subject', form: 'bag' } },
    iim: [{ dataset: 25, most: 64 }],
  },
  {
    ...{ field: 'locationCreated', name: 'Location Created' },
    xmp: { prefix: 'Iptc4xmpExt', name: 'LocationCreated', form: 'locations' },
  },
  {
    ...{ field: 'locationShown', name: 'Location Shown in the Image' },
    xmp: { prefix: 'Iptc4xmpExt', name: 'LocationShown', form: 'locations' },
  },
  {
    ...{ field: 'personShown', name: 'Person Shown in the Image' },
    xmp: { prefix: 'Iptc4xmpExt', name: 'PersonInImage', form: 'bag' },
  },
  {
    ...{ field: 'jobId', name: 'Job Id', xmp: { prefix: 'photoshop', name: 'TransmissionReference', form: 'text' } },
    iim: [{ dataset: 103, most: 32 }],
  },
  {
    ...{ field: 'dateCreated', name: 'Date Created', xmp: { prefix: 'photoshop', name: 'DateCreated', form: 'text' } },
    ...{
      iim: [
        { dataset: 55, most: 8 },
        { dataset: 60, most: 11 },
      ],
      quiet: true,
    },
  },
  {
    ...{ field: 'contact', name: 'Creator’s Contact Info' },
    xmp: { prefix: 'Iptc4xmpCore', name: 'CreatorContactInfo', form: 'contact' },
  },
  {
    ...{ field: 'instructions', name: 'Instructions', xmp: { prefix: 'photoshop', name: 'Instructions', form: 'text' } },
    iim: [{ dataset: 40, most: 256 }],
  },
  {
    ...{ field: 'source', name: 'Source', xmp: { prefix: 'photoshop', name: 'Source', form: 'text' } },
    iim: [{ dataset: 115, most: 32 }],
  },
  {
    ...{ field: 'preservedFileName', name: 'Preserved File Name' },
    ...{ xmp: { prefix: 'xmpMM', name: 'PreservedFileName', form: 'text' }, quiet: true },
  },
  {
    ...{ field: 'documentId', name: 'Document Id', xmp: { prefix: 'xmpMM', name: 'DocumentID', form: 'text' }, quiet: true },
  },
  {
    ...{ field: 'originalDocumentId', name: 'Original Document Id' },
    ...{ xmp: { prefix: 'xmpMM', name: 'OriginalDocumentID', form: 'text' }, quiet: true },
  },
  {
    ...{ field: 'instanceId', name: 'Instance Id', xmp: { prefix: 'xmpMM', name: 'InstanceID', form: 'text' }, quiet: true },
  },
];

export const FIELDS: readonly Field[] = STANDARDS.map(({ field }) => field);
export const standardOf = (field: Field): Standard => STANDARDS.find((one) => one.field === field)!;

/** Properties that older readers look at for where it was: one line each, of the location shown (IPTC Core, legacy). */
export const LINES_OF_LOCATION = [
  { part: 'part', xmp: { prefix: 'Iptc4xmpCore', name: 'Location' }, iim: { dataset: 92, most: 32 } },
  { part: 'town', xmp: { prefix: 'photoshop', name: 'City' }, iim: { dataset: 90, most: 32 } },
  { part: 'region', xmp: { prefix: 'photoshop', name: 'State' }, iim: { dataset: 95, most: 32 } },
  { part: 'country', xmp: { prefix: 'photoshop', name: 'Country' }, iim: { dataset: 101, most: 64 } },
  { part: 'countryCode', xmp: { prefix: 'Iptc4xmpCore', name: 'CountryCode' }, iim: { dataset: 100, most: 3 } },
] as const satisfies readonly { part: keyof LocationSaid; xmp: object; iim: object }[];

const isNothing = (value: unknown): boolean => value === null || value === '' || (Array.isArray(value) && value.length === 0);

/** Does this field say anything? */
export const says = (properties: Properties, field: Field): boolean => !isNothing(properties[field]);

/** Do two sets of properties say the same in a field? Lists without order are compared without. */
export function sayTheSame(one: Properties, other: Properties, field: Field): boolean {
  const plain = (value: unknown): string => {
    if (!Array.isArray(value)) return JSON.stringify(value);
    const list = value as readonly string[];
    return JSON.stringify(standardOf(field).xmp.form === 'bag' ? [...list].sort() : list);
  };
  return plain(one[field]) === plain(other[field]);
}

/** A value as a person reads it; '' when it says nothing. */
export function inWords(properties: Properties, field: Field): string {
  const value = properties[field];
  if (value === null) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string') return value;
  if (Array.isArray(value)) return (value as readonly string[]).join(', ');
  const said = value as unknown as Readonly<Record<string, string | number | null>>;
  const parts = Object.entries(said).filter(([, part]) => part !== '' && part !== null);
  return [...new Set(parts.map(([, part]) => String(part)))].join(', ');
}
