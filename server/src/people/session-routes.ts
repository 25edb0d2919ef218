import { SignIn, type Session, type SignedIn } from '@tally/contract';
import { Router } from 'express';
import type { Access } from './sessions.js';
import { personOf, setToken, signedInOnly, tokenOf } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import type { House } from '../house/index.js';

export function sessionRoutes(house: House, access: Access): Router {
  const { settings, clock } = house;
  const view = ({ id, name, role }: SignedIn): Session => ({
    person: { id, name, role },
    station: settings.station,
    house: settings.house,
    zone: settings.zone,
    dates: settings.dates,
    now: clock().toISOString(),
  });
  const routes = Router();
  routes.post('/', async (request, response) => {
    const { name, password } = SignIn.parse(request.body);
    const outcome = await access.signIn(name, password, request.ip ?? '');
    if (outcome.ok) {
      setToken(request, response, outcome.token);
      response.json(view(outcome.person));
    } else if (outcome.waitSeconds !== null) {
      response.setHeader('Retry-After', String(outcome.waitSeconds));
      sendProblem(response, 429, `Too many wrong passwords: try again in ${Math.ceil(outcome.waitSeconds / 60)} minutes`);
    } else sendProblem(response, 401, 'Name or password is wrong');
  });
  routes.get('/', signedInOnly(access), (_request, response) => {
    response.json(view(personOf(response)));
  });
  routes.delete('/', signedInOnly(access), async (request, response) => {
    await access.signOut(tokenOf(request)!);
    setToken(request, response, null);
    response.status(204).end();
  });
  return routes;
}
