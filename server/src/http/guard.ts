import { parseCookie, stringifySetCookie } from 'cookie';
import type { Request, RequestHandler, Response } from 'express';
import { SESSION_MS, type SignedIn } from '@tally/contract';
import { sendProblem } from './problem.js';

const COOKIE = 'tally_session';

/** Knows whose a session's token is. */
export interface Access {
  who(token: string): Promise<SignedIn | null>;
}

export function tokenOf(request: Request): string | null {
  return parseCookie(request.headers.cookie ?? '')[COOKIE] ?? null;
}

/** The session cookie: out of reach of scripts, never sent from other sites. `secure` when the request came by HTTPS. */
export function setToken(request: Request, response: Response, token: string | null): void {
  const cookie = stringifySetCookie({
    name: COOKIE,
    value: token ?? '',
    httpOnly: true,
    sameSite: 'strict',
    secure: request.secure,
    path: '/',
    maxAge: token ? SESSION_MS / 1000 : 0,
  });
  response.setHeader('Set-Cookie', cookie);
}

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
export function signedInOnly(access: Access): RequestHandler {
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

/** Somebody who may only hand in gets no further. */
export const notForHandIn: RequestHandler = (_request, response, next) => {
  if (personOf(response).role === 'hand-in') sendProblem(response, 403, 'You may hand in, and nothing else');
  else next();
};

export const personOf = (response: Response): SignedIn => response.locals['person'] as SignedIn;
