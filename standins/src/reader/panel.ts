import express from 'express';
import { access, mkdir, readdir, readFile, rename } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';

/**
 * A card reader that is a folder: a small page, and an API for tests, put demonstration cards in and pull them out by
 * moving them between `box/` and `reader/`. A card vanishes as at once as a pulled one. The product only sees the folder.
 */
const [root, port, offSite] = [process.argv[2], Number(process.argv[3] ?? 0), process.argv[4]];
if (!root) throw new Error('usage: panel FOLDER [PORT] [OFF-SITE FOLDER]');
const box = join(root, 'box');
const reader = join(root, 'reader');
/** Let go: not mounted any more, and still in the slot. */
const slots = join(root, 'let-go');
await mkdir(reader, { recursive: true });
await mkdir(slots, { recursive: true });

const Cards = z.array(z.object({ volume: z.string(), says: z.string() }));
const known = Cards.parse(JSON.parse(await readFile(join(root, 'cards.json'), 'utf8')));
const Volume = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9 _-]{0,60}$/);
const there = (path: string) =>
  access(path).then(
    () => true,
    () => false,
  );

async function cards() {
  const inside = new Set(await readdir(reader));
  const letGo = new Set(await readdir(slots));
  const others = [...inside, ...letGo, ...(await readdir(box))].filter(
    (volume) => !volume.startsWith('.') && !known.some((card) => card.volume === volume),
  );
  const all = [...known, ...others.map((volume) => ({ volume, says: 'another card' }))];
  return all.map((card) => ({
    ...card,
    inReader: inside.has(card.volume) || letGo.has(card.volume),
    letGo: letGo.has(card.volume),
  }));
}

/** The line to the off-site place: cut, its folder is not where the product looks for it. */
async function cut(now: boolean): Promise<boolean> {
  if (!offSite) return false;
  const [from, to] = now ? [offSite, `${offSite}.cut`] : [`${offSite}.cut`, offSite];
  if (!(await there(from)) || (await there(to))) return false;
  await rename(from, to);
  return true;
}

const escape = (text: string) => text.replace(/[&<>"]/g, (char) => `&#${char.charCodeAt(0)};`);

const app = express();
app.disable('x-powered-by');
app.use((request, response, next) => {
  // Only this page and tests may move cards, not pages of other sites.
  const origin = request.get('origin');
  if (request.method === 'POST' && origin && new URL(origin).host !== request.get('host')) return void response.status(403).end();
  next();
});
app.get('/cards', async (_request, response) => void response.json(await cards()));
app.post('/cards/:volume/:move', async (request, response) => {
  const volume = Volume.safeParse(request.params['volume']);
  const move = request.params['move'];
  if (!volume.success || (move !== 'in' && move !== 'out'))
    return void response.status(400).json({ error: 'no such card or move' });
  const out = (await there(join(slots, volume.data))) ? slots : reader;
  const [from, to] = move === 'in' ? [box, reader] : [out, box];
  if (!(await there(join(from, volume.data))))
    return void response.status(409).json({ error: `${volume.data} is not in the ${move === 'in' ? 'box' : 'reader'}` });
  await rename(join(from, volume.data), join(to, volume.data));
  if (request.get('accept')?.includes('text/html')) response.redirect(303, '/');
  else response.json(await cards());
});
app.post('/off-site/:move', async (request, response) => {
  const move = request.params['move'];
  if (move !== 'cut' && move !== 'mend') return void response.status(400).json({ error: 'no such move' });
  if (!(await cut(move === 'cut'))) return void response.status(409).json({ error: `the line cannot be ${move}` });
  if (request.get('accept')?.includes('text/html')) response.redirect(303, '/');
  else response.json({ cut: move === 'cut' });
});
app.get('/', async (_request, response) => {
  const isCut = offSite !== undefined && (await there(`${offSite}.cut`));
  const line = offSite
    ? `<h2>Line to the off-site copy</h2><form method="post" action="/off-site/${isCut ? 'mend' : 'cut'}"><b>${isCut ? 'cut' : 'up'}</b>
<span>${isCut ? 'the place is away' : 'the place is there, and slow'}</span><button>${isCut ? 'Mend it' : 'Cut it'}</button></form>`
    : '';
  const rows = (await cards()).map(
    (card) => `<li><form method="post" action="/cards/${encodeURIComponent(card.volume)}/${card.inReader ? 'out' : 'in'}">
<b>${escape(card.volume)}</b> <span>${escape(card.says)}${card.letGo ? ' — let go: may be pulled' : ''}</span><button>${card.inReader ? 'Pull out' : 'Put in'}</button></form></li>`,
  );
  response.send(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Card reader (stand-in)</title><meta name="viewport" content="width=device-width">
<style>body{font:16px/1.5 system-ui;max-width:44rem;margin:2rem auto;padding:0 1rem;background:#f4f6f3;color:#16211d}ul{list-style:none;padding:0}
form{display:grid;grid-template-columns:11rem 1fr auto;gap:1rem;align-items:center;padding:.6rem 0;border-bottom:1px solid #d5dcd6}
button{font:inherit;padding:.35rem .9rem;border:1px solid #0f5b4c;border-radius:6px;background:#fff;color:#0f5b4c;cursor:pointer}</style>
<h1>Card reader</h1><p>This page stands in for a hand at the reader. Putting a card in moves its folder to where the product looks for cards.</p><ul>${rows.join('')}</ul>${line}</html>`);
});
const server = app.listen(port, '127.0.0.1', () => process.send?.('ready'));
process.on('SIGTERM', () => {
  server.close();
  server.closeAllConnections();
});
