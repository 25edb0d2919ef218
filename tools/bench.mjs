// npm run bench: what the product does as a ratio against plain tools in the same run.
//   npm run bench [-- ROW …]              all benches, or those named; prints a table and keeps it in bench/latest.json
//   npm run bench -- smoke [ROW …]        every row at a fiftieth of its size: says whether each gives a figure, never which
//   npm run bench -- compare A B          two kept runs beside each other, row by row
// TALLY_BENCH_SHARE=0.1 measures at a part of the size.
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { cpus, totalmem } from 'node:os';
import { join } from 'node:path';
import { compared, kept, verdict } from './parts/bench-rows.mjs';
import { build, buildUnchecked, checkNode, packages, ROOT } from './parts/ready.mjs';
import { giveUp, say, step } from './parts/say.mjs';

/** A bench a file of the same name in bench/. The first word says whether it needs the interface. */
const BENCHES = {
  planning: 'server',
  reading: 'server',
  filing: 'server',
  clearance: 'server',
  credit: 'server',
  written: 'server',
  sheet: 'interface',
  scale: 'server',
  shelf: 'interface',
  drive: 'server',
};
const SMOKE_SHARE = 0.02;
const LATEST = join(ROOT, 'bench/latest.json');

checkNode();
const [word, ...rest] = process.argv.slice(2);
if (word === 'compare') {
  const [a, b] = rest;
  if (rest.length !== 2) giveUp('Two files are compared: npm run bench -- compare A.json B.json');
  say(compared(read(a), read(b)));
  process.exit(0);
}
const smoke = word === 'smoke';
const wanted = smoke ? rest : process.argv.slice(2);
const unknown = wanted.filter((name) => !Object.hasOwn(BENCHES, name));
if (unknown.length)
  giveUp(`There is no bench ${unknown.join(', ')}: there are ${Object.keys(BENCHES).join(', ')}, smoke and compare.`);
const names = wanted.length ? wanted : Object.keys(BENCHES);
// Read once, by bench/measure.
if (smoke) process.env.TALLY_BENCH_SHARE = String(SMOKE_SHARE);

await packages('test');
if (smoke) await buildUnchecked();
build({ server: !smoke, web: names.some((name) => BENCHES[name] === 'interface') });
await import('./parts/demo-house.mjs').then(({ drawnOnce }) => drawnOnce());

// Not in /tmp, which may be memory: the disk of the project is what is measured.
mkdirSync(join(ROOT, '.tally'), { recursive: true });
const scratch = mkdtempSync(join(ROOT, '.tally/bench-'));
const rows = [];
const broken = [];
try {
  for (const name of names) {
    step(name);
    const began = Date.now();
    const bench = await import(`../bench/${name}.mjs`);
    // One that no longer runs does not hide the others.
    const made = await bench[name](scratch).catch((error) => {
      broken.push(`${name}: ${error.stack}`);
      return [];
    });
    rows.push(...made.map((row) => ({ bench: name, ...verdict(row) })));
    if (smoke) step(`${name}: ${made.length} rows in ${((Date.now() - began) / 1000).toFixed(1)} s`);
  }
} finally {
  rmSync(scratch, { recursive: true, force: true });
}
for (const { what, ratio } of rows) if (!Number.isFinite(ratio)) broken.push(`${what}: gives no figure (${ratio})`);
for (const words of broken) say(`\nbroken  ${words}`);
if (smoke) {
  say(`${rows.length} rows at a fiftieth of their size, ${broken.length} broken`);
} else {
  say(`\n${cpus().length} cores, ${(totalmem() / 1e9).toFixed(0)} GB\n`);
  for (const { what, ratio, target, atLeast, seconds, met } of rows)
    say(
      `${met ? 'met   ' : 'missed'}  ${ratio.toFixed(2).padStart(6)}  (${atLeast ? '≥' : '≤'} ${target})  ${what}  [${seconds}]`,
    );
  writeFileSync(LATEST, `${JSON.stringify(kept(existsSync(LATEST) ? read(LATEST) : {}, rows), null, 2)}\n`);
}
process.exit(broken.length ? 1 : 0);

function read(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    giveUp(`${file} is no kept run: ${error.message}`);
  }
}
