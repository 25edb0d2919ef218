import { parseCookie, stringifySetCookie } from 'cookie';
import type { Request, RequestHandler, Response } from 'express';
import { SESSION_LONGEST_MS } from '@tally/contract';
import { may, veiled, type Deed } from '@tally/core/rights';
import { deedOf } from './asks.js';
import type { Access, Caller, From, Withholder } from './caller.js';
import { sendProblem } from './problem.js';

/** Over HTTPS the name itself forbids that another host or path sets it (RFC 6265bis, 4.1.3.2, from memory). */
const cookieOf = ({ secure }: Request): string => (secure ? '__Host-tally' : 'tally_session');

export function tokenOf(request: Request): string | null {
  return parseCookie(request.headers.cookie ?? '')[cookieOf(request)] ?? null;
}

/** The session cookie: out of reach of scripts, never sent from other sites, over HTTPS only where that is spoken. */
export function setToken(request: Request, response: Response, token: string | null): void {
  const cookie = stringifySetCookie({
    name: cookieOf(request),
    value: token ?? '',
    httpOnly: true,
    sameSite: 'strict',
    secure: request.secure,
    path: '/',
    maxAge: token ? SESSION_LONGEST_MS / 1000 : 0,
  });
  response.setHeader('Set-Cookie', cookie);
}

/** From where a request comes: behind a proxy that is trusted, what that says; else the other end of the line. */
export const fromOf = (request: Request): From => ({ address: request.ip ?? '', agent: request.get('user-agent') ?? '' });

/** Refuses changes asked for by pages of other sites: browsers say where a request comes from. */
export const sameSiteOnly: RequestHandler = (request, response, next) => {
  if (['GET', 'HEAD', 'OPTIONS'].includes(request.method)) {
    next();
    return;
  }
  const site = request.get('sec-fetch-site');
  const origin = request.get('origin');
  const foreign = [
    site !== undefined && !['same-origin', 'none'].includes(site),
    origin !== undefined && hostOf(origin) !== request.get('host'),
  ].includes(true);
  if (foreign) {
    sendProblem(response, 403, 'This request came from another site');
    return;
  }
  next();
};

function hostOf(origin: string): string | null {
  try {
    return new URL(origin).host;
  } catch {
    return null;
  }
}

/** Lets only signed-in people pass; routes after it find the person with `personOf`. */
export function sessionOnly(access: Access): RequestHandler {
  return async (request, response, next) => {
    const token = tokenOf(request);
    const person = token ? await access.who(token) : null;
    if (!person) {
      sendProblem(response, 401, 'Please sign in');
      return;
    }
    response.locals['person'] = person;
    next();
  };
}

/**
 * Asks the table of rights, for every request: what stands in no line of `asks` is there for nobody, and what is about
 * persons is taken out of answers to whoever may not see it.
 */
export const askRights =
  (withheld: Withholder): RequestHandler =>
  async (request, response, next) => {
    const person = personOf(response);
    const deed = deedOf(request.method, request.path);
    if (deed === null) sendProblem(response, 404, 'There is nothing here');
    else if (person.must) sendProblem(response, 403, `First of all, ${person.must}.`, { needs: person.must });
    else if (!may(person.role, deed)) sendProblem(response, 403, notYours(person, deed));
    else {
      if (!seesPersons(person)) veil(response, await withheldFrom(person, withheld));
      next();
    }
  };

/** Whoever hands in says whose it is: there names are asked for, and seen. */
const withheldFrom = (person: Caller, withheld: Withholder) =>
  may(person.role, 'look') ? withheld() : Promise.resolve((text: string) => text);

const notYours = ({ role }: Caller, deed: Deed): string =>
  role === 'hand-in' ? 'You may hand in, and nothing else.' : `A ${role} may not do this (${deed}). Ask an administrator.`;

export const seesPersons = ({ role, seesPersons: allowed }: Caller): boolean => allowed || may(role, 'see persons');

/** How long a browser may keep a picture: at the desk a day; whoever only looks, or hands in, leaves none behind. */
export const keptFor = (response: Response, seconds: number): string =>
  may(personOf(response).role, 'see the desk') ? `private, max-age=${seconds}` : 'private, no-store';

function veil(response: Response, say: (text: string) => string): void {
  const plain = response.json.bind(response);
  response.json = (answer: unknown) => plain(veiled(JSON.parse(JSON.stringify(answer ?? null)), say));
}

export const personOf = (response: Response): Caller => response.locals['person'] as Caller;
