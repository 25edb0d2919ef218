import { AuditQuery } from '@tally/contract';
import { Router } from 'express';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import type { House } from '../house/index.js';
import { auditPage, auditRows } from './looking.js';
import { verifyLog } from './verifying.js';

const Download = AuditQuery.omit({ limit: true, after: true });

/** What was recorded, for whoever is answerable. */
export function auditRoutes(house: House): Router {
  const routes = Router();
  routes.get('/audit', async (request, response) => {
    response.json(await auditPage(house, AuditQuery.parse(request.query)));
  });
  routes.get('/audit.csv', async (request, response) => {
    const query = { ...Download.parse(request.query), limit: 500 };
    response.attachment('audit.csv').type('text/csv; charset=utf-8');
    await pipeline(Readable.from(auditRows(house, query)), response);
  });
  routes.get('/audit/verify', async (_request, response) => void response.json(await verifyLog(house)));
  return routes;
}
