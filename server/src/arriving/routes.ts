import { HandInDone, HandInStart, Id, OpenHandInLink } from '@tally/contract';
import { Router, type RequestHandler } from 'express';
import { beginHandIn, finishHandIn, handInChoices, theirHandIn } from './hand-in.js';
import { handInView } from './store/hand-ins.js';
import { fromOf, personOf, setToken, tokenOf } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import type { Access } from '../door/index.js';
import type { House } from '../house/index.js';

/** Opens a browser that has a hand-in link; the only route here for somebody who is not signed in. */
export function openLinkRoute(access: Access): RequestHandler {
  return async (request, response) => {
    const { token, instead } = OpenHandInLink.parse(request.body);
    // Somebody who is signed in here is not thrown out by an address that was clicked.
    const before = tokenOf(request);
    const person = before === null ? null : await access.who(before);
    if (person && person.role !== 'hand-in' && !instead) {
      const title = `${person.name} is signed in with this browser. Opening the link signs them out here.`;
      sendProblem(response, 409, title, { needs: 'instead' });
      return;
    }
    const opened = await access.openLink(token, fromOf(request));
    if (!opened) {
      sendProblem(response, 410, 'This hand-in link has ended. Ask for a new one.');
      return;
    }
    if (before !== null && person) await access.signOut(before, person);
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
