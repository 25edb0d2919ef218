/** A file of an intake, as a record says. */
interface ItemSaid {
  /** Path from the record's folder. */
  readonly name: string;
  /** Path on the card. */
  readonly from: string;
}

interface RecordSaid<I extends ItemSaid> {
  /** ISO 8601, UTC; null: it says not. */
  readonly writtenAt: string | null;
  readonly items: readonly I[];
}

/** A record as it was found at a place. */
export interface RecordFound<R> {
  readonly placeId: string;
  /** The folder that it explains, from the place's root. */
  readonly folder: string;
  /** Is it what was written, by a second one or by its hash? */
  readonly proven: boolean;
  readonly record: R;
}

/** An item, and what each place says of it. */
export interface ItemTold<I> {
  readonly folder: string;
  /** As the record says that counts. */
  readonly item: I;
  /** As the record of each place says where it stands under that name; in the order of places. */
  readonly at: readonly { readonly placeId: string; readonly item: I }[];
}

/** Where a place says something else than the record that counts. */
export interface Difference {
  readonly placeId: string;
  readonly folder: string;
  readonly name: string;
  readonly what: 'stands elsewhere' | 'is no more' | 'is not recorded';
}

export interface IntakeTold<R, I> {
  /** What counts for the whole intake. */
  readonly record: R;
  readonly items: readonly ItemTold<I>[];
  readonly differences: readonly Difference[];
}

/** Records in the order in which they count: proven ones first, then the newer, then by the order given. */
export const newestFirst = <R extends { readonly writtenAt: string | null }>(
  found: readonly RecordFound<R>[],
): RecordFound<R>[] =>
  [...found].sort(
    (a, b) =>
      Number(b.proven) - Number(a.proven) ||
      Date.parse(b.record.writtenAt ?? '1970-01-01T00:00:00Z') - Date.parse(a.record.writtenAt ?? '1970-01-01T00:00:00Z'),
  );

/**
 * What the records of one intake come to. In each folder the record counts that is proven and newest; of an item that two
 * folders name, the newer record knows where it stands. @param all one at least
 */
export function intakeTold<I extends ItemSaid, R extends RecordSaid<I>>(all: readonly RecordFound<R>[]): IntakeTold<R, I> {
  const order = newestFirst(all);
  // Of several that one folder of a place has, as copied by hand, only the first counts.
  const best = new Map<string, RecordFound<R>>();
  for (const one of order) {
    const key = JSON.stringify([one.placeId, one.folder]);
    if (!best.has(key)) best.set(key, one);
  }
  const found = all.filter((one) => best.get(JSON.stringify([one.placeId, one.folder])) === one);
  const named = new Map(found.map((one) => [one, new Map(one.record.items.map((item) => [item.name, item]))]));
  const counts = new Map<string, RecordFound<R>>();
  for (const one of order) if (!counts.has(one.folder)) counts.set(one.folder, one);
  const inFolder = new Map<string, RecordFound<R>[]>();
  for (const one of found) inFolder.set(one.folder, [...(inFolder.get(one.folder) ?? []), one]);
  const items = new Map<string, ItemTold<I>>();
  const differences: Difference[] = [];
  for (const { folder, record, placeId } of counts.values())
    for (const item of record.items) {
      if (items.has(item.from)) {
        differences.push({ placeId, folder, name: item.name, what: 'stands elsewhere' });
        continue;
      }
      const at = inFolder.get(folder)!.flatMap((one) => {
        const said = named.get(one)!.get(item.name);
        return said?.from === item.from ? [{ placeId: one.placeId, item: said }] : [];
      });
      items.set(item.from, { folder, item, at });
    }
  for (const one of found) {
    const counting = counts.get(one.folder)!;
    if (one === counting) continue;
    const [here, there] = [named.get(one)!, named.get(counting)!];
    const differs = (name: string, what: Difference['what']) =>
      differences.push({ placeId: one.placeId, folder: one.folder, name, what });
    for (const name of here.keys()) if (!there.has(name)) differs(name, 'is no more');
    for (const name of there.keys()) if (!here.has(name)) differs(name, 'is not recorded');
  }
  return { record: order[0]!.record, items: [...items.values()], differences };
}
