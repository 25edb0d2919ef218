/** How text is compared when somebody looks for it: letter case, accents and widths do not count, spaces count once. */
export const foldText = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .toLowerCase()
    .replace(/\s+/g, ' ')
    .trim();

/** The places in a text where typing may begin to find it: the beginning of each of its words, folded. */
export function startsOf(text: string): string[] {
  const folded = foldText(text);
  const starts = [folded];
  for (const { index } of folded.matchAll(/(?<=[\s\-/·’'(])[\p{L}\p{N}]/gu)) starts.push(folded.slice(index));
  return [...new Set(starts)].filter((start) => start !== '');
}

/** What somebody typed as a list of words: commas, semicolons and line ends part them; doubles count once. */
export function partsOfTyped(typed: string): string[] {
  const seen = new Map<string, string>();
  for (const part of typed.normalize('NFC').split(/[,;\n\r\t]+/)) {
    const text = part.replace(/\s+/g, ' ').trim();
    const folded = foldText(text);
    if (folded && !seen.has(folded)) seen.set(folded, text);
  }
  return [...seen.values()];
}
