import { licenceAt } from '../credit/index.js';
import { countryName } from '../country/index.js';
import { formatOffset } from '../capture/index.js';
import type { ContactSaid, LocationSaid, Properties } from './properties.js';

/** What the house knows of an item, as far as a file can say it. */
export interface ItemKnown {
  readonly creator: string | null;
  readonly creditLine: string;
  readonly copyrightNotice: string;
  readonly terms: {
    readonly name: string;
    readonly sentence: string;
    readonly web: string | null;
    readonly until: string | null;
    readonly stance: string;
  } | null;
  readonly embargoUntil: string | null;
  readonly keywords: readonly string[];
  readonly location: {
    readonly name: string;
    readonly part: string;
    readonly town: string;
    readonly region: string;
    /** ISO 3166-1, two letters. */
    readonly country: string;
    readonly lat: number | null;
    readonly lon: number | null;
  } | null;
  /** Where the camera stood, where a track or the file itself says it. */
  readonly taken: { readonly lat: number; readonly lon: number } | null;
  readonly personShown: readonly { readonly name: string; readonly consent: string }[];
  readonly description: string;
  readonly assignment: { readonly slug: string; readonly title: string } | null;
  /** Wall clock, `yyyy-MM-ddTHH:mm:ss[.SSS]`, as corrected. */
  readonly captured: { readonly local: string; readonly offsetMinutes: number | null };
  /** What may leave the house of how the creator can be reached. */
  readonly contact: ContactSaid | null;
  readonly house: string;
  /** Name on the card. */
  readonly name: string;
  readonly documentId: string;
  /** Of this state of what is said. */
  readonly instanceId: string;
}

/** What a file is to say of an item in the standard's fields. */
export function propertiesOf(known: ItemKnown): Properties {
  const { location, taken, terms } = known;
  const shown = location && locationOf(location);
  const created = shown && { ...shown, ...(taken ? { lat: round(taken.lat), lon: round(taken.lon) } : {}) };
  const { local, offsetMinutes } = known.captured;
  return {
    creator: known.creator === null ? [] : [known.creator],
    ...{ creditLine: known.creditLine, copyrightNotice: known.copyrightNotice },
    usageTerms: terms ? termsInWords(terms) : '',
    webStatement: terms?.web ?? '',
    rightsMarked: isPublicDomain(terms?.web ?? null) ? false : known.copyrightNotice ? true : null,
    description: known.description,
    headline: known.assignment?.title ?? '',
    words: [...new Set(known.keywords)],
    ...{ locationCreated: created, locationShown: shown },
    // Whoever must not be shown is not named in what may leave the house.
    personShown: known.personShown.flatMap(({ name, consent }) => (consent === 'no' ? [] : [name])),
    jobId: known.assignment?.slug ?? '',
    dateCreated: `${local}${offsetMinutes === null ? '' : formatOffset(offsetMinutes)}`,
    ...{ contact: known.contact, instructions: instructionsOf(known), source: known.house },
    ...{ preservedFileName: known.name, documentId: known.documentId, originalDocumentId: known.documentId },
    instanceId: known.instanceId,
  };
}

const round = (degrees: number) => Math.round(degrees * 1e6) / 1e6;

const locationOf = (location: NonNullable<ItemKnown['location']>): LocationSaid => ({
  ...{ name: location.name, part: location.part, town: location.town, region: location.region },
  ...{ country: countryName(location.country) ?? '', countryCode: location.country },
  lat: location.lat === null ? null : round(location.lat),
  lon: location.lon === null ? null : round(location.lon),
});

const isPublicDomain = (web: string | null) => web !== null && licenceAt(web)?.startsWith('CC0') === true;

/** `Free for the house until 2026-06-30. Ask before you print.` */
function termsInWords({ name, sentence, until }: NonNullable<ItemKnown['terms']>): string {
  const first = until === null ? name : `${name} until ${until}`;
  return sentence ? `${first}. ${sentence}` : first;
}

/** What whoever gets the file must heed first. It must hold on every later day too: days are named, not counted. */
function instructionsOf({ embargoUntil, terms, personShown }: ItemKnown): string {
  const says = (consent: string) => personShown.filter((person) => person.consent === consent);
  const ask = says('ask').map(({ name }) => name);
  return [
    terms?.stance === 'not to be shown' && 'Not to be shown.',
    says('no').length > 0 && 'It shows somebody who must not be shown.',
    embargoUntil !== null && `Not to be shown until ${embargoUntil} is over.`,
    ask.length > 0 && `Ask ${ask.join(' and ')} before it is shown.`,
  ]
    .filter(Boolean)
    .join(' ');
}
