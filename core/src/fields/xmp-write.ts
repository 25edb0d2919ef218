import { DOMParser, type Element, XMLSerializer } from '@xmldom/xmldom';
import {
  type Field,
  LINES_OF_LOCATION,
  type LocationSaid,
  NAMESPACES,
  type Prefix,
  type Properties,
  says,
  type Standard,
  standardOf,
} from './properties.js';
import { coordinateOf } from './xmp-read.js';
import { childrenOf, descriptionsOf, isCalled, type Packet, RDF, XML } from './xmp-text.js';

const EMPTY = `<x:xmpmeta xmlns:x="adobe:ns:meta/" x:xmptk="Tally Stick"><rdf:RDF xmlns:rdf="${RDF}"/></x:xmpmeta>`;
const WITH_PREFIX = 'http://www.w3.org/2000/xmlns/';

/**
 * Writes fields into a packet: each as the properties say it now, or gone where they say nothing. Everything else in the
 * packet stays to the letter. @param packet null: a new one. @returns the XML, without what wraps it in a file.
 */
export function writeProperties(packet: Packet | null, properties: Properties, fields: readonly Field[]): string {
  const { document, rdf } = packet ?? emptyPacket();
  const whole = { document, rdf };
  const about = descriptionsOf(whole)[0]?.getAttributeNS(RDF, 'about') ?? '';
  const others = fields.map((field) => otherLanguages(whole, standardOf(field)));
  for (const field of fields) removeAll(whole, standardOf(field).xmp);
  if (fields.includes('locationShown')) for (const { xmp } of LINES_OF_LOCATION) removeAll(whole, xmp);
  const ours = document.createElementNS(RDF, `${rdf.prefix ?? 'rdf'}:Description`);
  ours.setAttributeNS(RDF, `${rdf.prefix ?? 'rdf'}:about`, about);
  const written = new Writer(ours, prefixesIn(whole));
  fields.forEach((field, i) => {
    if (says(properties, field)) written.property(standardOf(field), properties, others[i]!);
  });
  if (fields.includes('locationShown') && properties.locationShown) written.lines(properties.locationShown);
  if (ours.firstChild) rdf.appendChild(ours);
  // Readers of XML take these for the end of a line (XML 1.0, 2.11; XML 1.1, 2.11; some U+2029, too) unless they are numbers.
  return new XMLSerializer()
    .serializeToString(document.documentElement!)
    .replace(/[\r\u0085\u2028\u2029]/g, (letter) => `&#x${letter.charCodeAt(0).toString(16)};`);
}

function emptyPacket(): Packet {
  const document = new DOMParser().parseFromString(EMPTY, 'text/xml');
  return { document, rdf: document.getElementsByTagNameNS(RDF, 'RDF')[0]! };
}

/**
 * The prefixes that a packet knows our namespaces by: some readers take two prefixes of one namespace for an error.
 * By namespace.
 */
function prefixesIn({ rdf }: Packet): Map<string, string> {
  const known = new Map<string, string>();
  for (const element of [rdf.ownerDocument!.documentElement!, ...rdf.ownerDocument!.getElementsByTagName('*')])
    for (const { namespaceURI, localName, prefix, value } of element.attributes)
      if (namespaceURI === WITH_PREFIX && prefix === 'xmlns' && localName !== null) known.set(value, localName);
  return known;
}

const find = (packet: Packet, { prefix, name }: Standard['xmp'] | { prefix: Prefix; name: string }) =>
  descriptionsOf(packet).flatMap((description) =>
    childrenOf(description).filter((element) => isCalled(element, NAMESPACES[prefix], name)),
  );

/** Takes a property out of every description, and descriptions that nothing is left of. */
function removeAll(packet: Packet, property: { prefix: Prefix; name: string }): void {
  for (const element of find(packet, property)) {
    const before = element.previousSibling;
    // What indented it goes along.
    if (before?.nodeType === 3 && (before.textContent ?? '').trim() === '') element.parentNode!.removeChild(before);
    element.parentNode!.removeChild(element);
  }
  for (const description of descriptionsOf(packet)) {
    description.removeAttributeNS(NAMESPACES[property.prefix], property.name);
    const left = [...description.attributes].filter(({ namespaceURI }) => namespaceURI !== WITH_PREFIX && namespaceURI !== RDF);
    if (!left.length && !childrenOf(description).length) description.parentNode!.removeChild(description);
  }
}

/** A text that stands in several languages keeps those that are not ours. */
function otherLanguages(packet: Packet, { xmp }: Standard): Element[] {
  if (xmp.form !== 'language') return [];
  const entries = find(packet, xmp).flatMap((element) => childrenOf(element).flatMap(childrenOf));
  return entries.filter(
    (entry) => isCalled(entry, RDF, 'li') && !['x-default', ''].includes(entry.getAttributeNS(XML, 'lang') ?? ''),
  );
}

