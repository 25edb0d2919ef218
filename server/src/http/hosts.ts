import type { RequestHandler } from 'express';
import { hostname, networkInterfaces } from 'node:os';
import type { Settings } from '../settings.js';
import { sendProblem } from './problem.js';

/** A host as it stands in an address, without its port; null when it is none. */
function hostIn(text: string): string | null {
  const address = `http://${text}`;
  return URL.canParse(address) ? new URL(address).hostname : null;
}

/** Does this server answer under a host? */
export type Answers = (host: string) => boolean;

/**
 * Names and numbers under which this server answers: those of the settings, its public address, and the machine's own.
 * Another name that leads here is somebody else's (a page that lets its own name point to this machine).
 */
export function hostsOf(settings: Pick<Settings, 'hosts' | 'host' | 'publicUrl'>): Answers {
  const named = [
    ...['localhost', '127.0.0.1', '[::1]', hostname(), settings.host, ...settings.hosts],
    ...(settings.publicUrl === undefined ? [] : [new URL(settings.publicUrl).host]),
  ];
  const known = new Set(named.map(hostIn));
  // A machine's numbers change while it is on.
  return (host) => known.has(host) || ownNumbers().has(host);
}

function ownNumbers(): Set<string | null> {
  const own = Object.values(networkInterfaces()).flatMap((addresses) => addresses ?? []);
  return new Set(own.map(({ address, family }) => hostIn(family === 'IPv6' ? `[${address.split('%')[0]!}]` : address)));
}

/** Refuses requests for other hosts (RFC 9110, section 7.4 and 15.5.20). */
export function theseHostsOnly(answers: Answers): RequestHandler {
  return (request, response, next) => {
    const host = hostIn(request.headers.host ?? '');
    if (host !== null && answers(host)) next();
    else sendProblem(response, 421, 'This server does not answer under that name. Its names are a setting (hosts).');
  };
}
