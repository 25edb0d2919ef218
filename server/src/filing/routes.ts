import { AsideChange, FileRequest, HaltRequest, Id, type CopiesAnswer, type FileAnswer } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { beginFiling, tryAgain } from './file.js';
import { haltFiling } from './halt.js';
import { planOf } from './plan.js';
import { setAside } from './set-aside.js';
import { copiesOf } from './store/filed.js';
import { type House, summaryOf, theIntake } from '../house/index.js';

/** What will happen, that it happen, and what came of it. */
export function filingRoutes(house: House): Router {
  const { db } = house;
  const routes = Router();
  routes.get('/intakes/:id/plan', async (request, response) => {
    response.json((await planOf(house, Id.parse(request.params.id))).view);
  });
  routes.post('/intakes/:id/file', async (request, response) => {
    const { seal } = FileRequest.parse(request.body);
    const answer: FileAnswer = await beginFiling(house, Id.parse(request.params.id), seal, personOf(response).name);
    response.status(answer.outcome === 'begun' ? 202 : 409).json(answer);
  });
  routes.post('/intakes/:id/again', async (request, response) => {
    await tryAgain(house, Id.parse(request.params.id), personOf(response).name);
    response.status(202).end();
  });
  routes.post('/intakes/:id/halt', async (request, response) => {
    const { wish } = HaltRequest.parse(request.body);
    await haltFiling(house, Id.parse(request.params.id), wish, personOf(response).name);
    response.status(202).end();
  });
  routes.patch('/intakes/:id/aside', async (request, response) => {
    const id = Id.parse(request.params.id);
    await setAside(house, id, AsideChange.parse(request.body), personOf(response).name);
    response.json(summaryOf(await theIntake(house, id)));
  });
  routes.get('/intakes/:id/copies', async (request, response) => {
    const id = Id.parse(request.params.id);
    await theIntake(house, id);
    response.json((await copiesOf(db, id)) satisfies CopiesAnswer);
  });
  return routes;
}
