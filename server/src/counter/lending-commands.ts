import { EXIT, jsonLine, say, table, WHO, WrongUse } from '../cli/output.js';
import { Day, LendRequest, NewThing, type Thing, THING_KINDS, type ThingKey, TRAYS } from '@tally/contract';
import { dueAfter } from '@tally/core/trays';
import { lend, lendingList, makeThing, takeBack, today } from './lending.js';
import { deskNow } from './overview.js';
import { moveCard } from './trays.js';
import { kitOfLabel } from './store.js';
import { cardOfLabel, type House, houseTime } from '../house/index.js';
import { contributorByCode } from '../people/index.js';

/** `tally trays`: what lies in which tray, since when, and what is out. */
export async function trayCommand(house: House, options: { json?: boolean }): Promise<number> {
  const desk = await deskNow(house);
  const local = (at: string) => houseTime(house, new Date(at)).slice(0, 16).replace('T', ' ');
  const read = [...desk.in, ...desk.onTheDesk, ...desk.toGiveBack];
  const lines = [
    ...desk.handedIn.map(({ label, since, days, from }) => ({
      ...{ tray: 'in', card: label, since: local(since), who: from?.name ?? null },
      says: days ? `not read for ${days} ${days === 1 ? 'day' : 'days'}` : 'handed in, not read',
      attention: days > 0,
    })),
    ...read.map(({ tray, card, contributor, receivedAt, state, note }) => ({
      ...{ tray, card: card.label ?? card.volume, since: local(receivedAt), who: contributor?.name ?? null },
      says: note ?? state,
      attention: state === 'needs attention',
    })),
    ...desk.out.map((thing) => ({
      ...{ tray: 'out', card: thing.label ?? thing.name, since: local(thing.loan!.since), who: thing.loan!.to.name },
      says: standing(thing),
      attention: thing.loan!.standing === 'overdue',
    })),
  ];
  if (options.json) lines.forEach(jsonLine);
  else
    table(
      ['tray', 'card', 'since', 'from or to', 'now'],
      lines.map(({ tray, card, since, who, says }) => [tray, card, since, who, says]),
    );
  return lines.some(({ attention }) => attention) ? EXIT.attention : EXIT.done;
}

/** `tally move LABEL TRAY` */
export async function moveCommand(house: House, label: string, tray: string): Promise<number> {
  const to = TRAYS.find((known) => known === tray);
  if (!to) throw new WrongUse(`There is no tray ${tray}: the trays are ${TRAYS.map((known) => `"${known}"`).join(', ')}.`);
  const card = await cardOfLabel(house.db, label);
  if (!card) throw new WrongUse(`No card has the label ${label}.`);
  await moveCard(house, card.id, to, WHO);
  say(`${card.label} is in the tray "${to}" now.`);
  return EXIT.done;
}

/** `tally lending`: everything of the house that is lent, what is out first. */
export async function lendingCommand(house: House, options: { out?: boolean; json?: boolean }): Promise<number> {
  const { things } = await lendingList(house, options.out ?? false);
  if (options.json) things.forEach(jsonLine);
  else
    table(
      ['label', 'kind', 'name', 'lent to', 'since', 'due', 'now'],
      things.map((thing) => [
        ...[thing.label, thing.kind, thing.name, thing.loan?.to.name ?? ''],
        ...[thing.loan ? houseTime(house, new Date(thing.loan.since)).slice(0, 10) : '', thing.loan?.due ?? '', standing(thing)],
      ]),
    );
  return things.some(({ loan }) => loan?.standing === 'overdue') ? EXIT.attention : EXIT.done;
}

function standing({ loan, tray }: Thing): string {
  if (!loan) return tray && tray !== 'out' ? tray : 'here';
  return loan.standing === 'overdue' ? `overdue, ${loan.daysLate} ${loan.daysLate === 1 ? 'day' : 'days'}` : loan.standing;
}

export interface LendOptions {
  readonly to: string;
  readonly due?: string;
  readonly days?: string;
  readonly note?: string;
}

/** `tally lend LABEL… --to CODE` */
export async function lendCommand(house: House, labels: readonly string[], options: LendOptions): Promise<number> {
  const contributor = await contributorByCode(house.db, options.to);
  if (!contributor) throw new WrongUse(`There is no contributor with the code ${options.to}.`);
  if (options.due !== undefined && options.days !== undefined) throw new WrongUse('Say --due or --days, not both.');
  if (options.due !== undefined && !Day.safeParse(options.due).success) throw new WrongUse('--due is a day such as 2026-05-02.');
  if (options.days !== undefined && !/^\d{1,3}$/.test(options.days)) throw new WrongUse('--days is a number of days.');
  const due = options.days === undefined ? (options.due ?? null) : dueAfter(today(house), Number(options.days));
  const things = await Promise.all(labels.map((label) => keyOf(house.db, label)));
  const request = LendRequest.parse({ things, contributorId: contributor.id, due, note: options.note ?? '' });
  await lend(house, request, WHO);
  say(`${labels.join(', ')} lent to ${contributor.name}${due ? `, due ${due}` : ''}.`);
  return EXIT.done;
}

/** `tally back LABEL…` */
export async function backCommand(house: House, labels: readonly string[], options: { unused?: boolean }): Promise<number> {
  const things = await Promise.all(labels.map((label) => keyOf(house.db, label)));
  await takeBack(house, things, options.unused ?? false, WHO);
  say(`${labels.join(', ')} ${labels.length === 1 ? 'is' : 'are'} back.`);
  return EXIT.done;
}

/** `tally thing LABEL --kind KIND`: adds to the lending list. */
export async function thingCommand(house: House, label: string, options: { kind: string; name?: string }): Promise<number> {
  const thing = NewThing.safeParse({ label, kind: options.kind, name: options.name ?? '' });
  if (!thing.success) throw new WrongUse(`A thing has a label of at most 24 characters; --kind is ${THING_KINDS.join(', ')}.`);
  await makeThing(house, thing.data, WHO);
  say(`${label} is on the lending list.`);
  return EXIT.done;
}

async function keyOf(db: House['db'], label: string): Promise<ThingKey> {
  const card = await cardOfLabel(db, label);
  if (card) return { kind: 'card', id: card.id };
  const kit = await kitOfLabel(db, label);
  if (!kit) throw new WrongUse(`Nothing has the label ${label}.`);
  return kit;
}
