import { DirectoryView } from '@tally/contract';
import { parseCookie, stringifySetCookie } from 'cookie';
import { Router, type Request, type Response } from 'express';
import { z } from 'zod';
import { fromOf, setToken } from '../http/guard.js';
import { Refusal, type House } from '../house/index.js';
import type { Access } from './access.js';
import { Directory } from './directory.js';
import { baseOf } from './links.js';

const COOKIE = 'tally_directory';
const MINUTES = 10;
const Asking = z.object({ state: z.string().max(200), nonce: z.string().max(200), verifier: z.string().max(200) });

/** Signing in by the house's directory, where the settings name one. */
export function directoryRoutes(house: House, access: Access): Router {
  const directory = house.settings.directory ? new Directory(house, house.settings.directory) : null;
  const routes = Router();
  const baseFor = (request: Request) => baseOf(house, `${request.protocol}://${request.get('host') ?? ''}`);
  routes.get('/', (_request, response) => void response.json({ name: directory?.name ?? null } satisfies DirectoryView));
  routes.get('/begin', async (request, response) => {
    if (!directory) throw new Refusal('not found', 'This house has no directory.');
    const { to, asking } = await directory.ask(`${baseFor(request)}/api/session/directory/back`);
    keep(request, response, JSON.stringify(asking));
    response.redirect(303, to);
  });
  routes.get('/back', async (request, response) => {
    if (!directory) throw new Refusal('not found', 'This house has no directory.');
    const asking = askingOf(request);
    keep(request, response, null);
    const url = new URL(`${baseFor(request)}${request.originalUrl}`);
    const outcome = await (
      asking
        ? directory.back(url, asking)
        : Promise.reject(new Refusal('conflict', 'This took too long, or began in another browser. Try again.'))
    ).catch((error: unknown) => {
      if (error instanceof Refusal) return error;
      throw error;
    });
    if (outcome instanceof Refusal) {
      // A browser shows it where somebody signs in.
      response.redirect(303, `/sign-in?${new URLSearchParams({ said: outcome.message }).toString()}`);
      return;
    }
    setToken(request, response, await access.vouched(outcome, fromOf(request)));
    response.redirect(303, '/');
  });
  return routes;
}

function askingOf(request: Request): z.infer<typeof Asking> | null {
  try {
    return Asking.parse(JSON.parse(parseCookie(request.headers.cookie ?? '')[COOKIE] ?? ''));
  } catch {
    // None, or somebody's own: whoever comes back with it begins again.
    return null;
  }
}

/** Between asking and coming back, which is from another site: so `Lax`, and for those few minutes and paths only. */
function keep(request: Request, response: Response, value: string | null): void {
  const cookie = stringifySetCookie({
    ...{ name: COOKIE, value: value ?? '', httpOnly: true, sameSite: 'lax', secure: request.secure },
    ...{ path: '/api/session/directory', maxAge: value === null ? 0 : MINUTES * 60 },
  });
  response.appendHeader('Set-Cookie', cookie);
}
