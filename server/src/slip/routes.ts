import { CreditChange, Id, SlipChange } from '@tally/contract';
import { raw, Router } from 'express';
import { personOf } from '../http/guard.js';
import { changeCredit, intakeCredit, whereShown } from './credit.js';
import { matchTrack } from './track.js';
import { changeSlip } from './slip.js';
import { type House, summaryOf, theIntake } from '../house/index.js';

/** An intake, what is said of it, and the credit of its items. */
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
  routes.get('/intakes/:id/credit', async (request, response) => {
    response.json(await intakeCredit(house, Id.parse(request.params.id)));
  });
  routes.post('/intakes/:id/track', raw({ type: () => true, limit: '20mb' }), async (request, response) => {
    const body: unknown = request.body;
    const gpx = Buffer.isBuffer(body) ? body.toString('utf8') : '';
    response.json(await matchTrack(house, Id.parse(request.params.id), gpx, personOf(response).name));
  });
  routes.patch('/credit', async (request, response) => {
    response.json(await changeCredit(house, CreditChange.parse(request.body), personOf(response).name));
  });
  routes.get('/lists/pictured/:id/shown', async (request, response) => {
    response.json(await whereShown(house, Id.parse(request.params.id)));
  });
  return routes;
}
