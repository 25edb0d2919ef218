import { Id, ReceiptName, ReceiptQuery, type WrittenView } from '@tally/contract';
import { Router } from 'express';
import { pipeline } from 'node:stream/promises';
import { withoutInside } from '../drive/without-inside.js';
import { originalCopy, whatIsWritten } from './written.js';
import { personOf } from '../http/guard.js';
import { keptReceipt, keptReceipts, receiptOf } from './receipt.js';
import type { House } from '../house/index.js';

/** Receipts: made, kept, given again; what stands in the files; the card's bytes. */
export function provingRoutes(house: House): Router {
  const routes = Router();
  routes.get('/intakes/:id/receipt.pdf', async (request, response) => {
    const { paper } = ReceiptQuery.parse(request.query);
    const id = Id.parse(request.params.id);
    const base = house.settings.publicUrl?.replace(/\/$/, '') ?? `${request.protocol}://${request.get('host') ?? 'localhost'}`;
    const pdf = await receiptOf(house, id, paper, base, personOf(response).name);
    response.setHeader('Content-Disposition', `inline; filename="receipt-${id}.pdf"`);
    response.setHeader('Cache-Control', 'no-store').type('application/pdf').send(pdf);
  });
  routes.get('/intakes/:id/receipts', async (request, response) => {
    response.json(await keptReceipts(house, Id.parse(request.params.id)));
  });
  routes.get('/intakes/:id/receipts/:name', async (request, response) => {
    const name = ReceiptName.parse(request.params.name);
    const pdf = await keptReceipt(house, Id.parse(request.params.id), name);
    response.setHeader('Content-Disposition', `inline; filename="${name}"`);
    response.setHeader('Cache-Control', 'no-store').type('application/pdf').send(pdf);
  });
  routes.get('/items/:id/written', async (request, response) => {
    response.json((await whatIsWritten(house, Id.parse(request.params.id))) satisfies WrittenView);
  });

  // The bytes of the card, whatever was put into the file since: to be kept by whoever asks, never shown as a page.
  routes.get('/items/:id/original', async (request, response) => {
    const { path, name, bytes, undo } = await originalCopy(house, Id.parse(request.params.id));
    response.attachment(name).setHeader('X-Content-Type-Options', 'nosniff');
    response.setHeader('Content-Length', bytes);
    await pipeline(withoutInside(path, undo), response).catch((error: unknown) => {
      // Whoever asked went away, or the place did: what was sent by then is short, and says so by its length.
      house.log.info({ error: String(error) }, 'an original was not sent whole');
    });
  });
  return routes;
}
