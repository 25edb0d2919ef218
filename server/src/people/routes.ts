import { AssignmentChange, ContributorChange, Id, NewAssignment, NewContributor } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { changeAssignment, changeContributor } from './correcting.js';
import { makeAssignment, makeContributor } from './joining.js';
import { listAssignments, listContributors } from './store/people.js';
import type { House } from '../house/index.js';

/** Contributors and assignments. */
export function peopleRoutes(house: House): Router {
  const { db } = house;
  const routes = Router();
  routes.get('/contributors', async (_request, response) => void response.json(await listContributors(db)));
  routes.post('/contributors', async (request, response) => {
    const id = await makeContributor(house, NewContributor.parse(request.body), personOf(response).name);
    response.status(201).json({ id });
  });
  routes.patch('/contributors/:id', async (request, response) => {
    const change = ContributorChange.parse(request.body);
    await changeContributor(house, Id.parse(request.params.id), change, personOf(response).name);
    response.status(204).end();
  });
  routes.get('/assignments', async (_request, response) => void response.json(await listAssignments(db)));
  routes.post('/assignments', async (request, response) => {
    const id = await makeAssignment(house, NewAssignment.parse(request.body), personOf(response).name);
    response.status(201).json({ id });
  });
  routes.patch('/assignments/:id', async (request, response) => {
    const change = AssignmentChange.parse(request.body);
    await changeAssignment(house, Id.parse(request.params.id), change, personOf(response).name);
    response.status(204).end();
  });
  return routes;
}
