import { MaterialQuery, NewRevision, type RulesAnswer } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { revisions, ruleMaterial, saveRule } from './rules.js';
import type { House } from '../house/index.js';

/** The house rule: its revisions, and real items to try one on. */
export function ruleRoutes(house: House): Router {
  const routes = Router();
  routes.get('/rules', async (_request, response) => {
    response.json({ revisions: await revisions(house.db) } satisfies RulesAnswer);
  });
  routes.post('/rules', async (request, response) => {
    const revision = await saveRule(house, NewRevision.parse(request.body), personOf(response).name);
    response.status(201).json({ revision });
  });
  routes.get('/rules/material', async (request, response) => {
    response.json(await ruleMaterial(house, MaterialQuery.parse(request.query).intake));
  });
  return routes;
}
