import type { WordLabel } from './word.js';

/**
 * A word list as SKOS tells it (W3C, "SKOS Simple Knowledge Organization System Reference", 2009; integrity conditions
 * S13 and S14 of section 5.4, S27 of section 8.4). Triples only: whoever reads and writes Turtle stands outside.
 */
export const SKOS = 'http://www.w3.org/2004/02/skos/core#';
export const RDF_TYPE = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#type';

export type Term = { readonly iri: string } | { readonly text: string; readonly language: string };
export interface Triple {
  readonly subject: string;
  readonly predicate: string;
  readonly object: Term;
}

/** A word as it travels: known by its IRI. */
export interface SkosWord {
  readonly iri: string;
  readonly labels: readonly WordLabel[];
  /** IRIs of words that mean more. */
  readonly broader: readonly string[];
  readonly note: string;
}

export interface SkosRead {
  readonly words: readonly SkosWord[];
  readonly faults: readonly { readonly where: string; readonly what: string }[];
}

export function wordsToTriples(words: readonly SkosWord[], scheme: { iri: string; title: string }): Triple[] {
  const triples: Triple[] = [
    { subject: scheme.iri, predicate: RDF_TYPE, object: { iri: `${SKOS}ConceptScheme` } },
    { subject: scheme.iri, predicate: `${SKOS}prefLabel`, object: { text: scheme.title, language: '' } },
  ];
  for (const word of words) {
    const say = (predicate: string, object: Term) => triples.push({ subject: word.iri, predicate, object });
    say(RDF_TYPE, { iri: `${SKOS}Concept` });
    say(`${SKOS}inScheme`, { iri: scheme.iri });
    for (const { text, language, preferred } of word.labels)
      say(`${SKOS}${preferred ? 'prefLabel' : 'altLabel'}`, { text, language });
    for (const above of word.broader) say(`${SKOS}broader`, { iri: above });
    if (word.note) say(`${SKOS}scopeNote`, { text: word.note, language: '' });
  }
  return triples;
}

/** Reads words; whatever breaks a condition of the standard is told by the word it is about, and nothing is guessed. */
export function triplesToWords(triples: readonly Triple[]): SkosRead {
  const faults: { where: string; what: string }[] = [];
  const drafts = new Map<string, { labels: WordLabel[]; broader: Set<string>; note: string }>();
  const concept = (iri: string) => {
    const known = drafts.get(iri) ?? { labels: [], broader: new Set<string>(), note: '' };
    drafts.set(iri, known);
    return known;
  };
  for (const { subject, predicate, object } of triples)
    if (predicate === RDF_TYPE && 'iri' in object && object.iri === `${SKOS}Concept`) concept(subject);
  for (const { subject, predicate, object } of triples) {
    const word = drafts.get(subject);
    const name = predicate.startsWith(SKOS) ? predicate.slice(SKOS.length) : '';
    if (!word || !name) continue;
    if ('text' in object) {
      const text = object.text.normalize('NFC').replace(/\s+/g, ' ').trim();
      const language = object.language.toLowerCase();
      if (name === 'prefLabel') word.labels.push({ text, language, preferred: true });
      else if (name === 'altLabel' || name === 'hiddenLabel') word.labels.push({ text, language, preferred: false });
      else if (name === 'scopeNote' || name === 'definition') word.note ||= text;
    } else if (name === 'broader' || name === 'broaderTransitive') {
      if (name === 'broader') word.broader.add(object.iri);
    } else if (name === 'narrower' && drafts.has(object.iri)) drafts.get(object.iri)!.broader.add(subject);
  }
  for (const [iri, { labels, broader }] of drafts) {
    const preferred = labels.filter((label) => label.preferred);
    if (!preferred.length) faults.push({ where: iri, what: 'has no preferred name (skos:prefLabel)' });
    // S14: no more than one value of skos:prefLabel per language tag.
    for (const language of new Set(preferred.map((label) => label.language)))
      if (preferred.filter((label) => label.language === language).length > 1)
        faults.push({ where: iri, what: `has two preferred names in the language “${language || 'none'}” (SKOS S14)` });
    // S13: preferred and alternative names are disjoint.
    const both = labels.find((label) => !label.preferred && preferred.some((one) => sameLabel(one, label)));
    if (both) faults.push({ where: iri, what: `“${both.text}” is its preferred name and a synonym at once (SKOS S13)` });
    for (const above of broader)
      if (!drafts.has(above)) faults.push({ where: iri, what: `stands under ${above}, which is not in the list` });
    if (isUnderItself(iri, drafts)) faults.push({ where: iri, what: 'is broader than itself' });
  }
  const words = [...drafts].map(([iri, { labels, broader, note }]) => ({ iri, labels, broader: [...broader], note }));
  return { words, faults };
}

const sameLabel = (a: WordLabel, b: WordLabel) => a.text === b.text && a.language === b.language;

function isUnderItself(iri: string, drafts: ReadonlyMap<string, { broader: ReadonlySet<string> }>): boolean {
  const seen = new Set<string>();
  const open = [...(drafts.get(iri)?.broader ?? [])];
  while (open.length) {
    const next = open.pop()!;
    if (next === iri) return true;
    if (seen.has(next)) continue;
    seen.add(next);
    open.push(...(drafts.get(next)?.broader ?? []));
  }
  return false;
}
