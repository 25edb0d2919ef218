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
  'contributor.given': ({ contributor }) => contributor?.given || null,
  'contributor.family': ({ contributor }) => contributor?.family || null,
  'contributor.code': ({ contributor }) => contributor?.code ?? null,
  house: ({ house }) => house,
  'assignment.title': ({ assignment }) => assignment,
  year: ({ year }) => year,
};

export const CREDIT_FIELDS: readonly string[] = Object.keys(FIELDS);

/** What is wrong with a line that has fields in braces; null: nothing. */
export function faultOfCreditLine(line: string): string | null {
  const names = [...line.matchAll(/\{([^{}]*)\}/g)].map(([, name]) => name!);
  const unknown = names.find((name) => !(name in FIELDS));
  if (unknown !== undefined)
    return `knows no field {${unknown}}: there are ${CREDIT_FIELDS.map((name) => `{${name}}`).join(', ')}`;
  return /[{}]/.test(line.replace(/\{[^{}]*\}/g, '')) ? 'has a brace that opens or closes nothing' : null;
}

/**
 * Fills the fields of a line. A field that nothing fills is left out together with what only joined it to the rest, so
 * that no line begins or ends with a slash.
 */
export function fillCreditLine(line: string, facts: CreditFacts): string {
  const filled = line.replace(/\{([^{}]*)\}/g, (_whole, name: string) => FIELDS[name]?.(facts) ?? '\u0000');
  return filled
    .replace(/\s*[/,·|–—-]\s*\u0000(?=\s*$)|^\s*\u0000\s*[/,·|–—-]\s*/g, '')
    .replace(/(\s*[/,·|–—-])\s*\u0000\s*(?=[/,·|–—-])/g, '')
    .replace(/\u0000/g, '')
    .replace(/\s+/g, ' ')
    .trim();
}
