import { BackRequest, Id, LabelsQuery, LendRequest, MoveRequest, NewThing, ScanRequest, ThingKey } from '@tally/contract';
import { Router } from 'express';
import { lend, lendingList, loanHistory, makeThing, takeBack } from './lending.js';
import { labelsFor } from './labels.js';
import { deskNow } from './overview.js';
import { giveBack, moveCard, notGivenBack, scanLabel } from './trays.js';
import { personOf } from '../http/guard.js';
import { type House, nextLabel } from '../house/index.js';

/** The desk, trays, scans of labels, and the lending list. */
export function counterRoutes(house: House): Router {
  const routes = Router();
  routes.get('/desk', async (_request, response) => void response.json(await deskNow(house)));
  routes.get('/labels/next', async (_request, response) => void response.json({ label: await nextLabel(house.db) }));
  routes.get('/labels.pdf', async (request, response) => {
    const pdf = await labelsFor(house, LabelsQuery.parse(request.query));
    response.setHeader('Content-Disposition', 'inline; filename="labels.pdf"');
    response.setHeader('Cache-Control', 'no-store').type('application/pdf').send(pdf);
  });
  routes.post('/intakes/:id/give-back', async (request, response) => {
    await giveBack(house, Id.parse(request.params.id), personOf(response).name);
    response.status(204).end();
  });
  routes.post('/intakes/:id/not-given-back', async (request, response) => {
    await notGivenBack(house, Id.parse(request.params.id), personOf(response).name);
    response.status(204).end();
  });
  routes.post('/scans', async (request, response) => {
    const { label, move } = ScanRequest.parse(request.body);
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
