import { PlaceId, RebuildAsk, type RebuildOffer } from '@tally/contract';
import { Router } from 'express';
import { z } from 'zod';
import { personOf } from '../http/guard.js';
import { type House, isEmptyHouse, rebuildingFrom } from '../house/index.js';
import { beginRebuild, lookAtDrives } from './rebuilding.js';

const NEVER = new AbortController().signal;
const Asked = z.strictObject({ place: PlaceId });

/** What could be rebuilt from a drive, and to begin it. */
export function rebuildingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/rebuild', async (request, response) => {
    const { place } = Asked.parse(request.query);
    const empty = await isEmptyHouse(house.db);
    const going = (await rebuildingFrom(house.db)) !== null;
    // A house that holds something is rebuilt from nothing: a drive is not read through for it.
    const none = { houseName: '', intakes: 0, newest: null, hasHouseRecord: false, others: 0 };
    const { houseId: _id, ...found } = empty ? await lookAtDrives(house, [place], NEVER) : { ...none, houseId: '' };
    response.json({ ...found, empty, going } satisfies RebuildOffer);
  });
  routes.post('/rebuild', async (request, response) => {
    const { placeIds } = RebuildAsk.parse(request.body);
    const { intakes } = await beginRebuild(house, placeIds, personOf(response).name, NEVER);
    response.status(202).json({ intakes });
  });
  return routes;
}
