import { BelongChange, ClockChange, HereRequest, Id, ItemsQuery, JudgeChange, TakeChange } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { itemsAnswer } from './items.js';
import { cameraBodies, correctClock, judgeItems, splitItems } from './judge.js';
import { takeItems } from './take.js';
import { type House, summaryOf, tell, theIntake } from '../house/index.js';

/** The items of an intake, and what a person does to them. */
export function seeingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/intakes/:id/items', async (request, response) => {
    const id = Id.parse(request.params.id);
    await theIntake(house, id);
    response.json(await itemsAnswer(house, id, ItemsQuery.parse(request.query).since));
  });
  routes.patch('/intakes/:id/taken', async (request, response) => {
    const id = Id.parse(request.params.id);
    await takeItems(house, id, TakeChange.parse(request.body));
    response.json(summaryOf(await theIntake(house, id)));
  });
  routes.post('/intakes/:id/here', async (request, response) => {
    const id = Id.parse(request.params.id);
    const here = HereRequest.parse(request.body);
    await theIntake(house, id);
    // Nothing is kept of it: whoever has it open says so again, and whoever comes asks by saying so.
    await tell(house.db, { type: 'here', intakeId: id, who: personOf(response).name, ...here });
    response.status(204).end();
  });
  routes.patch('/intakes/:id/judged', async (request, response) => {
    await judgeItems(house, Id.parse(request.params.id), JudgeChange.parse(request.body));
    response.status(204).end();
  });
  routes.patch('/intakes/:id/belongs', async (request, response) => {
    const id = Id.parse(request.params.id);
    await splitItems(house, id, BelongChange.parse(request.body), personOf(response).name);
    response.json(summaryOf(await theIntake(house, id)));
  });
  routes.get('/intakes/:id/bodies', async (request, response) => {
    response.json(await cameraBodies(house, Id.parse(request.params.id)));
  });
  routes.patch('/intakes/:id/clock', async (request, response) => {
    const change = ClockChange.parse(request.body);
    response.json({ items: await correctClock(house, Id.parse(request.params.id), change, personOf(response).name) });
  });
  return routes;
}
