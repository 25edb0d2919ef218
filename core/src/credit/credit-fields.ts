import { own } from '../lookup/index.js';

/** What a credit line or a copyright notice is filled with. */
export interface CreditFacts {
  readonly contributor: { readonly name: string; readonly given: string; readonly family: string; readonly code: string } | null;
  readonly house: string;
  readonly assignment: string | null;
  /** Year of the capture; null when nobody knows. */
  readonly year: string | null;
}

/** The fields that may stand in a credit line, with what fills each. */
const FIELDS: Readonly<Record<string, (facts: CreditFacts) => string | null>> = {
  'contributor.name': ({ contributor }) => contributor?.name ?? null,
  'contributor.given': ({ contributor }) => (contributor?.given === '' ? null : (contributor?.given ?? null)),
  'contributor.family': ({ contributor }) => (contributor?.family === '' ? null : (contributor?.family ?? null)),
  'contributor.code': ({ contributor }) => contributor?.code ?? null,
  house: ({ house }) => house,
  'assignment.title': ({ assignment }) => assignment,
  year: ({ year }) => year,
};

export const CREDIT_FIELDS: readonly string[] = Object.keys(FIELDS);

/** What is wrong with a line that has fields in braces; null: nothing. */
export function faultOfCreditLine(line: string): string | null {
  const names = [...line.matchAll(/\{([^{}]*)\}/g)].map(([, name]) => name!);
  const unknown = names.find((name) => own(FIELDS, name) === undefined);
  if (unknown !== undefined)
    return `knows no field {${unknown}}: there are ${CREDIT_FIELDS.map((name) => `{${name}}`).join(', ')}`;
  return /[{}]/.test(line.replace(/\{[^{}]*\}/g, '')) ? 'has a brace that opens or closes nothing' : null;
}

/**
 * Fills the fields of a line. A field that nothing fills is left out together with what only joined it to the rest, so
 * that no line begins or ends with a slash.
 */
export function fillCreditLine(line: string, facts: CreditFacts): string {
  const MISSING = '\u0000';
  const filled = line.replace(/\{([^{}]*)\}/g, (_whole, name: string) => own(FIELDS, name)?.(facts) ?? MISSING);
  if (!filled.includes(MISSING)) return filled.replace(/\s+/g, ' ').trim();
  // Parts and what joins them, in turn: a part that is missing goes with one of its joints.
  const parts = filled.split(/(\s*[/,·|–—]\s*|\s+-\s+)/);
  const kept: string[] = [];
  for (let at = 0; at < parts.length; at += 2) {
    const part = parts[at]!.replaceAll(MISSING, '').trim();
    if (part === '') continue;
    if (kept.length) kept.push(parts[at - 1]!);
    kept.push(part);
  }
  return kept.join('').replace(/\s+/g, ' ').trim();
}
