// What a run of the tests leaves when it is ended in the middle: processes, mounts, loop devices, networks. All of it is known
// by the run: processes by their environment, files by its folders, networks by their names.
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { run } from './run.mjs';

/** Whatever a run begins has this in its environment, and so has what that begins. */
export const MARK = 'TALLY_TEST_RUN';

/** Processes of a run, except this one. */
export function processesOf(id) {
  const wanted = `${MARK}=${id}`;
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name) && Number(name) !== process.pid)
    .map(Number)
    .filter((pid) => {
      try {
        return readFileSync(`/proc/${pid}/environ`, 'utf8').split('\0').includes(wanted);
      } catch {
        // It has ended, or is somebody else's.
        return false;
      }
    });
}

/**
 * Exiftools whose parent was killed, as tests do it: they are given no environment that could be marked, and wait for ever.
 * @param root of this copy of the project: those of others are theirs
 */
function orphansOf(root) {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((pid) => {
      try {
        const [, parent] = /^.*\) \S+ (\d+)/s.exec(readFileSync(`/proc/${pid}/stat`, 'utf8'));
        return parent === '1' && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(`${root}/node_modules/exiftool-vendored`);
      } catch {
        // It has ended.
        return false;
      }
    });
}

function kill(pids, signal) {
  for (const pid of pids) {
    try {
      process.kill(pid, signal);
    } catch {
      // It has ended by itself.
    }
  }
}

const below = (path, folders) => folders.some((folder) => path === folder || path.startsWith(`${folder}/`));

function unmount(folders) {
  const mounts = readFileSync('/proc/mounts', 'utf8')
    .split('\n')
    .map((line) => line.split(' ')[1]?.replace(/\\(\d{3})/g, (_, code) => String.fromCharCode(parseInt(code, 8))))
    .filter((path) => path && below(path, folders));
  // What was mounted last lies uppermost.
  for (const path of mounts.reverse()) run('umount', ['--lazy', path]);
  for (const line of run('losetup', ['--list', '--noheadings', '--output', 'NAME,BACK-FILE']).stdout.split('\n')) {
    const [, device, file] = /^(\S+)\s+(.*)$/.exec(line.trim()) ?? [];
    if (device && below(file, folders)) run('losetup', ['--detach', device]);
  }
}

/** Networks that a run made: their names begin with `tly` and its number (tests/support/own-network). */
function removeNetworks(id) {
  const mine = new RegExp(`^tly${id}[a-z]`);
  for (const line of run('ip', ['netns', 'list']).stdout.split('\n')) {
    const name = line.split(' ')[0];
    if (mine.test(name)) run('ip', ['netns', 'delete', name]);
  }
  for (const line of run('ip', ['-oneline', 'link']).stdout.split('\n')) {
    const name = /^\d+: ([^:@]+)/.exec(line)?.[1] ?? '';
    if (mine.test(name)) run('ip', ['link', 'delete', name]);
  }
}

/**
 * Ends everything of a run and removes its folders. Whoever may not mount has nothing to unmount.
 * @param folders all that it wrote into, given as absolute paths
 * @param root of the project
 */
export async function removeAll(id, folders, root) {
  kill(processesOf(id), 'SIGTERM');
  for (let tries = 0; tries < 30 && processesOf(id).length; tries++) await new Promise((resolve) => setTimeout(resolve, 100));
  // One that is killed may have begun another just before.
  for (let tries = 0; tries < 20 && processesOf(id).length; tries++) {
    kill(processesOf(id), 'SIGKILL');
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  kill(orphansOf(root), 'SIGKILL');
  if (process.getuid() === 0) {
    unmount(folders);
    removeNetworks(id);
  }
  for (const folder of folders) rmSync(folder, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 });
}
