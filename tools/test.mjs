// npm test: from a fresh machine to all tests. Ends with "N passed, N failed". --only NAME[,NAME] runs some of the steps.
import { mkdtempSync, readFileSync, rmSync, existsSync } from 'node:fs';
import { randomInt } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { startCluster } from './parts/cluster.mjs';
import { build, checkNode, packages, ROOT } from './parts/ready.mjs';
import { laneOf, runSoon } from './parts/run.mjs';
import { giveUp, say, step } from './parts/say.mjs';

checkNode();
const { values, positionals } = parseArgs({ options: { only: { type: 'string' } }, allowPositionals: true, strict: false });
const scratch = mkdtempSync(join(tmpdir(), 'tally-test-'));
const bin = (name) => join(ROOT, 'node_modules/.bin', name);
const lane = laneOf(2);
let cluster = null;

/** Compilers and tests make much that is soon gone: with room for it they take an eighth less time. */
const ROOMY = '--max-semi-space-size=64';

const SOURCES = ['core', 'contract', 'server', 'standins', 'web', 'tests', 'bench', 'tools'];

/** Each step says how many of its tests passed and failed, and what a person should read when some did. */
const STEPS = {
  types: () =>
    checks(['tsconfig.check.json', 'web/tsconfig.spec.json'].map((project) => [bin('tsc'), ['--noEmit', '-p', project]])),
  lint: () => checks([[bin('eslint'), ['.', '--max-warnings', '0']]]),
  format: () => checks([[bin('prettier'), ['--check', '.']]]),
  boundaries: () => checks([[bin('depcruise'), ['--config', '.dependency-cruiser.cjs', ...SOURCES]]]),
  jest,
  journeys,
};

const wanted = values.only ? values.only.split(',') : Object.keys(STEPS);
const unknown = wanted.filter((name) => !Object.hasOwn(STEPS, name));
if (unknown.length) giveUp(`There is no step ${unknown.join(', ')}: the steps are ${Object.keys(STEPS).join(', ')}.`);

// Random tests repeat with the seed of a run.
const seed = process.env.TALLY_SEED ?? String(randomInt(1, 2 ** 31));
step(`random tests use the seed ${seed} (TALLY_SEED=${seed} repeats them)`);

await packages('test');
// The types are checked by a step of their own.
build({ web: false, checked: false });
let passed = 0;
let failed = 0;
try {
  const began = Date.now();
  // Checks fill the gaps of the tests; journeys have the machine to themselves, as a person at a desk has.
  const seconds = () => Math.round((Date.now() - began) / 1000);
  const first = wanted.filter((name) => name !== 'journeys');
  // Only journeys see the interface: it is built beside the first unit tests, before the checks.
  const built = wanted.includes('journeys') ? builtInterface() : Promise.resolve(null);
  const made = wanted.includes('journeys') ? journeysHouse() : Promise.resolve(null);
  const unit = wanted.includes('jest') ? STEPS.jest() : Promise.resolve(null);
  const told = (name, step) => step.then((outcome) => ({ name, ...outcome, after: seconds() }));
  const begun = first.map((name) => told(name, name === 'jest' ? unit : STEPS[name]()));
  // What is still checked is waited for: a click that comes too late is not what is tried.
  if (wanted.includes('journeys'))
    begun.push(
      told(
        'journeys',
        Promise.all([made, built, ...begun]).then(([house, page]) => journeys(house, page)),
      ),
    );
  for (const { name, after, ...outcome } of await Promise.all(begun)) {
    passed += outcome.passed;
    failed += outcome.failed;
    if (outcome.failed) say(outcome.words);
    step(`${name}: ${outcome.passed} passed, ${outcome.failed} failed (after ${after} s)`);
  }
} finally {
  cluster?.stop();
  rmSync(scratch, { recursive: true, force: true });
}
say(`${passed} passed, ${failed} failed`);
process.exit(failed || !passed ? 1 : 0);

/** Checks of the source need no order: they begin together, one at a time, and give way to the tests. */
async function checks(commands) {
  // Below the tests, which wait for times.
  const outcomes = await Promise.all(
    commands.map(([command, args]) =>
      runSoon('nice', ['-n', '15', command, ...args], { cwd: ROOT, env: { NODE_OPTIONS: ROOMY } }),
    ),
  );
  const bad = outcomes.filter(({ code }) => code !== 0);
  return { passed: outcomes.length - bad.length, failed: bad.length, words: bad.map(({ out }) => out).join('\n') };
}

/** Unit tests, and those that need a PostgreSQL, files or processes. */
async function jest() {
  cluster ??= await startCluster(join(ROOT, '.tally/test-db'), { testing: true });
  const report = join(scratch, 'jest.json');
  const env = {
    NODE_OPTIONS: `--experimental-vm-modules --no-warnings ${ROOMY}`,
    TALLY_TEST_ADMIN_URL: cluster.adminUrl('postgres'),
    TALLY_TEST_APP_URL: cluster.appUrl('postgres'),
    UV_THREADPOOL_SIZE: '16',
    TALLY_SEED: seed,
  };
  cluster.ensureDatabase('tally');
  const done = await runSoon(bin('jest'), ['--json', `--outputFile=${report}`, '--silent', ...positionals], {
    cwd: ROOT,
    env,
    lane,
  });
  if (!existsSync(report)) return { passed: 0, failed: 1, words: done.out };
  const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites } = JSON.parse(readFileSync(report, 'utf8'));
  return { passed: numPassedTests, failed: numFailedTests + numRuntimeErrorTestSuites, words: done.out.slice(0, 60_000) };
}

/** The interface, as people get it. First in the lane of the checks. */
function builtInterface() {
  step('building the interface (about a minute)');
  return runSoon(process.execPath, [join(ROOT, 'tools/build.mjs')], { cwd: ROOT, env: { NODE_OPTIONS: ROOMY } });
}

/** What journeys begin with is made while the unit tests run. */
function journeysHouse() {
  return runSoon('nice', ['-n', '10', process.execPath, join(ROOT, 'tools/parts/journeys-house.mjs')], {
    cwd: ROOT,
    lane: laneOf(1),
  });
}

/** Journeys through the real interface in Debian's Chromium. */
async function journeys(house, page) {
  for (const { code, out } of [house, page]) if (code !== 0) return { passed: 0, failed: 1, words: out };
  const report = join(scratch, 'journeys.json');
  const done = await runSoon(bin('playwright'), ['test', '--config', 'tests/playwright.config.ts', ...positionals], {
    ...{ cwd: ROOT, lane },
    env: { PLAYWRIGHT_JSON_OUTPUT_NAME: report, TALLY_JOURNEYS_MADE: '1' },
  });
  if (!existsSync(report)) return { passed: 0, failed: 1, words: done.out };
  const { stats } = JSON.parse(readFileSync(report, 'utf8'));
  const bad = stats.unexpected + (done.code !== 0 && stats.unexpected === 0 ? 1 : 0);
  return { passed: stats.expected + stats.flaky, failed: bad, words: done.out.slice(0, 60_000) };
}
