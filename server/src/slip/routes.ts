import { Id, SlipChange } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { changeSlip } from './slip.js';
import { type House, summaryOf, theIntake } from '../house/index.js';

/** An intake, and what is said of it. */
export function slipRoutes(house: House): Router {
  const routes = Router();
  routes.get('/intakes/:id', async (request, response) => {
    response.json(summaryOf(await theIntake(house, Id.parse(request.params.id))));
  });
  routes.patch('/intakes/:id/slip', async (request, response) => {
    const id = Id.parse(request.params.id);
    await changeSlip(house, id, SlipChange.parse(request.body), personOf(response).name);
    response.json(summaryOf(await theIntake(house, id)));
  });
  return routes;
}
