import {
  HouseCreditChange,
  HouseListName,
  ImportName,
  ImportQuery,
  Id,
  LIST_CHANGE,
  MergeRequest,
  NEW_IN_LIST,
  WordListQuery,
  WordSaid,
  WordsQuery,
} from '@tally/contract';
import { toCsv } from '@tally/core/spreadsheet';
import { raw, Router } from 'express';
import { z } from 'zod';
import { personOf } from '../../http/guard.js';
import type { House } from '../../house/index.js';
import { completions, wordPage } from '../store/words.js';
import { changeHouseCredit, houseCredit } from './house-credit.js';
import { addToList, correctInList, houseList, mergeInList } from './lists.js';
import { exportSheet, importSheet } from './sheets.js';
import { exportSkos, importSkos } from './word-sheets.js';
import { addWord, correctWord, mergeWords, retire } from './words.js';

/** The lists of the house: terms, locations, pictured people, habits; its words; what it says of every item. */
export function listRoutes(house: House): Router {
  const routes = Router();
  routes.get('/lists/:list', async (request, response) => {
    response.json(await houseList(house.db, HouseListName.parse(request.params.list)));
  });
  routes.post('/lists/:list', async (request, response) => {
    const list = HouseListName.parse(request.params.list);
    const id = await addToList(house, list, NEW_IN_LIST[list].parse(request.body), personOf(response).name);
    response.status(201).json({ id });
  });
  routes.patch('/lists/:list/:id', async (request, response) => {
    const list = HouseListName.parse(request.params.list);
    const change = LIST_CHANGE[list].parse(request.body);
    response.json(await correctInList(house, list, Id.parse(request.params.id), change, personOf(response).name));
  });
  routes.post('/lists/:list/:id/merge', async (request, response) => {
    const list = HouseListName.parse(request.params.list);
    const { into } = MergeRequest.parse(request.body);
    response.json(await mergeInList(house, list, Id.parse(request.params.id), into, personOf(response).name));
  });

  routes.get('/words', async (request, response) => {
    const { typed, limit } = WordsQuery.parse(request.query);
    response.json(await completions(house.db, typed, limit));
  });
  routes.get('/words/list', async (request, response) => {
    response.json(await wordPage(house.db, WordListQuery.parse(request.query)));
  });
  routes.post('/words', async (request, response) => {
    response.status(201).json({ id: await addWord(house, WordSaid.parse(request.body), personOf(response).name) });
  });
  routes.put('/words/:id', async (request, response) => {
    const said = WordSaid.parse(request.body);
    response.json(await correctWord(house, Id.parse(request.params.id), said, personOf(response).name));
  });
  routes.patch('/words/:id', async (request, response) => {
    const { retired } = z.strictObject({ retired: z.boolean() }).parse(request.body);
    await retire(house, Id.parse(request.params.id), retired, personOf(response).name);
    response.status(204).end();
  });
  routes.post('/words/:id/merge', async (request, response) => {
    const { into } = MergeRequest.parse(request.body);
    response.json(await mergeWords(house, Id.parse(request.params.id), into, personOf(response).name));
  });

  routes.get('/house-credit', async (_request, response) => void response.json(await houseCredit(house.db)));
  routes.patch('/house-credit', async (request, response) => {
    await changeHouseCredit(house, HouseCreditChange.parse(request.body), personOf(response).name);
    response.json(await houseCredit(house.db));
  });
  routes.get('/export/:what', async (request, response) => {
    const what = ImportName.parse(request.params.what);
    response
      .attachment(`${what}.csv`)
      .type('text/csv')
      .send(`\uFEFF${toCsv(await exportSheet(house, what))}`);
  });
  routes.get('/words/export.ttl', async (_request, response) => {
    response
      .attachment('words.ttl')
      .type('text/turtle')
      .send(await exportSkos(house));
  });
  routes.post('/import/:what', raw({ type: () => true, limit: '20mb' }), async (request, response) => {
    const what = ImportName.parse(request.params.what);
    const apply = ImportQuery.parse(request.query).apply === 'yes';
    const body: unknown = request.body;
    const bytes = Buffer.isBuffer(body) ? body : Buffer.alloc(0);
    const who = personOf(response).name;
    const isTurtle = what === 'words' && (request.headers['content-type'] ?? '').includes('turtle');
    response.json(
      await (isTurtle ? importSkos(house, bytes.toString('utf8'), apply, who) : importSheet(house, what, bytes, apply, who)),
    );
  });
  return routes;
}
