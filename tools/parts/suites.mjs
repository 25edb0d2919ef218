// Unit tests in few files: specs are dealt out to suites, each of which loads the modules of its package once.
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { ROOT } from './ready.mjs';

/** Packages with specs: in so many suites. A line of a spec weighs more where there is a database or a process behind it. */
const PACKAGES = {
  core: { suites: 2, weight: 1 },
  contract: { suites: 1, weight: 1 },
  standins: { suites: 1, weight: 1 },
  web: { suites: 2, weight: 1 },
  server: { suites: 9, weight: 3 },
  tests: { suites: 5, weight: 5 },
};

/** Where Jest finds the suites of a package. */
export const suitesOf = (name) => join(ROOT, '.tally/suites', name);

function* specsIn(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', 'journeys'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* specsIn(path);
    else if (entry.name.endsWith('.spec.ts')) yield { path, lines: readFileSync(path, 'utf8').split('\n').length };
  }
}

/** The same order for the same seed (a generator of G. Steele and S. Vigna, "mulberry32"; from memory). */
function shuffled(list, seed) {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t = (t + Math.imul(t ^ (t >>> 7), t | 61)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
  const rest = [...list];
  return list.map(() => rest.splice(Math.floor(next() * rest.length), 1)[0]);
}

/**
 * Deals specs out, the largest first, each to the suite that has least.
 * @param seed deals out at random and in a random order; null: always alike
 */
export function dealt(specs, suites, seed) {
  const all = Array.from({ length: Math.min(suites, specs.length) }, () => ({ lines: 0, paths: [] }));
  const ordered = [...specs].sort((a, b) => b.lines - a.lines || (a.path < b.path ? -1 : 1));
  for (const { path, lines } of seed === null ? ordered : shuffled(ordered, seed)) {
    const least = all.reduce((a, b) => (b.lines < a.lines ? b : a));
    least.lines += lines;
    least.paths.push(path);
  }
  return all;
}

/** Writes the suites of all packages anew. @param seed as in `dealt` */
export function writeSuites(seed = null) {
  for (const [name, { suites, weight }] of Object.entries(PACKAGES)) {
    const folder = suitesOf(name);
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(folder, { recursive: true });
    dealt([...specsIn(join(ROOT, name))], suites, seed).forEach(({ lines, paths }, index) => {
      const imports = paths.map((path) => `import '${relative(folder, path)}';`).join('\n');
      writeFileSync(join(folder, `${name}-${index + 1}.suite.mjs`), `// weighs ${lines * weight}\n${imports}\n`);
    });
  }
}
