import { Id, type ItemDetails, type SoundWave } from '@tally/contract';
import { extensionOf } from '@tally/core/card';
import { Router, type Request, type Response } from 'express';
import { once } from 'node:events';
import { filedCopy, pictureSource } from './items.js';
import { mediaType } from '../media/clips.js';
import { isThere, URGENCY, type PreviewSource } from '../media/previews.js';
import { withSafePath } from '../media/safe-path.js';
import { pictureFromStation } from './pictures-elsewhere.js';
import { keptFor, personOf, seesPersons } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import type { House } from '../house/index.js';

const A_DAY = 86_400;

/** Pictures, waves, clips and sounds of items. */
export function pictureRoutes(house: House): Router {
  const { previews } = house;
  const routes = Router();
  const sourceOf = (request: Request) => pictureSource(house, Id.parse(request.params['id']));

  // Every pixel: the file itself where a browser can show it, else all of it that can be turned into a JPEG.
  routes.get('/items/:id/picture/full', async (request, response) => {
    const source = await sourceOf(request);
    // The file itself says where and with what it was taken: whoever may not see that gets its pixels.
    const asItIs = source.kind === 'photo' && seesPersons(personOf(response));
    const type = asItIs && (await isThere(source.path)) ? await previews.typeForBrowsers(source) : null;
    if (type) return withSafePath(source.path, (path) => play(response, path, type));
    const picture = await previews.full(source);
    if (picture) response.setHeader('Cache-Control', keptFor(response, A_DAY)).type('image/jpeg').send(picture);
    else sendProblem(response, 404, 'This item has no picture');
  });

  routes.get('/items/:id/picture/:size', async (request, response) => {
    const size = request.params['size'];
    if (size !== 'quick' && size !== 'sheet' && size !== 'closer') {
      sendProblem(response, 404, 'There is no such size');
      return;
    }
    const gone = goneWith(response);
    // What comes next is fetched before it is needed, but not before what is on screen.
    const priority = request.get('x-next') === undefined ? URGENCY.looking : URGENCY.next;
    const source = await sourceOf(request);
    const here = size === 'quick' ? await previews.quick(source) : await madeFor(source, size, priority, gone);
    // Its card may lie in the reader of another station.
    const picture = here ?? (await pictureFromStation(house, source.itemId, size === 'closer' ? 'closer' : 'sheet', gone));
    if (gone.aborted) return;
    // A picture that is not there yet (its card is away) may come: only what is there is kept by the browser.
    if (!picture) {
      sendProblem(response, 404, 'This item has no picture');
      return;
    }
    response.setHeader('Cache-Control', keptFor(response, size === 'quick' ? 300 : A_DAY));
    response.type('image/jpeg').send(picture);
  });

  /** Two browsers may wait for one making: when the first goes away, the other asks again. */
  async function madeFor(source: PreviewSource, size: 'sheet' | 'closer', priority: number, gone: AbortSignal) {
    for (;;) {
      try {
        return await previews.made(source, size, { priority, signal: gone });
      } catch (error) {
        if ((error as Error).name !== 'AbortError' || gone.aborted) {
          if (gone.aborted) return null;
          throw error;
        }
      }
    }
  }

  // A filed copy, to be kept by whoever asks: never shown as a page.
  routes.get('/items/:id/file', async (request, response) => {
    const { path, name } = await filedCopy(house, Id.parse(request.params.id));
    response.attachment(name).setHeader('X-Content-Type-Options', 'nosniff');
    await withSafePath(Buffer.from(path), (safe) => play(response, safe, 'application/octet-stream'));
  });

  routes.get('/items/:id/details', async (request, response) => {
    response.json((await previews.details(await sourceOf(request))) satisfies ItemDetails);
  });

  routes.get('/items/:id/wave', async (request, response) => {
    const wave = await previews.wave(await sourceOf(request));
    if (!wave) {
      sendProblem(response, 404, 'This item has no sound');
      return;
    }
    response.setHeader('Cache-Control', keptFor(response, A_DAY));
    response.json([...wave] satisfies SoundWave);
  });

  routes.get('/items/:id/media/:version', async (request, response) => {
    const source = await sourceOf(request);
    if ((source.kind !== 'video' && source.kind !== 'sound') || !(await isThere(source.path))) {
      sendProblem(response, 404, 'There is nothing to play: the card is away, or this is no clip and no sound');
      return;
    }
    // The file itself says where and with what it was taken: whoever may not see that gets the version that does not.
    if (request.params['version'] === 'small' || !seesPersons(personOf(response))) {
      const small = await previews.small(source);
      if (small) await play(response, small, 'video/mp4');
      else sendProblem(response, 404, 'This file cannot be played');
      return;
    }
    await withSafePath(source.path, (path) => play(response, path, mediaType(extensionOf(path))));
  });
  return routes;
}

/** Sends a file with byte ranges (RFC 9110, section 14), so that a player can seek. */
async function play(response: Response, path: string, type: string): Promise<void> {
  const closed = once(response, 'close');
  response.setHeader('Content-Type', type);
  response.setHeader('Content-Security-Policy', 'sandbox');
  response.sendFile(path, { dotfiles: 'allow', maxAge: 0, cacheControl: false }, (error) => {
    if (!error || response.headersSent) return;
    const beyond = (error as { status?: number }).status === 416;
    if (beyond) sendProblem(response, 416, 'The file is not that long');
    else sendProblem(response, 404, 'This file cannot be read now');
  });
  await closed;
}

function goneWith(response: Response): AbortSignal {
  const controller = new AbortController();
  response.on('close', () => {
    if (!response.writableFinished) controller.abort();
  });
  return controller.signal;
}
