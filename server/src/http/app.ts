import compression from 'compression';
import express, { type Express } from 'express';
import helmet from 'helmet';
import { join } from 'node:path';
import type { Access } from '../people/sessions.js';
import type { House } from '../house/house.js';
import type { Bus } from '../live/bus.js';
import type { Previews } from '../media/previews.js';
import type { Urgency } from '../media/urgency.js';
import { apiRoutes } from './api-routes.js';
import { notForHandIn, sameSiteOnly, signedInOnly } from './guard.js';
import { handInRoutes, makeLinkRoute, openLinkRoute } from '../arriving/routes.js';
import { liveRoute } from './live-route.js';
import { lendingRoutes } from '../counter/routes.js';
import { pictureRoutes } from '../seeing/picture-routes.js';
import { problems, sendProblem } from './problem.js';
import { sessionRoutes } from '../people/session-routes.js';
import { uploads } from '../arriving/upload-routes.js';

export interface Web {
  readonly house: House;
  readonly access: Access;
  readonly bus: Bus;
  readonly previews: Previews;
  readonly urgency: Urgency;
  /** Folder of the built interface. */
  readonly pages: string;
}

/** The application: every route below /api is closed unless it is signing in or asking for health. */
export function webApp({ house, access, bus, previews, urgency, pages }: Web): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('query parser', 'simple');
  app.use(
    helmet({
      contentSecurityPolicy: {
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
      },
      strictTransportSecurity: false,
    }),
  );
  // Live events must arrive one by one, not when a compressor's buffer is full.
  app.use(
    compression({ filter: (request, response) => request.originalUrl !== '/api/live' && compression.filter(request, response) }),
  );
  const api = express.Router();
  const signedIn = signedInOnly(access);
  api.use(sameSiteOnly);
  // The list of a large card is long; anything else that is long is a mistake.
  api.post('/hand-in', signedIn, express.json({ limit: '24mb' }));
  api.use(express.json({ limit: '2mb' }));
  api.get('/health', async (_request, response) => {
    await house.db.query('select 1');
    response.json({ ok: true });
  });
  api.use('/session', sessionRoutes(house, access));
  api.post('/hand-in/open', openLinkRoute(access));
  api.use(signedIn);
  api.all('/uploads{/*upload}', uploads(house));
  api.use('/hand-in', handInRoutes(house));
  api.use(notForHandIn);
  api.post('/hand-in/links', makeLinkRoute(house, access));
  api.get('/live', liveRoute(bus));
  api.use((_request, response, next) => {
    response.setHeader('Cache-Control', 'no-store');
    // Somebody waits for this: reading and making ahead let it go first.
    response.on('close', urgency.begin());
    next();
  });
  api.use(pictureRoutes(house, previews), apiRoutes(house), lendingRoutes(house));
  api.use((_request, response) => sendProblem(response, 404, 'There is nothing here'));
  app.use('/api', api);

  app.use(express.static(pages, { index: false, maxAge: '1y', immutable: true }));
  app.get('/{*page}', (request, response) => {
    if (/\.[a-z0-9]+$/i.test(request.path)) {
      sendProblem(response, 404, 'There is nothing here');
      return;
    }
    response.setHeader('Cache-Control', 'no-cache');
    response.sendFile(join(pages, 'index.html'), (error) => {
      if (error && !response.headersSent) sendProblem(response, 404, 'The interface has not been built');
    });
  });
  app.use(problems(house.log));
  return app;
}
