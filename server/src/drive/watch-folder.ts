import { watch } from 'chokidar';
import glob from 'fast-glob';
import { relative, sep } from 'node:path';

/** A file counts as whole when nothing was added to it for this long. */
const STILL_MS = 800;
const POLL_MS = 200;
/** Files that arrive together are told together. */
const TOGETHER_MS = 150;

/** Tells of whole files and of files that went, by absolute paths. @returns how to stop. */
export type Ear = (folder: string, onWhole: (path: string) => void, onGone: (path: string) => void) => () => Promise<void>;

const isHalf = (path: string) => /(\.part|\.tmp|\.partial|\.crdownload|~)$/i.test(path);

/** What the system tells. It is quick, and not to be relied upon alone. */
const systemEar: Ear = (folder, onWhole, onGone) => {
  const watcher = watch(folder, {
    awaitWriteFinish: { stabilityThreshold: STILL_MS, pollInterval: POLL_MS },
    followSymlinks: false,
    ignored: isHalf,
  });
  watcher.on('add', onWhole);
  watcher.on('unlink', onGone);
  return () => watcher.close();
};

/**
 * Watches a folder for whole files: those that are there, and those that arrive; half-written ones are waited for. Names
 * of the kind that writers use for half files are not looked at. Events come late, or not at all: network file systems
 * tell nothing of what other machines write, and what arrives between the first listing and the first event is lost. So
 * the folder is also looked at, every `lookMs` (at least as long as a file must be still).
 * @param onWhole told the paths of all files that are whole so far, relative to the folder, `/` between folders.
 * @returns how to stop.
 */
export function watchFolder(
  folder: string,
  onWhole: (paths: ReadonlySet<string>) => void,
  lookMs: number,
  ear: Ear = systemEar,
): () => Promise<void> {
  const whole = new Set<string>();
  let timer: NodeJS.Timeout | null = null;
  const told = () => {
    timer = null;
    onWhole(new Set(whole));
  };
  const isWhole = (path: string) => {
    if (whole.has(path)) return;
    whole.add(path);
    timer ??= setTimeout(told, TOGETHER_MS);
  };
  const inside = (path: string) => relative(folder, path).split(sep).join('/');
  const deafen = ear(
    folder,
    (path) => isWhole(inside(path)),
    (path) => whole.delete(inside(path)),
  );
  let before = new Map<string, string>();
  const look = async () => {
    const now = await filesNow(folder);
    for (const [path, state] of now) if (before.get(path) === state) isWhole(path);
    for (const path of whole) if (!now.has(path)) whole.delete(path);
    before = now;
  };
  let looking: Promise<void> | null = null;
  const looks = setInterval(
    () => {
      looking ??= look().finally(() => (looking = null));
    },
    Math.max(lookMs, STILL_MS),
  );
  return async () => {
    clearInterval(looks);
    await looking;
    if (timer) clearTimeout(timer);
    await deafen();
  };
}

/** Files in a folder and below, each with what changes when it is written to. */
async function filesNow(folder: string): Promise<Map<string, string>> {
  // A folder that cannot be listed holds nothing for now.
  const found = await glob('**', { cwd: folder, dot: true, stats: true, followSymbolicLinks: false, suppressErrors: true });
  return new Map(found.flatMap(({ path, stats }) => (isHalf(path) ? [] : [[path, `${stats!.size} ${stats!.mtimeMs}`] as const])));
}
