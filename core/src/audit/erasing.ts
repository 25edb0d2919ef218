import { withholding } from '../rights/index.js';

/** What of somebody is erased from the log, and what stands for it. */
export interface Erased {
  /** Number of the contributor: what was told of the record itself loses its figures. */
  readonly id: number;
  /** How they are called from now on. */
  readonly as: string;
  /** All names they ever had. */
  readonly names: readonly string[];
  /** Addresses, numbers, notes: whatever of it stands in a sentence is `erased`. */
  readonly lines: readonly string[];
}

/** What of an event may be about somebody. */
export interface Telling {
  readonly kind: string;
  readonly who: string | null;
  readonly text: string;
  readonly data: unknown;
}

/** Shorter ones stand in too many sentences that mean something else. */
const SHORTEST_LINE = 5;

const said = (value: unknown, say: (text: string) => string): unknown => {
  if (typeof value === 'string') return say(value);
  if (Array.isArray(value)) return value.map((one) => said(one, say));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, said(one, say)]));
};

/** Was it told of this contributor's own record: corrected, or two that became one? */
function isOfRecord({ kind, data }: Telling, id: number): boolean {
  if (kind !== 'contributor' || typeof data !== 'object' || data === null) return false;
  const { id: of, into } = data as { readonly id?: unknown; readonly into?: unknown };
  return of === id || into === id;
}

/** An event without whom it names; null: it does not name them. What was told of their own record keeps only that it was. */
export function erasing({ id, as, names, lines }: Erased): (event: Telling) => Telling | null {
  const named = withholding(names.map((name) => ({ name, code: as, given: '', family: '' })));
  const long = [...lines].filter((line) => line.length >= SHORTEST_LINE).sort((a, b) => b.length - a.length);
  const say = (text: string) => named(long.reduce((rest, line) => rest.replaceAll(line, 'erased'), text));
  return (event) => {
    if (isOfRecord(event, id)) {
      const text = `${as} was corrected.`;
      return event.text === text && event.data === null ? null : { ...event, text, data: null };
    }
    const after = {
      ...event,
      who: event.who === null ? null : say(event.who),
      text: say(event.text),
      data: said(event.data, say),
    };
    const same =
      after.who === event.who && after.text === event.text && JSON.stringify(after.data) === JSON.stringify(event.data);
    return same ? null : after;
  };
}
