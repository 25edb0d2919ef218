import { AccountChange, Id, NewAccount, NewHandInLink, SessionId } from '@tally/contract';
import { Router } from 'express';
import { z } from 'zod';
import { personOf } from '../http/guard.js';
import type { House } from '../house/index.js';
import { account, changeAccount, endSessions, giveCode, makeAccount } from './accounts.js';
import { baseOf, endLink, makeLink } from './links.js';
import { accountsOf } from './store/accounts.js';
import { linksBefore } from './store/links.js';
import { sessionsOf } from './store/sessions.js';

const LinksQuery = z.strictObject({ before: Id.optional(), limit: z.coerce.number().int().min(1).max(200).default(50) });

/** People who sign in, and links by which others hand in. */
export function doorRoutes(house: House): Router {
  const { db, clock } = house;
  const routes = Router();
  routes.get('/accounts', async (_request, response) => void response.json(await accountsOf(db, clock())));
  routes.post('/accounts', async (request, response) => {
    response.status(201).json(await makeAccount(house, NewAccount.parse(request.body), personOf(response).name));
  });
  routes.get('/accounts/:id', async (request, response) => {
    response.json(await account(house, Id.parse(request.params['id'])));
  });
  routes.patch('/accounts/:id', async (request, response) => {
    const change = AccountChange.parse(request.body);
    response.json(await changeAccount(house, Id.parse(request.params['id']), change, personOf(response).name));
  });
  routes.post('/accounts/:id/code', async (request, response) => {
    response.status(201).json(await giveCode(house, Id.parse(request.params['id']), personOf(response).name));
  });
  routes.get('/accounts/:id/sessions', async (request, response) => {
    const { id } = await account(house, Id.parse(request.params['id']));
    response.json(await sessionsOf(db, id, personOf(response).sessionId, clock()));
  });
  routes.delete('/accounts/:id/sessions', async (request, response) => {
    await endSessions(house, Id.parse(request.params['id']), null, personOf(response).name);
    response.status(204).end();
  });
  routes.delete('/accounts/:id/sessions/:session', async (request, response) => {
    const session = SessionId.parse(request.params['session']);
    await endSessions(house, Id.parse(request.params['id']), session, personOf(response).name);
    response.status(204).end();
  });
  routes.get('/links', async (request, response) => {
    const { before, limit } = LinksQuery.parse(request.query);
    response.json(await linksBefore(db, clock(), before ?? null, limit));
  });
  routes.post('/links', async (request, response) => {
    const base = baseOf(house, `${request.protocol}://${request.get('host') ?? ''}`);
    response.status(201).json(await makeLink(house, NewHandInLink.parse(request.body), base, personOf(response).name));
  });
  routes.delete('/links/:id', async (request, response) => {
    await endLink(house, Id.parse(request.params['id']), personOf(response).name);
    response.status(204).end();
  });
  return routes;
}
