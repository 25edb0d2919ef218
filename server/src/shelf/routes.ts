import { CalendarQuery, Id, LogExport, LogQuery, type LogCalendar } from '@tally/contract';
import { Router } from 'express';
import { exportLog, logPage } from './logbook.js';
import { sent } from './sent.js';
import { intakesByDay } from './store/log.js';
import { eventsOf, type House, houseTime, theIntake } from '../house/index.js';

/** The weeks of a year and what stands before the first of them. @param day `yyyy-MM-dd` */
const aYearBefore = (day: string) => new Date(Math.max(FIRST_DAY, Date.parse(day) - 380 * 86_400_000)).toISOString().slice(0, 10);
const FIRST_DAY = Date.parse('0001-01-01');

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
