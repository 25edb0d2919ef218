import { FetchAsk, FetchQuery, FiguresQuery, Id, JudgeAcross, ListExport, QuestionOnly, ShelfQuery } from '@tally/contract';
import { FIGURES_BY } from '@tally/core/find';
import { toCsv } from '@tally/core/spreadsheet';
import { Router, type Response } from 'express';
import { pipeline } from 'node:stream/promises';
import { personOf, seesPersons } from '../http/guard.js';
import type { House } from '../house/index.js';
import { judgeAcross } from '../seeing/index.js';
import { shelfPage, understood, whatItIsMadeOf } from './asking.js';
import { beforeFetching, meantIds, zipOf } from './fetching.js';
import { figuresFor } from './figures.js';
import { exportList } from './listed.js';
import { alikes, whereIs } from './looking.js';
import { sent } from './sent.js';

/** The shelf: what is filed, found, looked at, judged, fetched and counted. */
export function foundRoutes(house: House): Router {
  const isBlind = (response: Response) => !seesPersons(personOf(response));
  const routes = Router();
  routes.get('/shelf', async (request, response) => {
    response.json(await shelfPage(house, ShelfQuery.parse(request.query), isBlind(response)));
  });
  routes.get('/shelf/question', async (request, response) => {
    response.json((await understood(house, QuestionOnly.parse(request.query).question, isBlind(response))).view);
  });
  routes.get('/shelf/made-of', async (request, response) => {
    response.json(await whatItIsMadeOf(house, QuestionOnly.parse(request.query).question, isBlind(response)));
  });
  routes.get('/shelf/list.csv', async (request, response) => {
    const list = exportList(house, ListExport.parse(request.query), 'csv');
    await sent(response.attachment('list.csv').type('text/csv; charset=utf-8; header=present'), list);
  });
  routes.get('/shelf/list.tsv', async (request, response) => {
    const list = exportList(house, ListExport.parse(request.query), 'tsv');
    await sent(response.type('text/tab-separated-values; charset=utf-8'), list);
  });
  routes.get('/shelf/items/:id/alike', async (request, response) => {
    response.json(await alikes(house, Id.parse(request.params.id)));
  });
  routes.get('/shelf/items/:id/where', async (request, response) => {
    response.json(await whereIs(house, Id.parse(request.params.id)));
  });
  routes.patch('/shelf/judged', async (request, response) => {
    await judgeAcross(house, JudgeAcross.parse(request.body));
    response.status(204).end();
  });
  routes.post('/shelf/fetch/before', async (request, response) => {
    const ids = await meantIds(house, FetchAsk.parse(request.body));
    response.json(await beforeFetching(house, ids));
  });
  routes.get('/shelf/fetch.zip', async (request, response) => {
    const { items, question, names } = FetchQuery.parse(request.query);
    const ids = await meantIds(house, { itemIds: items, question });
    response.attachment('originals.zip').type('application/zip');
    // Whoever goes away ends it; what breaks off must not look whole.
    await pipeline(zipOf(house, ids, names), response).catch((error: unknown) => {
      house.log.info({ error: String(error) }, 'a fetch ended early');
      response.destroy();
    });
  });
  routes.get('/figures', async (request, response) => {
    response.json(await figuresFor(house, FiguresQuery.parse(request.query), isBlind(response)));
  });
  routes.get('/figures.csv', async (request, response) => {
    const { by, figures } = await figuresFor(house, FiguresQuery.parse(request.query));
    const rows = figures.map(({ words, intakes, items, bytes, selects, late }) => [words, intakes, items, bytes, selects, late]);
    const csv = toCsv({ columns: [FIGURES_BY.find((one) => one === by)!, 'intakes', 'items', 'bytes', 'selects', 'late'], rows });
    response.attachment(`figures-by-${by}.csv`).type('text/csv; charset=utf-8; header=present').send(csv);
  });
  return routes;
}
