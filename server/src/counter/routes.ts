import { BackRequest, Id, LendRequest, MoveRequest, NewThing, TapeLabel, ThingKey } from '@tally/contract';
import { Router } from 'express';
import { z } from 'zod';
import type { House } from '../house/house.js';
import { lend, lendingList, loanHistory, makeThing, takeBack } from './lending.js';
import { moveCard, scanLabel } from './trays.js';
import { personOf } from '../http/guard.js';

const Scan = z.strictObject({ label: TapeLabel, move: z.boolean() });

/** Trays, scans of labels, and the lending list. */
export function lendingRoutes(house: House): Router {
  const routes = Router();
  routes.post('/scans', async (request, response) => {
    const { label, move } = Scan.parse(request.body);
    response.json(await scanLabel(house, label, move, personOf(response).name));
  });
  routes.post('/cards/:id/move', async (request, response) => {
    await moveCard(house, Id.parse(request.params.id), MoveRequest.parse(request.body).to, personOf(response).name);
    response.status(204).end();
  });
  routes.get('/things', async (_request, response) => void response.json(await lendingList(house)));
  routes.post('/things', async (request, response) => {
    response.status(201).json(await makeThing(house, NewThing.parse(request.body), personOf(response).name));
  });
  routes.get('/things/:kind/:id/loans', async (request, response) => {
    response.json(await loanHistory(house, ThingKey.parse(request.params)));
  });
  routes.post('/loans', async (request, response) => {
    await lend(house, LendRequest.parse(request.body), personOf(response).name);
    response.status(204).end();
  });
  routes.post('/loans/back', async (request, response) => {
    const { things, unused } = BackRequest.parse(request.body);
    await takeBack(house, things, unused, personOf(response).name);
    response.status(204).end();
  });
  return routes;
}
