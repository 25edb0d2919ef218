import type { Desk } from '@tally/contract';
import { daysForgotten } from '@tally/core/trays';
import { handedInCards, listThings } from './store.js';
import { type House, houseTime, intakesWhere, summaryOf } from '../house/index.js';
import { listAssignments } from '../people/index.js';
import { placeViews } from '../driving/index.js';

/** The desk: what lies in which tray, what is still expected, how the places stand. */
export async function deskNow(house: House): Promise<Desk> {
  const { db } = house;
  // A card shows once, with its newest intake. Without a label a card that was pulled before it was begun is not kept track of.
  const rows = await intakesWhere(
    db,
    `k.tray <> 'out' and i.id = (select max(n.id) from intake n where n.card_id = i.card_id)
     and (k.tray <> 'in' or i.received_at >= k.tray_since or i.state <> 'closed')
     and (i.present or i.state in ('filing', 'needs attention', 'tallied') or (i.state = 'open' and k.label is not null))
     order by i.received_at, i.id`,
    [],
  );
  const today = houseTime(house, house.clock()).slice(0, 10);
  const recently = (day: string) => Date.parse(today) - Date.parse(day) < 45 * 86_400_000;
  const summaries = rows.map(summaryOf);
  const handed = await handedInCards(db);
  const expected = (await listAssignments(db)).filter(
    (assignment) => !assignment.retired && assignment.receivedCards < assignment.expectedCards && recently(assignment.to),
  );
  return {
    in: summaries.filter((intake) => intake.tray === 'in'),
    onTheDesk: summaries.filter((intake) => intake.tray === 'on the desk'),
    toGiveBack: summaries.filter((intake) => intake.tray === 'to give back'),
    handedIn: handed.map((card) => ({ ...card, days: daysForgotten(new Date(card.since), house.clock()) })),
    out: await listThings(db, today, true),
    expected: expected.reverse(),
    places: await placeViews(house),
  };
}
