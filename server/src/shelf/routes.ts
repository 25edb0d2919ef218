import { CalendarQuery, Id, LogExport, LogQuery, type LogCalendar } from '@tally/contract';
import { type Response, Router } from 'express';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { exportLog, logPage } from './logbook.js';
import { intakesByDay } from './store.js';
import { eventsOf, type House, houseTime, theIntake } from '../house/index.js';

/** The weeks of a year and what stands before the first of them. @param day `yyyy-MM-dd` */
const aYearBefore = (day: string) => new Date(Math.max(FIRST_DAY, Date.parse(day) - 380 * 86_400_000)).toISOString().slice(0, 10);
const FIRST_DAY = Date.parse('0001-01-01');

/** Sends a log piece by piece: whoever goes away while it is sent ends it. */
async function sent(response: Response, log: AsyncGenerator<string>): Promise<void> {
  // What goes wrong with the first piece is still an answer.
  const first = await log.next();
  const pieces = async function* () {
    if (!first.done) yield first.value;
    yield* log;
  };
  await pipeline(Readable.from(pieces()), response).catch((error: unknown) => {
    if (!response.destroyed) response.destroy(error as Error);
  });
}

/** The logbook: found, counted by day, exported, and the events of one intake. */
export function shelfRoutes(house: House): Router {
  const { db, settings } = house;
  const routes = Router();
  routes.get('/intakes', async (request, response) => {
    response.json(await logPage(house, LogQuery.parse(request.query)));
  });
  routes.get('/intakes/calendar', async (request, response) => {
    const { from, to } = CalendarQuery.parse(request.query);
    const until = to ?? houseTime(house, house.clock()).slice(0, 10);
    response.json({ days: await intakesByDay(db, settings.zone, from ?? aYearBefore(until), until) } satisfies LogCalendar);
  });
  routes.get('/intakes/export.csv', async (request, response) => {
    const log = exportLog(house, LogExport.parse(request.query), 'csv');
    await sent(response.attachment('logbook.csv').type('text/csv; charset=utf-8; header=present'), log);
  });
  routes.get('/intakes/export.tsv', async (request, response) => {
    const log = exportLog(house, LogExport.parse(request.query), 'tsv');
    await sent(response.type('text/tab-separated-values; charset=utf-8'), log);
  });
  routes.get('/intakes/:id/events', async (request, response) => {
    const id = Id.parse(request.params.id);
    await theIntake(house, id);
    response.json(await eventsOf(db, id));
  });
  return routes;
}
