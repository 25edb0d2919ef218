import { HandInDone, HandInStart, Id, NewHandInLink, OpenHandInLink, type HandInLinkView } from '@tally/contract';
import { Router, type RequestHandler } from 'express';
import { beginHandIn, finishHandIn, handInChoices, theirHandIn } from './hand-in.js';
import { handInView } from './store/hand-ins.js';
import { personOf, setToken } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import type { Access } from '../people/index.js';
import { type House, record } from '../house/index.js';

/** Opens a browser that has a hand-in link; the only route here for somebody who is not signed in. */
export function openLinkRoute(access: Access): RequestHandler {
  return async (request, response) => {
    const { token } = OpenHandInLink.parse(request.body);
    const opened = await access.openLink(token);
    if (!opened) {
      sendProblem(response, 410, 'This hand-in link has ended. Ask for a new one.');
      return;
    }
    setToken(request, response, opened.token);
    response.json({ until: opened.expiresAt.toISOString() });
  };
}

/** Handing in: what a `hand-in` person may do. */
export function handInRoutes(house: House): Router {
  const routes = Router();
  routes.get('/choices', async (_request, response) => {
    response.json(await handInChoices(house, personOf(response).id));
  });
  routes.post('/', async (request, response) => {
    response.status(201).json(await beginHandIn(house, HandInStart.parse(request.body), personOf(response)));
  });
  routes.get('/:id', async (request, response) => {
    const id = Id.parse(request.params['id']);
    await theirHandIn(house, id, personOf(response).id);
    response.json(await handInView(house.db, id));
  });
  routes.post('/:id/done', async (request, response) => {
    const { withoutMissing } = HandInDone.parse(request.body);
    response.json(await finishHandIn(house, Id.parse(request.params['id']), withoutMissing, personOf(response)));
  });
  return routes;
}

/** Making links: for those who sign in to the desk. */
export function linkRoutes(house: House, access: Access): Router {
  const routes = Router();
  routes.post('/hand-in/links', async (request, response) => {
    const { hours } = NewHandInLink.parse(request.body);
    const who = personOf(response).name;
    const { token, expiresAt } = await access.makeLink(hours, who);
    const text = `A hand-in link for ${hours} hours was made.`;
    await record(house.db, { at: house.clock(), kind: 'hand-in link', intakeId: null, who, text });
    response.status(201).json({ token, expiresAt: expiresAt.toISOString() } satisfies HandInLinkView);
  });
  return routes;
}
