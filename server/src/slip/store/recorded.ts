import type { ItemCreditView, RecordedCredit } from '@tally/contract';
import type { Db } from '../../db/database.js';
import { nameOfWord } from '../../people/index.js';

/** What an item says of credit itself, with whose it is and what it was shot for. */
export type OwnCredit = Omit<ItemCreditView, 'pictured' | 'position'> & {
  readonly itemId: number;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  /** Year of the capture. */
  readonly year: string;
  readonly lat: number | null;
  readonly lon: number | null;
  readonly pictured: RecordedCredit['personShown'];
};

export async function ownCredits(db: Db, intakeId: number): Promise<Map<number, OwnCredit>> {
  const rows = await db.query<OwnCredit[]>(
    `select i.id as "itemId", coalesce(i.contributor_id, n.contributor_id) as "contributorId", coalesce(i.assignment_id, n.assignment_id) as "assignmentId",
       left(i.captured_local, 4) as year, c.credit_line as "creditLine", c.copyright_notice as "copyrightNotice", c.terms_id as "termsId",
       c.location_id as "locationId", c.lat, c.lon, coalesce(w.words, '[]') as words, coalesce(p.pictured, '[]') as pictured
     from item i join intake n on n.id = i.intake_id left join item_credit c on c.item_id = i.id
     left join (select w.item_id, json_agg(json_build_object('id', w.word_id, 'text', ${nameOfWord('w.word_id')}, 'has', w.has) order by w.word_id) as words
       from item o join item_word w on w.item_id = o.id where o.intake_id = $1 group by 1) w on w.item_id = i.id
     left join (select w.item_id, json_agg(json_build_object('name', q.name, 'consent', q.consent, 'until', to_char(q.until, 'YYYY-MM-DD')) order by q.name) as pictured
       from item o join item_pictured w on w.item_id = o.id join pictured q on q.id = w.pictured_id where o.intake_id = $1 group by 1) p on p.item_id = i.id
     where i.intake_id = $1`,
    [intakeId],
  );
  return new Map(rows.map((row) => [row.itemId, row]));
}
