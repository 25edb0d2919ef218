import {
  BelongChange,
  ClearanceQuery,
  ClearRequest,
  ClockChange,
  FileRequest,
  HaltRequest,
  RestoreRequest,
  type RestoreAnswer,
  ItemsQuery,
  JudgeChange,
  Id,
  LogExport,
  LogQuery,
  MaterialQuery,
  NewAssignment,
  NewContributor,
  NewRevision,
  SlipChange,
  TakeChange,
  type FileAnswer,
  type LogCalendar,
  type LogPage,
  type RulesAnswer,
} from '@tally/contract';
import { Router, type Request } from 'express';
import { clearanceNow, clearCard } from '../clearing/clearance.js';
import { beginFiling, tryAgain } from '../filing/file.js';
import { haltFiling } from '../filing/halt.js';
import { restoreToCard } from '../clearing/restore.js';
import type { House } from '../house/house.js';
import { cameraBodies, correctClock, judgeItems, splitItems } from '../seeing/judge.js';
import { itemsAnswer } from '../seeing/items.js';
import { exportLog } from '../shelf/logbook.js';
import { deskNow } from '../counter/overview.js';
import { makeAssignment, makeContributor } from '../people/joining.js';
import { placeViews } from '../driving/places.js';
import { planOf } from '../filing/plan.js';
import { revisions, ruleMaterial, saveRule } from '../rules/rules.js';
import { changeSlip, giveBack, takeItems, theIntake } from '../slip/slip.js';
import { eventsOf } from '../house/store/events.js';
import { copiesOf } from '../filing/store/filed.js';
import { findIntakes, intakesByDay, nextLabel, summaryOf } from '../house/store/intakes.js';
import { listAssignments, listContributors } from '../people/store/people.js';
import { personOf } from './guard.js';

const idOf = (request: Request): number => Id.parse(request.params['id']);

/** Routes for signed-in people: parse, call a use case, answer. */
export function apiRoutes(house: House): Router {
  const { db, settings } = house;
  const routes = Router();

  routes.get('/desk', async (_request, response) => void response.json(await deskNow(house)));
  routes.get('/places', async (_request, response) => void response.json(await placeViews(db, house.clock())));
  routes.get('/rules', async (_request, response) => {
    response.json({ revisions: await revisions(db) } satisfies RulesAnswer);
  });
  routes.post('/rules', async (request, response) => {
    const revision = await saveRule(house, NewRevision.parse(request.body), personOf(response).name);
    response.status(201).json({ revision });
  });
  routes.get('/rules/material', async (request, response) => {
    response.json(await ruleMaterial(house, MaterialQuery.parse(request.query).intake));
  });
  routes.get('/labels/next', async (_request, response) => void response.json({ label: await nextLabel(db) }));

  routes.get('/contributors', async (_request, response) => void response.json(await listContributors(db)));
  routes.post('/contributors', async (request, response) => {
    const id = await makeContributor(house, NewContributor.parse(request.body), personOf(response).name);
    response.status(201).json({ id });
  });
  routes.get('/assignments', async (_request, response) => void response.json(await listAssignments(db)));
  routes.post('/assignments', async (request, response) => {
    const id = await makeAssignment(house, NewAssignment.parse(request.body), personOf(response).name);
    response.status(201).json({ id });
  });

  routes.get('/intakes', async (request, response) => {
    const { rows, total } = await findIntakes(db, LogQuery.parse(request.query), settings.zone);
    response.json({ intakes: rows.map(summaryOf), total } satisfies LogPage);
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
  routes.get('/intakes/:id', async (request, response) => void response.json(summaryOf(await theIntake(house, idOf(request)))));
  routes.get('/intakes/:id/items', async (request, response) => {
    await theIntake(house, idOf(request));
    response.json(await itemsAnswer(house, idOf(request), ItemsQuery.parse(request.query).since));
  });
  routes.get('/intakes/:id/copies', async (request, response) => {
    await theIntake(house, idOf(request));
    response.json(await copiesOf(db, idOf(request)));
  });
  routes.get('/intakes/:id/events', async (request, response) => {
    await theIntake(house, idOf(request));
    response.json(await eventsOf(db, idOf(request)));
  });
  routes.patch('/intakes/:id/slip', async (request, response) => {
    await changeSlip(house, idOf(request), SlipChange.parse(request.body), personOf(response).name);
    response.json(summaryOf(await theIntake(house, idOf(request))));
  });
  routes.patch('/intakes/:id/taken', async (request, response) => {
    await takeItems(house, idOf(request), TakeChange.parse(request.body));
    response.json(summaryOf(await theIntake(house, idOf(request))));
  });
  routes.patch('/intakes/:id/judged', async (request, response) => {
    await judgeItems(house, idOf(request), JudgeChange.parse(request.body));
    response.status(204).end();
  });
  routes.patch('/intakes/:id/belongs', async (request, response) => {
    await splitItems(house, idOf(request), BelongChange.parse(request.body), personOf(response).name);
    response.json(summaryOf(await theIntake(house, idOf(request))));
  });
  routes.get('/intakes/:id/bodies', async (request, response) => {
    response.json(await cameraBodies(house, idOf(request)));
  });
  routes.patch('/intakes/:id/clock', async (request, response) => {
    const items = await correctClock(house, idOf(request), ClockChange.parse(request.body), personOf(response).name);
    response.json({ items });
  });
  routes.get('/intakes/:id/plan', async (request, response) => {
    response.json((await planOf(house, db, idOf(request), false)).view);
  });
  routes.post('/intakes/:id/file', async (request, response) => {
    const { seal } = FileRequest.parse(request.body);
    const answer: FileAnswer = await beginFiling(house, idOf(request), seal, personOf(response).name);
    response.status(answer.outcome === 'begun' ? 202 : 409).json(answer);
  });
  routes.post('/intakes/:id/again', async (request, response) => {
    await tryAgain(house, idOf(request), personOf(response).name);
    response.status(202).end();
  });
  routes.post('/intakes/:id/halt', async (request, response) => {
    await haltFiling(house, idOf(request), HaltRequest.parse(request.body).wish, personOf(response).name);
    response.status(202).end();
  });
  routes.get('/intakes/:id/clearance', async (request, response) => {
    const { full, items } = ClearanceQuery.parse(request.query);
    response.json(await clearanceNow(house, idOf(request), full, items));
  });
  routes.post('/intakes/:id/clear', async (request, response) => {
    response.json(await clearCard(house, idOf(request), ClearRequest.parse(request.body), personOf(response).name));
  });
  routes.post('/intakes/:id/restore', async (request, response) => {
    const { cardOf } = RestoreRequest.parse(request.body);
    response.json((await restoreToCard(house, idOf(request), cardOf, personOf(response).name)) satisfies Readonly<RestoreAnswer>);
  });
  routes.post('/intakes/:id/give-back', async (request, response) => {
    await giveBack(house, idOf(request), personOf(response).name);
    response.status(204).end();
  });

  return routes;
}
