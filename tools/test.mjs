// npm test: from a fresh machine to all tests. Ends with "N passed, N failed".
//   npm test -- --only NAME[,NAME]        some of the steps
//   npm test -- --only jest FILE …        specs whose path holds this, each by itself
//   npm test -- --shuffle                 unit tests in a random order (by the seed)
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync } from 'node:fs';
import { randomInt } from 'node:crypto';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { startCluster } from './parts/cluster.mjs';
import { hashOf, hasPassed, passes } from './parts/known.mjs';
import { MARK, removeAll } from './parts/left-behind.mjs';
import { holdFolder } from './parts/lock.mjs';
import { quickFolder } from './parts/memory.mjs';
import { buildUnchecked, checkNode, packages, ROOT } from './parts/ready.mjs';
import { casesOfJest, casesOfJourneys, leftOut, slowest } from './parts/report.mjs';
import { laneOf, runSoon } from './parts/run.mjs';
import { giveUp, say, step } from './parts/say.mjs';
import { writeSuites } from './parts/suites.mjs';

checkNode();
const { values, positionals } = parseArgs({
  options: { only: { type: 'string' }, shuffle: { type: 'boolean', default: false } },
  allowPositionals: true,
  strict: false,
});
const bin = (name) => join(ROOT, 'node_modules/.bin', name);

/** Compilers and tests make much that is soon gone: with room for it they take an eighth less time. */
const ROOMY = '--max-semi-space-size=64';
const SOURCES = ['core', 'contract', 'server', 'standins', 'web', 'tests', 'bench', 'tools'];
/** Packages whose tests need a database, files or processes, and those that only compute. */
const WITH_DATABASE = ['server', 'standins', 'tests'];
const COMPUTING = ['core', 'contract', 'web'];

/** Each step says how many of its tests passed and failed, and what a person should read when some did. */
const STEPS = {
  source: () => check('source', process.execPath, ['tools/check-source.mjs']),
  format: () => check('format', bin('prettier'), ['--check', '.']),
  boundaries: () => check('boundaries', bin('depcruise'), ['--config', '.dependency-cruiser.cjs', ...SOURCES]),
  bench: null,
  jest: null,
  journeys: null,
};
const wanted = values.only ? values.only.split(',') : Object.keys(STEPS);
const unknown = wanted.filter((name) => !Object.hasOwn(STEPS, name));
if (unknown.length) giveUp(`There is no step ${unknown.join(', ')}: the steps are ${Object.keys(STEPS).join(', ')}.`);

const lock = await holdFolder(join(ROOT, '.tally/test.lock'), 'npm test of this folder');
const began = Date.now();
const seconds = () => Math.round((Date.now() - began) / 1000);
const id = String(process.pid);
process.env[MARK] = id;
// In memory where there is some: what a test writes is gone with it. What is about disks has a folder on one.
const scratch = mkdtempSync(join(quickFolder(), 'tally-test-'));
// The database runs as another user, who must get through.
chmodSync(scratch, 0o711);
const disk = join(ROOT, '.tally/test-disk');
// What each program says, while it says it.
const logOf = (name) => join(ROOT, '.tally/test-logs', `${name}.log`);
mkdirSync(join(ROOT, '.tally/test-logs'), { recursive: true });
const folders = [scratch, disk];
for (const folder of folders) mkdirSync(folder, { recursive: true });
process.env.TMPDIR = scratch;
process.env.TALLY_TEST_DISK = disk;
process.env.TALLY_JOURNEYS = join(scratch, 'journeys');

let cluster = null;
let ending = false;
async function endEverything() {
  ending = true;
  // In good order where it can: what it shares in memory goes with it.
  cluster?.stop();
  await removeAll(id, folders, ROOT);
  lock.release();
}
for (const [signal, code] of [
  ['SIGINT', 130],
  ['SIGTERM', 143],
  ['SIGHUP', 129],
])
  process.on(signal, () => {
    if (ending) return;
    step('ending what was begun');
    void endEverything().then(() => process.exit(code));
  });

// Random tests repeat with the seed of a run.
const seed = process.env.TALLY_SEED ?? String(randomInt(1, 2 ** 31));
step(`random tests use the seed ${seed} (TALLY_SEED=${seed} repeats them)`);

await packages('test');
step(`packages are there (after ${seconds()} s)`);
// The types are checked by a step of their own.
await buildUnchecked();
step(`the server is built (after ${seconds()} s)`);

/** All cases of a run, as the reports have them. */
const cases = [];
let [passed, failed] = [0, 0];
/** Stands for all sources; asked for once. */
let sources = null;
// Beside what people and databases wait for, one at a time and below it.
const beside = laneOf(1);
try {
  const house = wanted.includes('journeys') ? made('tools/parts/journeys-house.mjs') : null;
  const page = wanted.includes('journeys') || wanted.includes('bench') ? made('tools/build.mjs', 'web') : null;
  const begun = wanted.filter((name) => STEPS[name] !== null).map((name) => told(name, STEPS[name]()));
  let withDatabase = null;
  if (wanted.includes('jest')) {
    if (!positionals.length) writeSuites(values.shuffle ? Number(seed) : null);
    cluster = await startCluster(join(scratch, 'db'), { testing: true });
    cluster.ensureDatabase('tally');
    withDatabase = jest(positionals.length ? [...WITH_DATABASE, ...COMPUTING] : WITH_DATABASE);
    begun.push(told('unit tests with a database', withDatabase));
    if (!positionals.length) begun.push(told('unit tests that compute', jest(COMPUTING)));
  }
  if (wanted.includes('bench')) begun.push(told('bench', bench(page)));
  if (wanted.includes('journeys')) begun.push(told('journeys', journeys(house, page, withDatabase)));
  for (const outcome of await Promise.all(begun)) {
    passed += outcome.passed;
    failed += outcome.failed;
  }
} finally {
  // Whoever ends the run ends this process, too, when nothing is left of it.
  if (ending) await new Promise(() => undefined);
  await endEverything();
}
for (const words of [slowest(cases), leftOut(cases)]) if (words) say(words);
step(`all of it took ${seconds()} s`);
say(`${passed} passed, ${failed} failed`);
process.exit(failed || !passed ? 1 : 0);

