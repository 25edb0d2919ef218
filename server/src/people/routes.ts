import {
  AgreementSaid,
  AssignmentChange,
  AssignmentQuery,
  ContributorChange,
  ForgetRequest,
  Id,
  MergeRequest,
  NewAssignment,
  NewContributor,
} from '@tally/contract';
import { raw, Router } from 'express';
import { personOf } from '../http/guard.js';
import { addAgreement, changeAgreement, keepScan, readScan } from './agreements.js';
import { changeAssignment, changeContributor, mergeAssignments, mergeContributors } from './correcting.js';
import { contributorDetail } from './detail.js';
import { forgetContributor } from './forgetting.js';
import { makeAssignment, makeContributor, unsortedAssignment } from './joining.js';
import { assignmentPage } from './store/assignments.js';
import { listContributors } from './store/people.js';
import { assignmentDetail } from './store/corrections.js';
import { type House, houseTime, Refusal } from '../house/index.js';

/** Contributors and assignments. */
export function peopleRoutes(house: House): Router {
  const { db } = house;
  const routes = Router();
  const today = () => houseTime(house, house.clock()).slice(0, 10);
  routes.get('/contributors', async (_request, response) => void response.json(await listContributors(db, today())));
  routes.post('/contributors', async (request, response) => {
    const id = await makeContributor(house, NewContributor.parse(request.body), personOf(response).name);
    response.status(201).json({ id });
  });
  routes.patch('/contributors/:id', async (request, response) => {
    const change = ContributorChange.parse(request.body);
    response.json(await changeContributor(house, Id.parse(request.params.id), change, personOf(response).name));
  });
  routes.get('/assignments', async (request, response) => {
    response.json(await assignmentPage(db, AssignmentQuery.parse(request.query)));
  });
  routes.post('/assignments', async (request, response) => {
    const id = await makeAssignment(house, NewAssignment.parse(request.body), personOf(response).name);
    response.status(201).json({ id });
  });
  routes.post('/assignments/unsorted', async (_request, response) => {
    response.json({ id: await unsortedAssignment(house, personOf(response).name) });
  });
  routes.patch('/assignments/:id', async (request, response) => {
    const change = AssignmentChange.parse(request.body);
    response.json(await changeAssignment(house, Id.parse(request.params.id), change, personOf(response).name));
  });
  routes.get('/contributors/:id', async (request, response) => {
    response.json(await contributorDetail(house, Id.parse(request.params.id)));
  });
  routes.get('/assignments/:id', async (request, response) => {
    const detail = await assignmentDetail(db, Id.parse(request.params.id));
    if (!detail) throw new Refusal('not found', 'There is no such assignment.');
    response.json(detail);
  });
  routes.post('/contributors/:id/forget', async (request, response) => {
    ForgetRequest.parse(request.body);
    response.json(await forgetContributor(house, Id.parse(request.params.id), personOf(response).name));
  });
  routes.post('/contributors/:id/merge', async (request, response) => {
    const { into } = MergeRequest.parse(request.body);
    response.json(await mergeContributors(house, Id.parse(request.params.id), into, personOf(response).name));
  });
  routes.post('/assignments/:id/merge', async (request, response) => {
    const { into } = MergeRequest.parse(request.body);
    response.json(await mergeAssignments(house, Id.parse(request.params.id), into, personOf(response).name));
  });
  routes.post('/contributors/:id/agreements', async (request, response) => {
    const said = AgreementSaid.parse(request.body);
    response.status(201).json({ id: await addAgreement(house, Id.parse(request.params.id), said, personOf(response).name) });
  });
  routes.patch('/agreements/:id', async (request, response) => {
    await changeAgreement(house, Id.parse(request.params.id), AgreementSaid.parse(request.body), personOf(response).name);
    response.status(204).end();
  });
  routes.delete('/agreements/:id', async (request, response) => {
    await changeAgreement(house, Id.parse(request.params.id), null, personOf(response).name);
    response.status(204).end();
  });
  routes.put('/agreements/:id/scan', raw({ type: () => true, limit: '12mb' }), async (request, response) => {
    const scan: unknown = request.body;
    await keepScan(house, Id.parse(request.params.id), Buffer.isBuffer(scan) ? scan : Buffer.alloc(0), personOf(response).name);
    response.status(204).end();
  });
  routes.get('/agreements/:id/scan', async (request, response) => {
    const { type, scan } = await readScan(house, Id.parse(request.params.id));
    response.type(type).setHeader('Content-Disposition', 'inline; filename="agreement"').send(scan);
  });
  return routes;
}
