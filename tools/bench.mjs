// npm run bench: what the product does as a ratio against plain tools in the same run. Prints a table and writes bench/latest.json (not committed).
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { cpus, totalmem } from 'node:os';
import { join } from 'node:path';
import { build, checkNode, packages, ROOT } from './parts/ready.mjs';
import { say, step } from './parts/say.mjs';

checkNode();
await packages('test');
const wanted = process.argv.slice(2);
// Only the sheet is looked at through the interface.
build({ web: !wanted.length || wanted.includes('sheet') || wanted.includes('shelf') });
await import('./parts/demo-house.mjs').then(({ drawnOnce }) => drawnOnce());
const { filing } = await import('../bench/filing.mjs');
const { planning } = await import('../bench/planning.mjs');
const { reading } = await import('../bench/reading.mjs');
const { clearance } = await import('../bench/clearance.mjs');
const { credit } = await import('../bench/credit.mjs');
const { sheet } = await import('../bench/sheet.mjs');
const { written } = await import('../bench/written.mjs');
const { scale } = await import('../bench/scale.mjs');
const { shelf } = await import('../bench/shelf.mjs');
const { drive } = await import('../bench/drive.mjs');

// Not in /tmp, which may be memory: the disk of the project is what is measured.
const scratch = mkdtempSync(join(ROOT, '.tally/bench-'));
const rows = [];
try {
  for (const [name, run] of Object.entries({
    planning,
    reading,
    filing,
    clearance,
    credit,
    written,
    sheet,
    scale,
    shelf,
    drive,
  })) {
    if (wanted.length && !wanted.includes(name)) continue;
    step(name);
    rows.push(...(await run(scratch)));
  }
} finally {
  rmSync(scratch, { recursive: true, force: true });
}
for (const row of rows) row.met = row.atLeast ? row.ratio >= row.target : row.ratio <= row.target;
say(`\n${cpus().length} cores, ${(totalmem() / 1e9).toFixed(0)} GB\n`);
for (const { what, ratio, target, atLeast, seconds, met } of rows) {
  say(`${met ? 'met   ' : 'missed'}  ${ratio.toFixed(2).padStart(6)}  (${atLeast ? '≥' : '≤'} ${target})  ${what}  [${seconds}]`);
}
writeFileSync(join(ROOT, 'bench/latest.json'), `${JSON.stringify({ at: new Date().toISOString(), rows }, null, 2)}\n`);
