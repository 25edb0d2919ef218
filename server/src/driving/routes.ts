import { Router } from 'express';
import { placeViews } from './places.js';
import type { House } from '../house/index.js';

/** Places and how they stand. */
export function drivingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/places', async (_request, response) => void response.json(await placeViews(house)));
  return routes;
}
