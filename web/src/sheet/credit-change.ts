import type { CreditChange, ItemCreditView, ItemView } from '@tally/contract';
import { foldText } from '@tally/core/words';

/** What is said of items, without which items they are. */
export type CreditSaid = Omit<CreditChange, 'itemIds' | 'was' | 'contributorId' | 'description'>;

export const NO_CREDIT: ItemCreditView = {
  ...{ creditLine: null, copyrightNotice: null, termsId: null, locationId: null },
  ...{ words: [], pictured: [], position: null },
};

const LINES = ['creditLine', 'copyrightNotice', 'termsId', 'locationId'] as const;

/**
 * What an item's credit is once a change has been said: as the server will have it, as far as can be known here. A word
 * that is new has no number yet.
 */
export function credited(credit: ItemCreditView, change: CreditSaid): ItemCreditView {
  const lines = Object.fromEntries(LINES.filter((line) => change[line] !== undefined).map((line) => [line, change[line]]));
  const removed = new Set(change.removeWordIds);
  const added = (change.addWords ?? []).filter(
    (text) => !credit.words.some((word) => word.has && foldText(word.text) === foldText(text)),
  );
  const gone = new Set(change.removePicturedIds);
  const shown = (change.addPictured ?? []).filter(
    (name) => !credit.pictured.some((one) => one.name.toLowerCase() === name.toLowerCase()),
  );
  return {
    ...credit,
    ...lines,
    words: [...credit.words.filter(({ id }) => !removed.has(id)), ...added.map((text, i) => ({ id: -1 - i, text, has: true }))],
    pictured: [
      ...credit.pictured.filter(({ id }) => !gone.has(id)),
      ...shown.map((name, i) => ({ id: -1 - i, name, consent: 'ask' as const, until: null, purpose: '' })),
    ],
  };
}

/** What is on screen of the lines that a change replaces: if it is something else by now, nobody replaces it unseen. */
export function seenOf(items: readonly Pick<ItemView, 'credit'>[], change: CreditSaid): NonNullable<CreditChange['was']> {
  const lines = LINES.filter((line) => change[line] !== undefined);
  return Object.fromEntries(lines.map((line) => [line, [...new Set(items.map(({ credit }) => credit?.[line] ?? null))]]));
}

/** The change that leads from one credit to another; empty when they are the same. */
export function wayBack(now: ItemCreditView, then: ItemCreditView): CreditSaid {
  const lines = Object.fromEntries(LINES.filter((line) => now[line] !== then[line]).map((line) => [line, then[line]]));
  const has = (credit: ItemCreditView) => credit.words.filter((word) => word.has);
  const addWords = has(then)
    .filter(({ id }) => !has(now).some((word) => word.id === id))
    .map(({ text }) => text);
  const lost = now.words.filter(({ has: own, id }) => !own && !then.words.some((word) => word.id === id && !word.has));
  const removeWordIds = has(now)
    .filter(({ id }) => id > 0 && !has(then).some((word) => word.id === id))
    .map(({ id }) => id);
  const addPictured = then.pictured.filter(({ id }) => !now.pictured.some((one) => one.id === id)).map(({ name }) => name);
  const removePicturedIds = now.pictured
    .filter(({ id }) => id > 0 && !then.pictured.some((one) => one.id === id))
    .map(({ id }) => id);
  const words = [...addWords, ...lost.map(({ text }) => text)];
  return {
    ...lines,
    ...(words.length ? { addWords: words } : {}),
    ...(removeWordIds.length ? { removeWordIds } : {}),
    ...(addPictured.length ? { addPictured } : {}),
    ...(removePicturedIds.length ? { removePicturedIds } : {}),
  };
}
