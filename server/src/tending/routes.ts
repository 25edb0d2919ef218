import {
  AdoptAsk,
  CheckAsk,
  FindingsQuery,
  FolderQuery,
  FoundQuery,
  Id,
  MendAsk,
  MendBegin,
  MendsQuery,
  PathQuery,
  PlaceId,
  SaysQuery,
  TreeQuery,
} from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import type { House } from '../house/index.js';
import { askAdopt, goOnAdopting, stopAdoption } from './asking-to-adopt.js';
import { askCheck, stopCheck } from './checking.js';
import { beginMend, planMend, planTakingBack, takeBack, tryMendAgain } from './mending.js';
import { foldersSayView } from './reading.js';
import { findingsOf, folderOfPlace, foundTogether, growth, mendViews, placeState, treeOf, whereLeads } from './viewing.js';

/** The drive as it is: what stands there, what was found, adopted and mended. */
export function tendingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/places/:place/state', async (request, response) => {
    response.json(await placeState(house, PlaceId.parse(request.params.place)));
  });
  routes.get('/places/:place/tree', async (request, response) => {
    response.json(await treeOf(house, PlaceId.parse(request.params.place), TreeQuery.parse(request.query)));
  });
  routes.get('/places/:place/folder', async (request, response) => {
    response.json(await folderOfPlace(house, PlaceId.parse(request.params.place), FolderQuery.parse(request.query)));
  });
  routes.get('/places/:place/findings', async (request, response) => {
    response.json(await findingsOf(house, PlaceId.parse(request.params.place), FindingsQuery.parse(request.query)));
  });
  routes.get('/places/:place/found', async (request, response) => {
    response.json(await foundTogether(house, PlaceId.parse(request.params.place), FoundQuery.parse(request.query)));
  });
  routes.post('/places/:place/check', async (request, response) => {
    const ask = CheckAsk.parse(request.body);
    response.status(201).json({ id: await askCheck(house, PlaceId.parse(request.params.place), ask, personOf(response).name) });
  });
  routes.delete('/checks/:id', async (request, response) => {
    await stopCheck(house, Id.parse(request.params.id));
    response.status(204).end();
  });
  routes.get('/places/:place/says', async (request, response) => {
    response.json(await foldersSayView(house, PlaceId.parse(request.params.place), SaysQuery.parse(request.query).folder));
  });
  routes.post('/places/:place/adopt', async (request, response) => {
    const ask = AdoptAsk.parse(request.body);
    response.status(201).json({ id: await askAdopt(house, PlaceId.parse(request.params.place), ask, personOf(response).name) });
  });
  routes.delete('/adoptions/:id', async (request, response) => {
    await stopAdoption(house, Id.parse(request.params.id));
    response.status(204).end();
  });
  routes.post('/adoptions/:id/again', async (request, response) => {
    await goOnAdopting(house, Id.parse(request.params.id));
    response.status(204).end();
  });
  routes.post('/mends/plan', async (request, response) => {
    response.json(await planMend(house, MendAsk.parse(request.body)));
  });
  routes.post('/mends', async (request, response) => {
    const { ask, seal } = MendBegin.parse(request.body);
    response.json(await beginMend(house, ask, seal, personOf(response).name));
  });
  routes.get('/mends', async (request, response) => {
    response.json(await mendViews(house, MendsQuery.parse(request.query)));
  });
  routes.get('/mends/:id/back', async (request, response) => {
    response.json(await planTakingBack(house, Id.parse(request.params.id)));
  });
  routes.post('/mends/:id/back', async (request, response) => {
    response.status(201).json({ id: await takeBack(house, Id.parse(request.params.id), personOf(response).name) });
  });
  routes.post('/mends/:id/again', async (request, response) => {
    await tryMendAgain(house, Id.parse(request.params.id));
    response.status(204).end();
  });
  routes.get('/leads-to', async (request, response) => {
    response.json(await whereLeads(house, PathQuery.parse(request.query).path));
  });
  routes.get('/growth', async (_request, response) => {
    response.json(await growth(house));
  });
  return routes;
}
