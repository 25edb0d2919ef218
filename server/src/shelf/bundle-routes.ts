import {
  BundleChange,
  BundleOrder,
  Id,
  IntoBundle,
  NewBundle,
  NewStanding,
  OutOfBundle,
  SlipBundles,
  StandingChange,
} from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { type House, theIntake } from '../house/index.js';
import { changeBundle, emptyBundle, endBundle, fillBundle, makeBundle, moveInBundle, sayBundles } from './bundles.js';
import { changeStanding, endStanding, keepQuestion, lookAtStanding, standingViews } from './standing.js';
import { allBundles, bundlesOfIntake } from './store/bundles.js';

/** Bundles, and questions that are kept. */
export function bundleRoutes(house: House): Router {
  const routes = Router();
  routes.get('/bundles', async (_request, response) => {
    response.json(await allBundles(house.db));
  });
  routes.post('/bundles', async (request, response) => {
    response.status(201).json(await makeBundle(house, NewBundle.parse(request.body), personOf(response).name));
  });
  routes.patch('/bundles/:id', async (request, response) => {
    const change = BundleChange.parse(request.body);
    response.json(await changeBundle(house, Id.parse(request.params.id), change, personOf(response).name));
  });
  routes.delete('/bundles/:id', async (request, response) => {
    await endBundle(house, Id.parse(request.params.id), personOf(response).name);
    response.status(204).end();
  });
  routes.post('/bundles/:id/items', async (request, response) => {
    const meant = IntoBundle.parse(request.body);
    response.json(await fillBundle(house, Id.parse(request.params.id), meant, personOf(response).name));
  });
  routes.patch('/bundles/:id/without', async (request, response) => {
    const { itemIds } = OutOfBundle.parse(request.body);
    response.json(await emptyBundle(house, Id.parse(request.params.id), itemIds, personOf(response).name));
  });
  routes.patch('/bundles/:id/order', async (request, response) => {
    const order = BundleOrder.parse(request.body);
    response.json(await moveInBundle(house, Id.parse(request.params.id), order, personOf(response).name));
  });
  routes.get('/intakes/:id/bundles', async (request, response) => {
    const id = Id.parse(request.params.id);
    await theIntake(house, id);
    response.json(await bundlesOfIntake(house.db, id));
  });
  routes.put('/intakes/:id/bundles', async (request, response) => {
    const { bundleIds } = SlipBundles.parse(request.body);
    response.json(await sayBundles(house, Id.parse(request.params.id), bundleIds, personOf(response).name));
  });

  routes.get('/standing', async (_request, response) => {
    response.json(await standingViews(house));
  });
  routes.post('/standing', async (request, response) => {
    response.status(201).json(await keepQuestion(house, NewStanding.parse(request.body), personOf(response).name));
  });
  routes.patch('/standing/:id', async (request, response) => {
    const change = StandingChange.parse(request.body);
    response.json(await changeStanding(house, Id.parse(request.params.id), change, personOf(response).name));
  });
  routes.post('/standing/:id/seen', async (request, response) => {
    response.json(await lookAtStanding(house, Id.parse(request.params.id)));
  });
  routes.delete('/standing/:id', async (request, response) => {
    await endStanding(house, Id.parse(request.params.id), personOf(response).name);
    response.status(204).end();
  });
  return routes;
}
