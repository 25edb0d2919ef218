// What this machine has made or checked before from the very same sources, for every copy of the project on it: pictures of
// the demonstration, the interface as people get it, checks whose outcome depends on nothing but the sources.
import { createHash } from 'node:crypto';
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';

/** Where it is kept (XDG Base Directory Specification, XDG_CACHE_HOME). Whatever is removed from it is made again. */
export const known = (...parts) => join(process.env.XDG_CACHE_HOME || join(homedir(), '.cache'), 'tally-stick', ...parts);

/** As many of each kind are kept: what is large, and marks of what has passed. */
const KEPT = 4;
const MARKS = 400;
const NO_SOURCES = ['node_modules', 'dist', '.angular', '.tally', '.git', 'test-results', 'screenshots'];

/**
 * Stands for all files below some folders or files, and for what runs them.
 * @param paths relative to `root`
 */
export function hashOf(root, paths) {
  const hash = createHash('sha256').update(process.version).update(process.arch);
  const add = (path) => {
    if (!statSync(join(root, path)).isDirectory())
      return hash
        .update(path)
        .update('\0')
        .update(readFileSync(join(root, path)));
    for (const name of readdirSync(join(root, path)).sort())
      if (!NO_SOURCES.includes(name) && !name.endsWith('.tsbuildinfo')) add(path === '.' ? name : `${path}/${name}`);
  };
  for (const path of paths) add(path);
  return hash.digest('hex').slice(0, 24);
}

/** Keeps the newest of a kind: those used last. */
function tidy(kind, count = KEPT) {
  const all = readdirSync(known(kind)).map((name) => ({ path: known(kind, name), at: statSync(known(kind, name)).mtimeMs }));
  for (const { path } of all.sort((a, b) => b.at - a.at).slice(count)) rmSync(path, { recursive: true, force: true });
}

/** Copies what was made of these sources. @returns whether there is such a thing. */
export function takeKnown(kind, hash, to) {
  const from = known(kind, hash);
  if (!existsSync(from)) return false;
  utimesSync(from, new Date(), new Date());
  rmSync(to, { recursive: true, force: true });
  cpSync(from, to, { recursive: true, preserveTimestamps: true });
  return true;
}

/** Keeps a copy of what was made of these sources; another copy of the project may do the same just now. */
export function keepKnown(kind, hash, from) {
  const half = known(kind, `.half-${process.pid}`);
  mkdirSync(known(kind), { recursive: true });
  cpSync(from, half, { recursive: true, preserveTimestamps: true });
  appear(half, known(kind, hash));
  tidy(kind);
}

/** Gives what is whole its name; when another was quicker, its is as good. */
export function appear(half, whole) {
  try {
    renameSync(half, whole);
  } catch (error) {
    if (!existsSync(whole)) throw error;
    rmSync(half, { recursive: true, force: true });
  }
}

/** Whether a check has passed on this machine for these very sources; and that it has. */
export const hasPassed = (check, hash) => existsSync(known('passed', `${check}-${hash}`));
export function passes(check, hash) {
  mkdirSync(known('passed'), { recursive: true });
  writeFileSync(known('passed', `${check}-${hash}`), '');
  tidy('passed', MARKS);
}
