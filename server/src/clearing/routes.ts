import { ClearanceQuery, ClearRequest, Id, RestoreRequest, type RestoreAnswer } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { clearanceNow, clearCard } from './clearance.js';
import { restoreToCard } from './restore.js';
import type { House } from '../house/index.js';

/** May a card be cleared? Clear it; put it back as it was. */
export function clearingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/intakes/:id/clearance', async (request, response) => {
    const { full, items } = ClearanceQuery.parse(request.query);
    response.json(await clearanceNow(house, Id.parse(request.params.id), full, items));
  });
  routes.post('/intakes/:id/clear', async (request, response) => {
    const ask = ClearRequest.parse(request.body);
    response.json(await clearCard(house, Id.parse(request.params.id), ask, personOf(response).name));
  });
  routes.post('/intakes/:id/restore', async (request, response) => {
    const { cardOf } = RestoreRequest.parse(request.body);
    const answer = await restoreToCard(house, Id.parse(request.params.id), cardOf, personOf(response).name);
    response.json(answer satisfies Readonly<RestoreAnswer>);
  });
  return routes;
}
