import type { Element } from '@xmldom/xmldom';
import {
  type ContactSaid,
  LINES_OF_LOCATION,
  type LocationSaid,
  NAMESPACES,
  NOTHING,
  type Prefix,
  type Properties,
  STANDARDS,
} from './properties.js';
import { childrenOf, descriptionsOf, isCalled, type Packet, RDF, XML } from './xmp-text.js';

/** What XMP says in the standard's fields. */
export function readProperties(packet: Packet): Properties {
  const found: Record<string, unknown> = { ...NOTHING };
  for (const { field, xmp } of STANDARDS) {
    const value = valueOf(packet, xmp.prefix, xmp.name);
    if (value === null) continue;
    if (xmp.form === 'boolean') found[field] = { true: true, false: false }[textOf(value).toLowerCase()] ?? null;
    else if (xmp.form === 'language') found[field] = inDefaultLanguage(value);
    else if (xmp.form === 'contact') found[field] = contactOf(value);
    else if (xmp.form === 'locations') found[field] = locationOf(value);
    else if (xmp.form === 'text') found[field] = textOf(value);
    else found[field] = [...new Set(listOf(value).map(textOf))].filter(Boolean);
  }
  return found as unknown as Properties;
}

/** The lines by which older readers know where it was; null where none says anything. */
export function readLines(packet: Packet): LocationSaid | null {
  const lines = LINES_OF_LOCATION.map(({ part, xmp }) => {
    const value = valueOf(packet, xmp.prefix, xmp.name);
    return [part, value === null ? '' : textOf(value)] as const;
  });
  if (lines.every(([, line]) => line === '')) return null;
  return { ...NOWHERE, ...Object.fromEntries(lines) };
}

const NOWHERE: LocationSaid = {
  ...{ name: '', part: '', town: '', region: '', country: '', countryCode: '', lat: null, lon: null },
};

/** A property as it stands: an element of a description, or one of its attributes. */
type Value = Element | string;

function valueOf(packet: Packet, prefix: Prefix, name: string): Value | null {
  for (const description of descriptionsOf(packet)) {
    const found = partOf(description, NAMESPACES[prefix], name);
    if (found !== null) return found;
  }
  return null;
}

function partOf(holder: Element, namespace: string, name: string): Value | null {
  return (
    childrenOf(holder).find((element) => isCalled(element, namespace, name)) ??
    (holder.hasAttributeNS(namespace, name) ? (holder.getAttributeNS(namespace, name) ?? '') : null)
  );
}

const clean = (text: string) => text.normalize('NFC').trim();

/** Text of a value: its own, its first entry's, or what an address or a qualified value says. */
function textOf(value: Value): string {
  if (typeof value === 'string') return clean(value);
  const address = value.getAttributeNS(RDF, 'resource');
  if (address) return clean(address);
  const first = listOf(value)[0];
  if (first && first !== value) return textOf(first);
  const qualified = structureOf(value) && partOf(structureOf(value)!, RDF, 'value');
  return qualified ? textOf(qualified) : clean(value.textContent ?? '');
}

/** Entries of a list; a value that is no list is its own only entry. */
function listOf(value: Value): Value[] {
  if (typeof value === 'string') return [value];
  const list = childrenOf(value).find((element) => ['Alt', 'Seq', 'Bag'].some((name) => isCalled(element, RDF, name)));
  return list ? childrenOf(list).filter((element) => isCalled(element, RDF, 'li')) : [value];
}

function inDefaultLanguage(value: Value): string {
  const entries = listOf(value);
  const preferred = entries.find((entry) => typeof entry !== 'string' && entry.getAttributeNS(XML, 'lang') === 'x-default');
  const said = preferred ?? entries[0];
  return said === undefined ? '' : textOf(said);
}

/** Where the parts of a structure stand: in the element itself, or in a description inside it. */
function structureOf(value: Value): Element | null {
  if (typeof value === 'string') return null;
  return childrenOf(value).find((element) => isCalled(element, RDF, 'Description')) ?? value;
}

const partText = (structure: Element, prefix: Prefix, name: string): string => {
  const part = partOf(structure, NAMESPACES[prefix], name);
  return part === null ? '' : textOf(part);
};

function contactOf(value: Value): ContactSaid | null {
  const structure = structureOf(value);
  if (!structure) return null;
  const part = (name: string) => partText(structure, 'Iptc4xmpCore', name);
  const contact = { address: part('CiAdrExtadr'), email: part('CiEmailWork'), phone: part('CiTelWork'), web: part('CiUrlWork') };
  return Object.values(contact).every((text) => text === '') ? null : contact;
}

function locationOf(value: Value): LocationSaid | null {
  const first = listOf(value)[0];
  const structure = first === undefined ? null : structureOf(first);
  if (!structure) return null;
  const part = (name: string) => {
    const found = partOf(structure, NAMESPACES.Iptc4xmpExt, name);
    return found === null ? '' : inDefaultLanguage(found);
  };
  const location = {
    ...{ name: part('LocationName'), part: part('Sublocation'), town: part('City'), region: part('ProvinceState') },
    ...{ country: part('CountryName'), countryCode: part('CountryCode') },
    lat: degreesOf(partText(structure, 'exif', 'GPSLatitude')),
    lon: degreesOf(partText(structure, 'exif', 'GPSLongitude')),
  };
  return Object.values(location).every((one) => one === '' || one === null) ? null : location;
}

/** `38,42.02400N` in degrees (ISO 16684-1 with the Exif schema: GPSCoordinate). */
export function degreesOf(text: string): number | null {
  const match = /^(\d{1,3}),(\d{1,2})(?:,(\d{1,2})|(\.\d+))?([NSEW])$/.exec(text);
  if (!match) return null;
  const [, degrees, minutes, seconds = '0', fraction = '', hemisphere] = match;
  const size = Number(degrees) + Number(`${minutes}${fraction}`) / 60 + Number(seconds) / 3600;
  const signed = hemisphere === 'S' || hemisphere === 'W' ? -size : size;
  return Math.round(signed * 1e6) / 1e6;
}

/** The other way, to the sixth digit of a degree (about 0.1 m). */
export function coordinateOf(degrees: number, hemispheres: readonly [string, string]): string {
  const size = Math.round(Math.abs(degrees) * 1e6) / 1e6;
  const whole = Math.floor(size);
  return `${whole},${((size - whole) * 60).toFixed(6)}${hemispheres[degrees < 0 ? 1 : 0]}`;
}
