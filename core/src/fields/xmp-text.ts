import { DOMParser, type Document, type Element, type Node } from '@xmldom/xmldom';

export const RDF = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#';
export const XML = 'http://www.w3.org/XML/1998/namespace';
const ELEMENT = 1;

/** More than this is no packet that somebody wrote by hand or with a camera. */
const MOST_LETTERS = 2_000_000;

/** The RDF of a packet, to be read and changed. */
export interface Packet {
  readonly document: Document;
  readonly rdf: Element;
}

/**
 * Takes an XMP packet or sidecar apart (ISO 16684-1). Nothing outside of it is looked up, and no entity is expanded: XMP
 * needs none but XML's own five. @returns words for what is wrong instead, where it cannot be used.
 */
export function readPacket(bytes: Uint8Array): Packet | string {
  if (bytes.length > 4 * MOST_LETTERS) return 'its XMP is too large to be read';
  if ((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff) || bytes[1] === 0)
    return 'its XMP is written in UTF-16';
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return 'its XMP is not written in UTF-8';
  }
  // A packet is found by its markers, whatever fills the space around it.
  const from = text.indexOf('<');
  const to = text.lastIndexOf('>');
  if (from < 0 || to < from) return 'its XMP is empty';
  text = text.slice(from, to + 1);
  if (text.length > MOST_LETTERS) return 'its XMP is too large to be read';
  if (/<!(?:DOCTYPE|ENTITY)/i.test(text)) return 'its XMP declares entities, which XMP has no use for';
  const faults: string[] = [];
  try {
    const document = new DOMParser({
      onError: (level, message) => {
        if (level !== 'warning') faults.push(message);
      },
    }).parseFromString(text, 'text/xml');
    const rdf = document.getElementsByTagNameNS(RDF, 'RDF')[0];
    if (faults.length) return `its XMP is no XML that can be read: ${firstLine(faults[0]!)}`;
    return rdf ? { document, rdf } : 'its XMP holds no RDF';
  } catch (error) {
    return `its XMP is no XML that can be read: ${firstLine((error as Error).message)}`;
  }
}

const firstLine = (text: string) => text.split('\n')[0]!.trim();

/** Elements inside an element, in order. */
export function childrenOf(parent: Element): Element[] {
  const found: Element[] = [];
  for (let node: Node | null = parent.firstChild; node; node = node.nextSibling)
    if (node.nodeType === ELEMENT) found.push(node as Element);
  return found;
}

export const isCalled = (element: Element, namespace: string, name: string): boolean =>
  element.namespaceURI === namespace && element.localName === name;

/** Everything that is said of the file itself: the descriptions of a packet, in order. */
export const descriptionsOf = ({ rdf }: Packet): Element[] =>
  childrenOf(rdf).filter((element) => isCalled(element, RDF, 'Description'));
