import { Id, ReceiptName, ReceiptQuery } from '@tally/contract';
import { Router } from 'express';
import { personOf } from '../http/guard.js';
import { keptReceipt, keptReceipts, receiptOf } from './receipt.js';
import type { House } from '../house/index.js';

/** Receipts: made, kept, given again. */
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
  return routes;
}
