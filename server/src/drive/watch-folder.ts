import { watch } from 'chokidar';
import { relative, sep } from 'node:path';

/** A file counts as whole when nothing was added to it for this long. */
const STILL_MS = 800;
const POLL_MS = 200;
/** Files that arrive together are told together. */
const TOGETHER_MS = 150;

/**
 * Watches a folder for whole files: those that are there, and those that arrive; half-written ones are waited for. Names
 * of the kind that writers use for half files are not looked at.
 * @param onWhole told the paths of all files that are whole so far, relative to the folder, `/` between folders.
 * @returns how to stop.
 */
export function watchFolder(folder: string, onWhole: (paths: ReadonlySet<string>) => void): () => Promise<void> {
  const whole = new Set<string>();
  let timer: NodeJS.Timeout | null = null;
  const told = () => {
    timer = null;
    onWhole(new Set(whole));
  };
  const watcher = watch(folder, {
    awaitWriteFinish: { stabilityThreshold: STILL_MS, pollInterval: POLL_MS },
    followSymlinks: false,
    ignored: (path) => /(\.part|\.tmp|\.partial|\.crdownload|~)$/i.test(path),
  });
  watcher.on('add', (path) => {
    whole.add(relative(folder, path).split(sep).join('/'));
    timer ??= setTimeout(told, TOGETHER_MS);
  });
  watcher.on('unlink', (path) => whole.delete(relative(folder, path).split(sep).join('/')));
  return async () => {
    if (timer) clearTimeout(timer);
    await watcher.close();
  };
}
