import type { Express, RequestHandler } from 'express';
import { createServer as plainServer, type Server } from 'node:http';
import { createServer as tlsServer } from 'node:https';
import { isIP } from 'node:net';
import type { Logger } from 'pino';
import { SettingsError, type Settings } from '../settings.js';
import { givenCertificate, ownCertificate, type Certificate } from './certificates.js';
import { sendProblem } from './problem.js';

type Of = Pick<Settings, 'host' | 'hosts' | 'publicUrl' | 'https' | 'plainHttp' | 'dataDir' | 'house'>;

const HOUR_MS = 3_600_000;
const SOON_DAYS = 21;

/** Does an address lead nowhere but to this machine? (RFC 1122, 3.2.1.3; RFC 4291, 2.5.3) */
export const isLoopback = (host: string): boolean => {
  const plain = host.replace(/^::ffff:/, '');
  return plain === 'localhost' || plain === '::1' || (isIP(plain) === 4 && plain.startsWith('127.'));
};

/**
 * Passwords and pictures do not travel in the clear: without HTTPS this server listens to its own machine only, unless
 * somebody says that they know. @throws SettingsError
 */
export function mustBePrivate({ host, https, plainHttp }: Pick<Of, 'host' | 'https' | 'plainHttp'>): void {
  if (https !== undefined || plainHttp === 'knowingly' || isLoopback(host)) return;
  throw new SettingsError(
    `On ${host} others could read passwords and pictures on their way. Say "https": "made here" or name a certificate, ` +
      'listen on 127.0.0.1 behind a proxy, or say "plainHttp": "knowingly". docs/running.md tells how.',
  );
}

const certificateFor = (settings: Of): Promise<Certificate> =>
  settings.https === 'made here' ? ownCertificate(settings, new Date()) : givenCertificate(settings.https!);

/**
 * The server, over HTTPS where there is a certificate. That is looked at again every hour: one that was renewed is taken
 * without a restart, one that ends soon is told of.
 */
export async function serverOf(app: Express, settings: Of, log: Logger): Promise<Server> {
  if (settings.https === undefined) return plainServer(app);
  const first = await certificateFor(settings).catch((error: unknown) => {
    throw new SettingsError(`The certificate cannot be used: ${(error as Error).message}`);
  });
  tellOfEnd(first, log);
  const server = tlsServer({ key: first.key, cert: first.cert, minVersion: 'TLSv1.2' }, app);
  let now = first;
  const look = async () => {
    const next = await certificateFor(settings);
    if (next.cert !== now.cert) server.setSecureContext({ key: next.key, cert: next.cert, minVersion: 'TLSv1.2' });
    now = next;
    tellOfEnd(next, log);
  };
  setInterval(() => {
    look().catch((error: unknown) => log.error({ error: String(error) }, 'the certificate could not be looked at again'));
  }, HOUR_MS).unref();
  return server;
}

/** @returns the words, for whoever starts the server. */
export function endInWords({ endsAt }: Certificate, now = new Date()): string | null {
  const days = Math.floor((endsAt.getTime() - now.getTime()) / 86_400_000);
  if (days >= SOON_DAYS) return null;
  const day = endsAt.toISOString().slice(0, 10);
  return days < 0 ? `The certificate ended on ${day}: browsers refuse it.` : `The certificate ends on ${day}, in ${days} days.`;
}

function tellOfEnd(certificate: Certificate, log: Logger): void {
  const words = endInWords(certificate);
  if (words) log.warn(words);
}

/**
 * What came in the clear from elsewhere is sent to where HTTPS is spoken, or refused; what came over HTTPS is told to stay
 * there (RFC 6797). Behind a proxy the proxy says what it was, if it is one that is trusted.
 */
export function overHttps(
  { publicUrl, plainHttp, trustProxy }: Pick<Settings, 'publicUrl' | 'plainHttp' | 'trustProxy'>,
  log: Logger,
): RequestHandler {
  let told = false;
  return (request, response, next) => {
    if (!trustProxy.length && request.get('x-forwarded-for') !== undefined && !told) {
      told = true;
      log.warn({ from: request.socket.remoteAddress }, 'something speaks for others and is not trusted to: see trustProxy');
    }
    if (request.secure) response.setHeader('Strict-Transport-Security', 'max-age=31536000');
    // Somebody at this machine itself, with nothing in between.
    const local = isLoopback(request.ip ?? '') && isLoopback(request.socket.remoteAddress ?? '');
    if (request.secure || local || plainHttp === 'knowingly') next();
    else if (publicUrl?.startsWith('https:') && request.method === 'GET' && !request.path.startsWith('/api/'))
      response.redirect(308, new URL(request.originalUrl, publicUrl).href);
    else sendProblem(response, 403, 'This house is spoken to over HTTPS only.');
  };
}