/** Writes properties into one description. */
class Writer {
  constructor(
    private readonly description: Element,
    private readonly prefixes: ReadonlyMap<string, string>,
  ) {}

  property({ field, xmp }: Standard, properties: Properties, others: readonly Element[]): void {
    const value = properties[field];
    const element = this.child(this.description, NAMESPACES[xmp.prefix], xmp.prefix, xmp.name);
    if (xmp.form === 'text') this.text(element, value as string);
    else if (xmp.form === 'boolean') this.text(element, value === true ? 'True' : 'False');
    else if (xmp.form === 'language') {
      const entries = this.list(element, 'Alt', [value as string]);
      entries[0]!.setAttributeNS(XML, 'xml:lang', 'x-default');
      for (const other of others) entries[0]!.parentNode!.appendChild(other);
    } else if (xmp.form === 'seq') this.list(element, 'Seq', value as readonly string[]);
    else if (xmp.form === 'bag') this.list(element, 'Bag', value as readonly string[]);
    else if (xmp.form === 'contact') this.contact(element, properties.contact!);
    else this.location(this.list(element, 'Bag', [''])[0]!, value as LocationSaid);
  }

  /** The lines by which older readers know where it was. */
  lines(location: LocationSaid): void {
    for (const { part, xmp } of LINES_OF_LOCATION)
      if (location[part]) this.text(this.child(this.description, NAMESPACES[xmp.prefix], xmp.prefix, xmp.name), location[part]);
  }

  private contact(element: Element, { address, email, phone, web }: NonNullable<Properties['contact']>): void {
    const parts = { CiAdrExtadr: address, CiEmailWork: email, CiTelWork: phone, CiUrlWork: web };
    element.setAttributeNS(RDF, 'rdf:parseType', 'Resource');
    for (const [name, text] of Object.entries(parts))
      if (text) this.text(this.child(element, NAMESPACES.Iptc4xmpCore, 'Iptc4xmpCore', name), text);
  }

  private location(element: Element, location: LocationSaid): void {
    element.setAttributeNS(RDF, 'rdf:parseType', 'Resource');
    const part = (name: string) => this.child(element, NAMESPACES.Iptc4xmpExt, 'Iptc4xmpExt', name);
    if (location.name) this.list(part('LocationName'), 'Alt', [location.name])[0]!.setAttributeNS(XML, 'xml:lang', 'x-default');
    const parts = {
      ...{ Sublocation: location.part, City: location.town, ProvinceState: location.region },
      ...{ CountryName: location.country, CountryCode: location.countryCode },
    };
    for (const [name, text] of Object.entries(parts)) if (text) this.text(part(name), text);
    if (location.lat === null || location.lon === null) return;
    const position = (name: string) => this.child(element, NAMESPACES.exif, 'exif', name);
    this.text(position('GPSLatitude'), coordinateOf(location.lat, ['N', 'S']));
    this.text(position('GPSLongitude'), coordinateOf(location.lon, ['E', 'W']));
  }

  private list(element: Element, kind: 'Alt' | 'Seq' | 'Bag', texts: readonly string[]): Element[] {
    const list = this.child(element, RDF, 'rdf', kind);
    return texts.map((text) => {
      const entry = this.child(list, RDF, 'rdf', 'li');
      if (text) this.text(entry, text);
      return entry;
    });
  }

  private text(element: Element, text: string): void {
    element.appendChild(element.ownerDocument!.createTextNode(withoutControls(text)));
  }

  private child(parent: Element, namespace: string, prefix: string, name: string): Element {
    const known = this.prefixes.get(namespace) ?? prefix;
    const element = parent.ownerDocument!.createElementNS(namespace, `${known}:${name}`);
    parent.appendChild(element);
    return element;
  }
}

/** What XML 1.0 cannot hold, clause 2.2, stands for nothing that anybody wrote. */
const withoutControls = (text: string) =>
  text.replace(
    // eslint-disable-next-line no-control-regex -- control characters are what goes
    /[\u0000-\u0008\u000B\u000C\u000E-\u001F\uFFFE\uFFFF]|[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g,
    '',
  );

/** A packet as it stands in a file (ISO 16684-1, clause 7.3.2): wrapped, with room for later changes. In bytes. */
export function wrapped(xml: string, padding: number): Uint8Array {
  const before = `<?xpacket begin="\uFEFF" id="W5M0MpCehiHzreSzNTczkc9d"?>\n${xml}\n`;
  const after = '<?xpacket end="w"?>';
  // A line of blanks each hundred letters, as the standard recommends.
  const lines = `${' '.repeat(99)}\n`.repeat(Math.ceil(padding / 100)).slice(0, padding);
  return new TextEncoder().encode(`${before}${lines}${after}`);
}

/** Most that a packet in one segment may have (ISO 16684-3, clause 1.1.3: 65 502 bytes). */
export const MOST_IN_PACKET = 65_502;
