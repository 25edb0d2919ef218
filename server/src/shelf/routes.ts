import { Id, LogExport, LogQuery, type LogCalendar, type LogPage } from '@tally/contract';
import { Router } from 'express';
import { exportLog } from './logbook.js';
import { findIntakes, intakesByDay } from './store.js';
import { eventsOf, type House, summaryOf, theIntake } from '../house/index.js';

/** The logbook: found, counted by day, exported, and the events of one intake. */
export function shelfRoutes(house: House): Router {
  const { db, settings } = house;
  const routes = Router();
  routes.get('/intakes', async (request, response) => {
    const { rows, total, sums } = await findIntakes(db, LogQuery.parse(request.query), settings.zone);
    response.json({ intakes: rows.map(summaryOf), total, sums } satisfies LogPage);
  });
  routes.get('/intakes/calendar', async (_request, response) => {
    response.json({ days: await intakesByDay(db, settings.zone) } satisfies LogCalendar);
  });
  routes.get('/intakes/export.csv', async (request, response) => {
    const csv = await exportLog(house, LogExport.parse(request.query), 'csv');
    response.attachment('logbook.csv').type('text/csv; charset=utf-8; header=present').send(csv);
  });
  routes.get('/intakes/export.tsv', async (request, response) => {
    response.type('text/tab-separated-values; charset=utf-8').send(await exportLog(house, LogExport.parse(request.query), 'tsv'));
  });
  routes.get('/intakes/:id/events', async (request, response) => {
    const id = Id.parse(request.params.id);
    await theIntake(house, id);
    response.json(await eventsOf(db, id));
  });
  return routes;
}
