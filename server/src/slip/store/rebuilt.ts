import type { Db } from '../../db/database.js';

/** What was said of an item itself, by ids. */
export interface ItemSays {
  readonly itemId: number;
  readonly creditLine: string | null;
  readonly copyrightNotice: string | null;
  readonly termsId: number | null;
  readonly locationId: number | null;
  readonly lat: number | null;
  readonly lon: number | null;
  readonly standing: object;
  readonly words: readonly { readonly id: number; readonly has: boolean }[];
  readonly picturedIds: readonly number[];
}

/** What slips and items said themselves, put back as the records tell it. Call it in a transaction. */
export async function rebuildSayings(
  tx: Db,
  intakeId: number,
  slip: {
    creditLine: string | null;
    copyrightNotice: string | null;
    termsId: number | null;
    locationId: number | null;
    wordIds: readonly number[];
  },
  items: readonly ItemSays[],
): Promise<void> {
  await tx.query('insert into intake_word (intake_id, word_id) select $1, unnest($2::int[]) on conflict do nothing', [
    intakeId,
    slip.wordIds,
  ]);
  const said = items.filter(
    ({ creditLine, copyrightNotice, termsId, locationId, lat, lon, standing }) =>
      [creditLine, copyrightNotice, termsId, locationId, lat, lon].some((one) => one !== null) ||
      Object.keys(standing).length > 0,
  );
  await tx.query(
    `insert into item_credit (item_id, credit_line, copyright_notice, terms_id, location_id, lat, lon, standing)
     select "itemId", "creditLine", "copyrightNotice", "termsId", "locationId", lat, lon, standing from jsonb_to_recordset($1::jsonb)
       as r("itemId" int, "creditLine" text, "copyrightNotice" text, "termsId" int, "locationId" int, lat float8, lon float8, standing jsonb)
     on conflict do nothing`,
    [JSON.stringify(said)],
  );
  await tx.query(
    `insert into item_word (item_id, word_id, has) select item, word, has from jsonb_to_recordset($1::jsonb) as r(item int, word int, has boolean) on conflict do nothing`,
    [JSON.stringify(items.flatMap(({ itemId, words }) => words.map(({ id, has }) => ({ item: itemId, word: id, has }))))],
  );
  await tx.query(
    `insert into item_pictured (item_id, pictured_id) select item, pictured from jsonb_to_recordset($1::jsonb) as r(item int, pictured int) on conflict do nothing`,
    [JSON.stringify(items.flatMap(({ itemId, picturedIds }) => picturedIds.map((pictured) => ({ item: itemId, pictured }))))],
  );
}
