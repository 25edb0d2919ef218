import compression from 'compression';
import express, { type Express, type RequestHandler, type Router } from 'express';
import helmet from 'helmet';
import { join } from 'node:path';
import type { Logger } from 'pino';
import type { Bus } from '../live/bus.js';
import type { Urgency } from '../media/urgency.js';
import type { Access, Withholder } from './caller.js';
import { askRights, sameSiteOnly, sessionOnly } from './guard.js';
import { theseHostsOnly } from './hosts.js';
import { tellOfExports } from './exports.js';
import type { Settings } from '../settings.js';
import type { AuthorityView } from '@tally/contract';
import { authorityOf, fingerprintOf } from './certificates.js';
import { overHttps } from './listening.js';
import { jsonBody } from './json-body.js';
import { liveRoute } from './live-route.js';
import { problems, sendProblem } from './problem.js';

/** What the rooms answer, by who may ask. */
export interface Answers {
  /** Signing in and out: asks by itself who is there. */
  readonly session: Router;
  /** For those who have a hand-in link and are not signed in yet. */
  readonly openLink: RequestHandler;
  /** For everybody who is signed in, those too who may only hand in. */
  readonly handIn: Router;
  readonly uploads: RequestHandler;
  /** What the rooms answer, as the table of rights has it. */
  readonly desk: readonly Router[];
}

export interface Web {
  readonly answers: Answers;
  readonly access: Access;
  readonly bus: Bus;
  readonly urgency: Urgency;
  readonly log: Logger;
  /** Somebody takes something out of the house: it is recorded before that leaves. */
  readonly exported: (who: string, what: string) => Promise<void>;
  /** How texts are said to whoever may not see persons. */
  readonly withheld: Withholder;
  /** Does the database answer? @throws when it does not. */
  /** What is told to whoever watches the server. @throws when it is not well */
  readonly health: () => Promise<object>;
  /** How it is reached: HTTPS, proxies. */
  readonly settings: Pick<Settings, 'publicUrl' | 'plainHttp' | 'trustProxy' | 'dataDir'>;
  /** Under which hosts it answers. */
  readonly hosts: (host: string) => boolean;
  /** Folder of the built interface. */
  readonly pages: string;
}

const POLICY = {
  useDefaults: false,
  directives: {
    defaultSrc: ["'self'"],
    scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
    styleSrc: ["'self'", "'unsafe-inline'"],
    imgSrc: ["'self'", 'data:', 'blob:'],
    workerSrc: ["'self'", 'blob:'],
    objectSrc: ["'none'"],
    baseUri: ["'self'"],
    formAction: ["'self'"],
    frameAncestors: ["'none'"],
  },
};

/** The application: every route below /api is closed unless it is signing in or asking for health. */
export function webApp(web: Web): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('query parser', 'simple');
  app.set('trust proxy', [...web.settings.trustProxy]);
  app.use(theseHostsOnly(web.hosts));
  app.use(overHttps(web.settings, web.log));
  app.use(helmet({ contentSecurityPolicy: POLICY, strictTransportSecurity: false }));
  // Answers are many and gone at once: a third of the work for a tenth more bytes.
  app.use(
    '/api',
    compression({ level: 1, filter: (request, response) => !isLive(request) && compression.filter(request, response) }),
  );
  app.use(compression({ filter: (request, response) => !isLive(request) && compression.filter(request, response) }));
  app.use('/api', api(web));
  app.use(express.static(web.pages, { index: false, maxAge: '1y', immutable: true }));
  app.get('/{*page}', page(web.pages));
  app.use(problems(web.log));
  return app;
}

/** Live events must arrive one by one, not when a compressor's buffer is full. */
const isLive = ({ originalUrl }: { originalUrl: string }) => originalUrl === '/api/live';

function api(web: Web): Router {
  const { answers, access, bus, urgency, health } = web;
  const routes = express.Router();
  const signedIn = sessionOnly(access);
  routes.use(sameSiteOnly);
  routes.use((_request, response, next) => {
    response.setHeader('Cache-Control', 'no-store');
    next();
  });
  // The list of a large card is long; anything else that is long is a mistake.
  routes.post('/hand-in', signedIn, jsonBody('24mb'));
  routes.use(jsonBody('2mb'));
  routes.get('/health', async (_request, response) => {
    response.json({ ok: true, ...(await health()) });
  });
  // Whoever is to trust this house's certificate cannot be asked to sign in over it first.
  routes.get('/certificate.pem', async (_request, response) => {
    const pem = await authorityOf(web.settings.dataDir);
    if (pem === null) sendProblem(response, 404, 'This house made no certificate of its own');
    else response.type('application/x-x509-ca-cert').attachment('tally-stick-authority.pem').send(pem);
  });
  routes.get('/certificate', async (_request, response) => {
    const pem = await authorityOf(web.settings.dataDir);
    response.json({ fingerprint: pem === null ? null : fingerprintOf(pem) } satisfies AuthorityView);
  });
  routes.use('/session', answers.session);
  routes.post('/hand-in/open', answers.openLink);
  routes.use(signedIn, askRights(web.withheld));
  routes.all('/uploads{/*upload}', answers.uploads);
  routes.use('/hand-in', answers.handIn);
  routes.get('/live', liveRoute(bus, access));
  routes.use((_request, response, next) => {
    // Somebody waits for this: reading and making ahead let it go first.
    response.on('close', urgency.begin());
    next();
  });
  routes.use(tellOfExports(web.exported));
  routes.use(...answers.desk);
  routes.use((_request, response) => sendProblem(response, 404, 'There is nothing here'));
  return routes;
}

/** Every address of the interface is its one page. */
function page(pages: string): RequestHandler {
  return (request, response) => {
    if (/\.[a-z0-9]+$/i.test(request.path)) {
      sendProblem(response, 404, 'There is nothing here');
      return;
    }
    response.setHeader('Cache-Control', 'no-cache');
    response.sendFile(join(pages, 'index.html'), (error) => {
      if (error && !response.headersSent) sendProblem(response, 404, 'The interface has not been built');
    });
  };
}
