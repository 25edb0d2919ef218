import { PlaceId } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { placeIsKnown } from './known.js';
import { placeViews } from './places.js';
import type { House } from '../house/index.js';

const NEVER = new AbortController().signal;

/** Places and how they stand. */
export function drivingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/places', async (_request, response) => void response.json(await placeViews(house)));
  routes.post('/places/:place/known', async (request, response) => {
    const before = await placeIsKnown(house, PlaceId.parse(request.params.place), personOf(response).name, NEVER);
    response.json({ before });
  });
  return routes;
}
