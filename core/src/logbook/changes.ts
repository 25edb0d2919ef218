/** A value as the log quotes it: short, and nothing is “nothing”. */
export function quoted(value: unknown): string {
  if (value === null || value === undefined || value === '') return 'nothing';
  if (Array.isArray(value)) return value.length ? value.map(String).join(', ') : 'nothing';
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  return `“${text.length > 120 ? `${text.slice(0, 119)}…` : text}”`;
}

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/**
 * What a change changed, in words: `credit line from “A” to “B”`. Only what is named and differs counts.
 * @param words what each field is called.
 */
export function changesInWords(before: object, change: object, words: Readonly<Record<string, string>>): string[] {
  const was = before as Readonly<Record<string, unknown>>;
  return Object.entries(change).flatMap(([field, value]) =>
    value === undefined || !(field in words) || same(was[field], value)
      ? []
      : [`${words[field]} from ${quoted(was[field])} to ${quoted(value)}`],
  );
}
