import type { Desk } from '@tally/contract';
import { daysForgotten } from '@tally/core/trays';
import { handedInCards, listThings } from './store.js';
import { type House, houseTime, intakesWhere, rebuildingFrom, summaryOf } from '../house/index.js';
import { expectedSince } from '../people/index.js';
import { backupsNow } from '../backing/index.js';
import { placeViews } from '../driving/index.js';

/** So long after its last day an assignment is still expected. */
const LATELY_MS = 44 * 86_400_000;

/** The desk: what lies in which tray, what is still expected, how the places stand. */
export async function deskNow(house: House): Promise<Desk> {
  const { db } = house;
  // A card shows once, with its newest intake. Without a label a card that was pulled before it was begun is not kept track of.
  const rows = await intakesWhere(
    db,
    `i.id in (select (select max(n.id) from intake n where n.card_id = c.id) from card c where c.tray <> 'out')
     and (k.tray <> 'in' or i.received_at >= k.tray_since or i.state <> 'closed')
     and (i.present or i.state in ('filing', 'needs attention', 'tallied') or (i.state = 'open' and k.label is not null))
     order by i.received_at, i.id`,
    [],
  );
  const today = houseTime(house, house.clock()).slice(0, 10);
  const summaries = rows.map(summaryOf);
  const handed = await handedInCards(db);
  return {
    in: summaries.filter((intake) => intake.tray === 'in'),
    onTheDesk: summaries.filter((intake) => intake.tray === 'on the desk'),
    toGiveBack: summaries.filter((intake) => intake.tray === 'to give back'),
    handedIn: handed.map((card) => ({ ...card, days: daysForgotten(new Date(card.since), house.clock()) })),
    out: await listThings(db, today, true),
    expected: await expectedSince(db, new Date(Date.parse(today) - LATELY_MS).toISOString().slice(0, 10)),
    places: await placeViews(house),
    backups: await backupsNow(house),
    rebuilding: (await rebuildingFrom(db)) !== null,
  };
}
