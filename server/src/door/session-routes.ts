import { deedsOf } from '@tally/core/rights';
import { PasswordChange, SecondFactorProof, SessionId, SignIn, type Session } from '@tally/contract';
import { Router, type Request } from 'express';
import { personOf, fromOf, setToken, sessionOnly, tokenOf } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import type { House } from '../house/index.js';
import type { Caller } from '../http/caller.js';
import type { Access } from './access.js';
import { directoryRoutes } from './directory-routes.js';
import { changePassword, endOwnSessions } from './own.js';
import { confirmSecondFactor, offerSecondFactor, removeSecondFactor } from './second-factor.js';
import { sessionsOf } from './store/sessions.js';
import { Refusal } from '../house/index.js';

/** Signing in and out, and what is one's own: password, second factor, sessions. @param dayBegins by the rule in force, `HH:mm` */
export function sessionRoutes(house: House, access: Access, dayBegins: () => Promise<string>): Router {
  const { settings, clock, db } = house;
  const view = async ({ id, name, role, must, hasPassword, secondFactor, endsAt }: Caller): Promise<Session> => ({
    ...{ person: { id, name, role }, may: deedsOf(role), must, hasPassword, secondFactor, endsAt: endsAt.toISOString() },
    station: settings.station,
    house: settings.house,
    zone: settings.zone,
    dates: settings.dates,
    dayBegins: await dayBegins(),
    now: clock().toISOString(),
  });
  const routes = Router();
  const signedIn = sessionOnly(access);
  routes.post('/', async (request, response) => {
    const { name, password, code } = SignIn.parse(request.body);
    const outcome = await access.signIn(name, password, code, fromOf(request));
    if (outcome.ok) {
      await endFormer(request);
      setToken(request, response, outcome.token);
      response.json(await view(outcome.caller));
    } else if (outcome.why === 'wait') {
      response.setHeader('Retry-After', String(outcome.waitSeconds));
      sendProblem(response, 429, `Too many wrong passwords: try again in ${Math.ceil(outcome.waitSeconds / 60)} minutes`);
    } else if (outcome.why === 'second factor')
      sendProblem(response, 401, 'Please give the code of your second factor', { needs: 'second factor' });
    else sendProblem(response, 401, 'Name or password is wrong');
  });

  /** Whoever was signed in with this browser is not any more: no session is left behind that nobody sees. */
  async function endFormer(request: Request): Promise<void> {
    const former = tokenOf(request);
    const caller = former ? await access.who(former) : null;
    if (former && caller) await access.signOut(former, caller);
  }

  routes.use('/directory', directoryRoutes(house, access));
  routes.use(signedIn);
  routes.get('/', async (_request, response) => void response.json(await view(personOf(response))));
  routes.delete('/', async (request, response) => {
    await access.signOut(tokenOf(request)!, personOf(response));
    setToken(request, response, null);
    response.status(204).end();
  });
  routes.post('/password', async (request, response) => {
    const caller = byPassword(personOf(response));
    await changePassword(house, access.guessing, caller, PasswordChange.parse(request.body), fromOf(request).address);
    response.json(await view((await access.who(tokenOf(request)!))!));
  });
  routes.post('/second-factor', async (_request, response) => {
    response.json(await offerSecondFactor(house, byPassword(chosen(personOf(response)))));
  });
  routes.post('/second-factor/confirm', async (request, response) => {
    const { code } = SecondFactorProof.parse(request.body);
    response.json(await confirmSecondFactor(house, byPassword(chosen(personOf(response))), code));
  });
  routes.post('/second-factor/remove', async (request, response) => {
    const caller = chosen(personOf(response));
    const { code } = SecondFactorProof.parse(request.body);
    if (!(await access.secondFits(caller, code, fromOf(request).address)))
      throw new Refusal('conflict', 'This is not the code of this moment, and none of your recovery codes.');
    await removeSecondFactor(house, caller, caller.name);
    response.status(204).end();
  });
  routes.get('/all', async (_request, response) => {
    const { id, sessionId } = personOf(response);
    response.json(await sessionsOf(db, id, sessionId, clock()));
  });
  routes.delete('/all', async (_request, response) => {
    await endOwnSessions(house, personOf(response), null);
    response.status(204).end();
  });
  routes.delete('/all/:session', async (request, response) => {
    await endOwnSessions(house, personOf(response), SessionId.parse(request.params['session']));
    response.status(204).end();
  });
  return routes;
}

/** Whoever came by a code chooses a password first. */
function chosen(caller: Caller): Caller {
  if (caller.must === 'choose a password') throw new Refusal('conflict', 'Choose a password first.');
  return caller;
}

/** A link, or the house's directory, has no password here. */
function byPassword(caller: Caller): Caller {
  if (!caller.hasPassword && !caller.byCode) throw new Refusal('conflict', 'You sign in without a password of this house.');
  return caller;
}