async function told(name, work) {
  const since = Date.now();
  const outcome = await work;
  if (outcome.failed && !ending) say(outcome.words);
  const took = ((outcome.ended ?? Date.now()) - (outcome.began ?? since)) / 1000;
  const how = outcome.note ?? `${took.toFixed(0)} s, after ${seconds()} s`;
  step(`${name}: ${outcome.passed} passed, ${outcome.failed} failed (${how})`);
  return outcome;
}

/**
 * A check of the sources alone: below the tests, one at a time. What has passed on this machine for these very sources, all of
 * them, passes again; named by `--only` it is done all the same.
 */
async function check(name, command, words) {
  sources ??= hashOf(ROOT, ['.']);
  if (!values.only && hasPassed(name, sources))
    return { passed: 1, failed: 0, words: '', note: 'as before, of the same sources' };
  const { code, out, began } = await gently(command, words);
  if (code === 0) passes(name, sources);
  return { passed: code === 0 ? 1 : 0, failed: code === 0 ? 0 : 1, words: out, began };
}

/** Every row of the bench, small: whether it gives a figure. */
async function bench(page) {
  const built = await page;
  if (built.code !== 0) return { passed: 0, failed: 1, words: built.out };
  const { code, out, began } = await gently(process.execPath, ['tools/bench.mjs', 'smoke']);
  return { passed: code === 0 ? 1 : 0, failed: code === 0 ? 0 : 1, words: out, began };
}

/** Runs something beside the tests and below them: they wait for times. */
function gently(command, args, env = {}) {
  return runSoon('nice', ['-n', '10', command, ...args], { cwd: ROOT, env: { NODE_OPTIONS: ROOMY, ...env }, lane: beside });
}

/** What journeys begin with is made while other tests run: the house, and the interface as people get it. */
function made(script, ...words) {
  return gently(process.execPath, [join(ROOT, script), ...words]);
}

/** Unit tests of some packages. Those with a database have the machine first, the others what it leaves. */
async function jest(names) {
  const report = join(scratch, `jest-${names[0]}.json`);
  const env = {
    NODE_OPTIONS: `--experimental-vm-modules --no-warnings ${ROOMY}`,
    TALLY_TEST_ADMIN_URL: cluster.adminUrl('postgres'),
    TALLY_TEST_APP_URL: cluster.appUrl('postgres'),
    UV_THREADPOOL_SIZE: '16',
    TALLY_SEED: seed,
    // Named ones each by itself; all of them in a few files.
    TALLY_SUITES: positionals.length ? '0' : '1',
  };
  const words = ['--json', `--outputFile=${report}`, '--silent', '--selectProjects', ...names];
  const done =
    names === COMPUTING
      ? await gently(bin('jest'), [...words, '--maxWorkers=1'], env)
      : await runSoon(bin('jest'), [...words, ...(positionals.length ? ['--testPathPatterns', ...positionals] : [])], {
          ...{ cwd: ROOT, env, log: logOf(names[0]) },
        });
  if (!existsSync(report)) return { passed: 0, failed: 1, words: done.out };
  const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites } = JSON.parse(readFileSync(report, 'utf8'));
  cases.push(...casesOfJest(report));
  return {
    ...{ passed: numPassedTests, failed: numFailedTests + numRuntimeErrorTestSuites, began: done.began },
    words: done.out.slice(0, 60_000),
  };
}

/**
 * Journeys through the real interface in Debian's Chromium: when their house and the interface are made, and the tests with a
 * database are over. What only computes goes on beside them.
 */
async function journeys(house, page, withDatabase) {
  for (const { code, out } of [await house, await page]) if (code !== 0) return { passed: 0, failed: 1, words: out };
  await withDatabase;
  const report = join(scratch, 'journeys.json');
  const done = await runSoon(bin('playwright'), ['test', '--config', 'tests/playwright.config.ts', ...positionals], {
    ...{ cwd: ROOT, log: logOf('journeys') },
    env: { PLAYWRIGHT_JSON_OUTPUT_NAME: report, TALLY_JOURNEYS_MADE: '1' },
  });
  if (!existsSync(report)) return { passed: 0, failed: 1, words: done.out };
  const { stats } = JSON.parse(readFileSync(report, 'utf8'));
  cases.push(...casesOfJourneys(report));
  const bad = stats.unexpected + (done.code !== 0 && stats.unexpected === 0 ? 1 : 0);
  return { passed: stats.expected + stats.flaky, failed: bad, words: done.out.slice(0, 60_000), began: done.began };
}
