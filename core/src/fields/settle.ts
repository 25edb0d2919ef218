import {
  type Field,
  inWords,
  type LocationSaid,
  type Properties,
  sayTheSame,
  says,
  standardOf,
  STANDARDS,
} from './properties.js';

/** What a person answered where file and house say different things. */
export type Standing = Readonly<Partial<Record<Field, 'ours' | 'theirs'>>>;

/** The file says one thing, the house another: somebody must say which stands. */
export interface Question {
  readonly field: Field;
  readonly theirs: string;
  readonly ours: string;
}

export interface Settled {
  /** What the file is to say. */
  readonly properties: Properties;
  /** Fields that are written; the others stay as they are. */
  readonly written: readonly Field[];
  readonly questions: readonly Question[];
}

/** What came with a file, by whichever of its blocks says it: XMP, IIM, Exif, in this order. */
export interface CameWith {
  readonly properties: Properties;
  /** Does a block say the same as ours as far as it can hold it? */
  readonly same: (ours: Properties, field: Field) => boolean;
}

/** Kept as they came, whatever we would say. */
const THEIRS_IF_ANY: readonly Field[] = ['preservedFileName', 'documentId', 'originalDocumentId', 'dateCreated', 'rightsMarked'];
const ALWAYS_OURS: readonly Field[] = ['instanceId'];

/**
 * Settles what a file is to say where it came with words of its own: what somebody typed elsewhere stays until a person
 * says otherwise; words and people add up.
 * @param corrected whether the house corrected the camera's clock: then its own date stands.
 */
export function settle(came: CameWith, ours: Properties, standing: Standing, corrected: boolean): Settled {
  const found: Record<string, unknown> = { ...came.properties };
  const written: Field[] = [];
  const questions: Question[] = [];
  for (const { field, xmp } of STANDARDS) {
    if (!says(ours, field)) continue;
    const take = () => {
      found[field] = ours[field];
      written.push(field);
    };
    if (!says(came.properties, field) || ALWAYS_OURS.includes(field)) take();
    else if (THEIRS_IF_ANY.includes(field)) {
      if (field === 'dateCreated' && corrected) take();
    } else if (xmp.form === 'bag') {
      const theirs = came.properties[field] as readonly string[];
      found[field] = [...new Set([...theirs, ...(ours[field] as readonly string[])])];
      written.push(field);
    } else if (standing[field] === 'ours' || came.same(ours, field)) take();
    else if (standing[field] !== 'theirs')
      questions.push({ field, theirs: inWords(came.properties, field), ours: inWords(ours, field) });
  }
  return { properties: found as unknown as Properties, written, questions };
}

/**
 * Settles what a sidecar is to say that somebody else changed since we wrote it: property by property, whoever changed it
 * has its way; where both did, it is asked, and theirs stands until then.
 * @param base what we said when it was written.
 * @returns with it what is to be remembered as said by us.
 */
export function settleAgain(
  theirs: Properties,
  base: Properties,
  ours: Properties,
  standing: Standing,
): Settled & { readonly base: Properties } {
  const [found, remembered]: Record<string, unknown>[] = [{ ...theirs }, { ...base }];
  const written: Field[] = [];
  const questions: Question[] = [];
  for (const { field, xmp } of STANDARDS) {
    const [isTheirs, isOurs] = [!sayTheSame(theirs, base, field), !sayTheSame(ours, base, field)];
    const take = () => {
      found![field] = ours[field];
      remembered![field] = ours[field];
      written.push(field);
    };
    if (!isTheirs || sayTheSame(theirs, ours, field) || ALWAYS_OURS.includes(field)) take();
    else if (xmp.form === 'bag') {
      const [a, b, o] = [theirs, base, ours].map((one) => one[field] as readonly string[]);
      const gone = b!.filter((word) => !o!.includes(word));
      found![field] = [...new Set([...a!, ...o!.filter((word) => !b!.includes(word))])].filter((word) => !gone.includes(word));
      remembered![field] = o;
      written.push(field);
    } else if (standing[field] === 'ours') take();
    else if (isOurs && standing[field] !== 'theirs' && !standardOf(field).quiet)
      questions.push({ field, theirs: inWords(theirs, field), ours: inWords(ours, field) });
  }
  return {
    ...{ properties: found as unknown as Properties, base: remembered as unknown as Properties },
    ...{ written, questions },
  };
}

/** Does a location say the same as far as another one says anything? */
export const agrees = (ours: LocationSaid | null, theirs: LocationSaid): boolean =>
  ours !== null &&
  (['part', 'town', 'region', 'country'] as const).every((part) => theirs[part] === '' || theirs[part] === ours[part]) &&
  (theirs.name === '' || theirs.name === ours.name);
