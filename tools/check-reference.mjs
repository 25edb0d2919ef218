// npm run check:reference -- DIR: reads every file below a folder with our reader and with Debian's exiftool, and compares.
import { relative, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { build, checkNode, packages, ROOT } from './parts/ready.mjs';
import { run } from './parts/run.mjs';
import { giveUp, say } from './parts/say.mjs';

const { values, positionals } = parseArgs({ options: { json: { type: 'boolean' } }, allowPositionals: true });
const folder = positionals[0] && resolve(positionals[0]);
if (!folder) giveUp('Use: npm run check:reference -- DIR [--json]');
checkNode();
await packages('test');
build({ web: false });

const ZONE = 'UTC';
const ours = new Map(readOurs().map((line) => [line.path, line]));
const fields = { date: tally(), offset: tally(), make: tally(), model: tally(), size: tally() };
for (const theirs of readTheirs()) {
  const mine = ours.get(relative(folder, theirs.SourceFile));
  if (!mine || ['sidecar', 'other'].includes(mine.kind)) continue;
  const date = theirDate(theirs);
  if (date) compare('date', mine.path, mineDate(mine), date);
  const offset = theirs['ExifIFD:OffsetTimeOriginal'];
  if (date && theirs['ExifIFD:DateTimeOriginal'] && /^[+-]\d\d:\d\d$/.test(offset ?? ''))
    compare('offset', mine.path, mine.capturedAt.slice(-6), offset);
  for (const [field, tag] of [
    ['make', 'IFD0:Make'],
    ['model', 'IFD0:Model'],
  ]) {
    // Exiftool's JSON writes a text such as 1.0 as the number 1.
    const value = theirs[tag];
    const text = String(value ?? '')
      .split('\0')[0]
      .trim();
    if (text) compare(field, mine.path, typeof value === 'number' ? String(Number(mine[field])) : mine[field], text);
  }
  const [width, height] = [theirs['File:ImageWidth'], theirs['File:ImageHeight']];
  if (width && height) compare('size', mine.path, `${mine.width}x${mine.height}`, `${width}x${height}`);
}

if (values.json)
  say(
    JSON.stringify({
      files: ours.size,
      ...Object.fromEntries(Object.entries(fields).map(([name, { same, wrong }]) => [name, { same, wrong }])),
    }),
  );
else {
  say(`${ours.size} files below ${folder}, read by us and by exiftool ${run('exiftool', ['-ver']).out.trim()}:`);
  for (const [name, { same, wrong }] of Object.entries(fields)) {
    say(`  ${name.padEnd(7)} ${same} of ${same + wrong.length} equal`);
    for (const { path, ours: mine, theirs } of wrong) say(`          ${path}: ours ${mine}, exiftool ${theirs}`);
  }
}

function tally() {
  return { same: 0, wrong: [] };
}

function compare(field, path, mine, theirs) {
  if (mine === theirs) fields[field].same++;
  else fields[field].wrong.push({ path, ours: mine, theirs });
}

function readOurs() {
  const { code, out } = run(process.execPath, [`${ROOT}/server/bin/tally.mjs`, 'read', folder, '--json'], {
    env: { TALLY_ZONE: ZONE, TALLY_SETTINGS: '' },
    cwd: '/',
  });
  if (code > 1) giveUp(out);
  return out
    .split('\n')
    .filter((line) => line.startsWith('{'))
    .map((line) => JSON.parse(line));
}

/** Exiftool's own reading of dates: -d makes it parse them, so that its leniency is what ours is compared with. */
function readTheirs() {
  const tags = [
    'DateTimeOriginal',
    'CreateDate',
    'CreationDate',
    'OffsetTimeOriginal',
    'Make',
    'Model',
    'ImageWidth',
    'ImageHeight',
  ].map((tag) => `-${tag}`);
  const { stdout } = run('exiftool', ['-json', '-G1', '-q', '-q', '-r', '-d', '%Y-%m-%dT%H:%M:%S', ...tags, folder]);
  return JSON.parse(stdout || '[]');
}

/** The date that exiftool would give first, when it is a real one: EXIF's, else a phone's with its offset, else the container's in UTC. */
function theirDate(tags) {
  const real = (key) => {
    const text = String(tags[key] ?? '');
    const parts = /^(\d{4})-(\d\d)-(\d\d)T(\d\d):(\d\d):(\d\d)$/.exec(text);
    if (!parts) return null;
    const [, y, mo, d, h] = parts.map(Number);
    const date = new Date(Date.UTC(y, mo - 1, d));
    return y > 0 && h < 24 && date.getUTCMonth() === mo - 1 && date.getUTCDate() === d ? text : null;
  };
  return (
    ['ExifIFD:DateTimeOriginal', 'ExifIFD:CreateDate', 'Keys:CreationDate', 'QuickTime:CreateDate'].map(real).find(Boolean) ??
    null
  );
}

function mineDate({ capturedAt }) {
  return capturedAt.slice(0, 19);
}
