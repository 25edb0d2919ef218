#!/usr/bin/env -S UV_THREADPOOL_SIZE=16 node
// The command line. It runs the built server code; `npm run build` (or demo, start, test) makes it.
import { existsSync } from 'node:fs';
const entry = new URL('../dist/tally.js', import.meta.url);
if (!existsSync(entry)) {
  console.error('tally: not built yet. Run "npm run build" once in the project folder.');
  process.exit(2);
}
const { tally } = await import(entry.href);
const stopping = new AbortController();
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => stopping.abort());
process.exit(await tally(process.argv.slice(2), { env: process.env, cwd: process.cwd(), signal: stopping.signal }));
