import { SignIn, type Session, type SignedIn } from '@tally/contract';
import { Router } from 'express';
import type { Access } from './sessions.js';
import { personOf, setToken, signedInOnly, tokenOf } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import type { House } from '../house/index.js';

/** @param dayBegins when the house's day begins by the rule in force, `HH:mm`. */
export function sessionRoutes({ settings, clock }: House, access: Access, dayBegins: () => Promise<string>): Router {
  const view = async ({ id, name, role }: SignedIn): Promise<Session> => ({
    person: { id, name, role },
    station: settings.station,
    house: settings.house,
    zone: settings.zone,
    dates: settings.dates,
    dayBegins: await dayBegins(),
    now: clock().toISOString(),
  });
  const routes = Router();
  routes.post('/', async (request, response) => {
    const { name, password } = SignIn.parse(request.body);
    const outcome = await access.signIn(name, password, request.ip ?? '');
    if (outcome.ok) {
      setToken(request, response, outcome.token);
      response.json(await view(outcome.person));
    } else if (outcome.waitSeconds !== null) {
      response.setHeader('Retry-After', String(outcome.waitSeconds));
      sendProblem(response, 429, `Too many wrong passwords: try again in ${Math.ceil(outcome.waitSeconds / 60)} minutes`);
    } else sendProblem(response, 401, 'Name or password is wrong');
  });
  routes.get('/', signedInOnly(access), async (_request, response) => {
    response.json(await view(personOf(response)));
  });
  routes.delete('/', signedInOnly(access), async (request, response) => {
    await access.signOut(tokenOf(request)!);
    setToken(request, response, null);
    response.status(204).end();
  });
  return routes;
}
