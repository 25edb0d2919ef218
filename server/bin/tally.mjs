#!/usr/bin/env -S UV_THREADPOOL_SIZE=16 node
// The command line. It runs the built server code; `npm run build` (or demo, start, test) makes it.
import { existsSync } from 'node:fs';
const entry = new URL('../dist/cli/main.js', import.meta.url);
if (!existsSync(entry)) {
  console.error('tally: not built yet. Run "npm run build" once in the project folder.');
  process.exit(2);
}
await import(entry.href);
