import type { Desk } from '@tally/contract';
import { intakesWhere, summaryOf } from '../store/intakes.js';
import { listAssignments } from '../store/people.js';
import type { House } from './house.js';
import { placeViews } from './places.js';
import { houseTime } from './receive.js';

/** The desk: what lies in which tray, what is still expected, how the places stand. */
export async function deskNow(house: House): Promise<Desk> {
  const { db } = house;
  // A card shows once, with its newest intake; a card that is neither here nor being worked on is not on the desk.
  const rows = await intakesWhere(
    db,
    `k.tray <> 'out' and i.id = (select max(n.id) from intake n where n.card_id = i.card_id)
     and (i.present or i.state in ('filing', 'needs attention', 'tallied')) order by i.received_at, i.id`,
    [],
  );
  const today = houseTime(house, house.clock()).slice(0, 10);
  const recently = (day: string) => Date.parse(today) - Date.parse(day) < 45 * 86_400_000;
  const summaries = rows.map(summaryOf);
  const expected = (await listAssignments(db)).filter(
    (assignment) => assignment.receivedCards < assignment.expectedCards && recently(assignment.to),
  );
  return {
    in: summaries.filter((intake) => intake.tray === 'in'),
    onTheDesk: summaries.filter((intake) => intake.tray === 'on the desk'),
    toGiveBack: summaries.filter((intake) => intake.tray === 'to give back'),
    expected: expected.reverse(),
    places: await placeViews(db, house.clock()),
  };
}
