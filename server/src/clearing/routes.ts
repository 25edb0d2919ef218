import { ClearanceQuery, ClearRequest, Id, LetGoRequest, RestoreRequest, type RestoreAnswer } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { clearanceOf, clearAt, letGoAt, restoreAt } from './at-station.js';
import type { House } from '../house/index.js';

/** May a card be cleared? Clear it; put it back as it was. */
export function clearingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/intakes/:id/clearance', async (request, response) => {
    const { full, items } = ClearanceQuery.parse(request.query);
    response.json(await clearanceOf(house, Id.parse(request.params.id), full, items));
  });
  routes.post('/intakes/:id/clear', async (request, response) => {
    const ask = ClearRequest.parse(request.body);
    response.json(await clearAt(house, Id.parse(request.params.id), ask, personOf(response).name));
  });
  routes.post('/intakes/:id/let-go', async (request, response) => {
    const ask = LetGoRequest.parse(request.body);
    response.json(await letGoAt(house, Id.parse(request.params.id), ask, personOf(response).name));
  });
  routes.post('/intakes/:id/restore', async (request, response) => {
    const { cardOf } = RestoreRequest.parse(request.body);
    const answer = await restoreAt(house, Id.parse(request.params.id), cardOf, personOf(response).name);
    response.json(answer satisfies Readonly<RestoreAnswer>);
  });
  return routes;
}
