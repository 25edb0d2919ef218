// From a fresh machine to a built project: Node, Debian packages, npm packages, build. Each only when needed.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { hashOf, keepKnown, takeKnown } from './known.mjs';
import { has, laneOf, run, runSoon } from './run.mjs';
import { giveUp, step } from './say.mjs';

export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..', '..');

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) giveUp(`Tally Stick needs Node.js 20.19 or newer; this is ${process.version}.`);
}

/** What each package is for, and how to tell that it is there. */
const DEBIAN = {
  postgresql: { why: 'the database', there: () => postgresBin() !== null },
  ffmpeg: { why: 'posters of clips, waves of sounds', there: () => has('ffmpeg') },
  'libheif-examples': { why: 'pictures of phones (HEIC)', there: () => has('heif-convert') },
  perl: {
    why: 'reading metadata of raw, video and sound files',
    there: () => has('perl') && run('perl', ['-MTime::HiRes', '-e1']).code === 0,
  },
  'chromium-headless-shell': { why: 'browser tests', there: () => has('chromium-headless-shell'), only: 'test' },
  'libvips-tools': { why: 'measuring previews against a second tool', there: () => has('vipsthumbnail'), only: 'test' },
  'libimage-exiftool-perl': { why: 'checking capture times against a second reader', there: () => has('exiftool'), only: 'test' },
  exiv2: { why: 'reading credit in files with a second reader', there: () => has('exiv2'), only: 'test' },
  exempi: { why: 'the same with a third, for XMP', there: () => has('exempi'), only: 'test' },
  'libjpeg-turbo-progs': { why: 'comparing pictures pixel by pixel', there: () => has('djpeg') && has('cjpeg'), only: 'test' },
  xxhash: { why: 'checking hashes against a second tool', there: () => has('xxhsum'), only: 'test' },
  rsync: { why: 'comparing trees with a second tool', there: () => has('rsync'), only: 'test' },
  'poppler-utils': { why: 'reading printed receipts and labels', there: () => has('pdftotext') && has('pdftoppm'), only: 'test' },
  'zbar-tools': { why: 'reading codes as a scanner does', there: () => has('zbarimg'), only: 'test' },
  'libarchive-tools': { why: 'reading zips with a second reader', there: () => has('bsdtar'), only: 'test' },
  unzip: { why: 'the same', there: () => has('unzip'), only: 'test' },
  'raptor2-utils': { why: 'checking word lists against a second reader', there: () => has('rapper'), only: 'test' },
  age: { why: 'opening sealed backups with a second program', there: () => has('age'), only: 'test' },
  exfatprogs: { why: 'cards as cameras format them', there: () => has('mkfs.exfat'), only: 'test' },
  'exfat-fuse': { why: 'the same, mounted', there: () => has('mount.exfat-fuse'), only: 'test' },
  'ntfs-3g': { why: 'drives as Windows formats them', there: () => has('ntfs-3g') && has('mkntfs'), only: 'test' },
  sshfs: { why: 'drives over a network', there: () => has('sshfs'), only: 'test' },
  'openssh-sftp-server': { why: 'their servers', there: () => existsSync('/usr/lib/openssh/sftp-server'), only: 'test' },
  xfsprogs: { why: 'drives of servers', there: () => has('mkfs.xfs'), only: 'test' },
  iproute2: { why: 'stations in networks of their own', there: () => has('ip'), only: 'test' },
  procps: { why: 'finding left-over processes', there: () => has('pgrep') },
};

/** Installs what is missing, both kinds at once: neither needs the other. `purpose` is 'run' or 'test'. */
export async function packages(purpose) {
  await Promise.all([debianPackages(purpose), npmPackages()]);
}

async function debianPackages(purpose) {
  const missing = Object.entries(DEBIAN).filter(([, p]) => (!p.only || p.only === purpose) && !p.there());
  if (!missing.length) return;
  const names = missing.map(([name]) => name);
  for (const [name, { why }] of missing) step(`missing Debian package: ${name} (${why})`);
  const command = `apt-get install -y --no-install-recommends ${names.join(' ')}`;
  if (!has('apt-get')) giveUp(`These are needed: ${names.join(', ')}. This is not a Debian system; please install them its way.`);
  const root = process.getuid() === 0;
  if (!root && !has('sudo')) giveUp(`These packages need an administrator. Please run as root:\n  apt-get update && ${command}`);
  step(`installing ${names.join(', ')}`);
  const sudo = root ? [] : ['sudo'];
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  const lane = laneOf(1);
  const runAs = (args) => runSoon([...sudo, ...args][0], [...sudo, ...args].slice(1), { env, lane });
  await runAs(['apt-get', 'update']);
  const done = await runAs(['apt-get', 'install', '-y', '--no-install-recommends', ...names]);
  const still = missing.filter(([, p]) => !p.there()).map(([name]) => name);
  if (done.code !== 0 || still.length) {
    giveUp(
      `Installing did not work for: ${still.join(', ') || names.join(', ')}.\n${done.out.split('\n').slice(-12).join('\n')}\nPlease try:  ${command}`,
    );
  }
}

/** Folder of PostgreSQL's programs, newest version first; null when it is not installed. */
export function postgresBin() {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base) ? readdirSync(base).sort((a, b) => Number(b) - Number(a)) : [];
  for (const version of versions) if (existsSync(join(base, version, 'bin', 'initdb'))) return join(base, version, 'bin');
  return null;
}

/** Installs npm packages when the lock file changed since the last time. */
export async function npmPackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  const stamp = join(ROOT, 'node_modules', '.tally-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  step('installing npm packages (about two minutes on a new machine)');
  const done = await runSoon('npm', ['ci', '--no-fund', '--no-audit'], { cwd: ROOT, lane: laneOf(1) });
  if (done.code !== 0) giveUp(`npm ci did not work:\n${done.out.split('\n').slice(-25).join('\n')}`);
  writeFileSync(stamp, lock);
}

/** TypeScript packages in the order in which they need each other. */
const PACKAGES = ['core', 'contract', 'server', 'standins'];

/** Builds what changed: TypeScript packages, then the interface. What was built for tests is the same JavaScript: it stays. */
export function build({ server = true, web = true } = {}) {
  if (server && !isBuilt('server-unchecked', PACKAGES))
    buildPart('server', PACKAGES, () => run(join(ROOT, 'node_modules/.bin/tsc'), ['-b'], { cwd: ROOT }));
  if (!web) return;
  buildPart('web', ['core', 'contract', 'web'], () => {
    const hash = hashOf(ROOT, ['core', 'contract', 'web', 'package-lock.json', 'tsconfig.base.json']);
    const output = join(ROOT, 'web/dist');
    if (takeKnown('interface', hash, output)) return { code: 0 };
    const done = run(join(ROOT, 'node_modules/.bin/ng'), ['build'], {
      cwd: join(ROOT, 'web'),
      env: { NG_CLI_ANALYTICS: 'false' },
    });
    if (done.code === 0) keepKnown('interface', hash, output);
    return done;
  });
}

/** The server alone, quickly: somebody else checks its types. Nothing when it is built already, in either way. */
export async function buildUnchecked() {
  if (isBuilt('server', PACKAGES) || isBuilt('server-unchecked', PACKAGES)) return;
  step('building the server');
  // Needs a package: it is there by now.
  const { transpile } = await import('./transpile.mjs');
  rmSync(stampOf('server'), { force: true });
  for (const name of PACKAGES) transpile(ROOT, name);
  writeFileSync(stampOf('server-unchecked'), sourceHash(PACKAGES));
}

const stampOf = (name) => join(ROOT, 'node_modules', `.tally-built-${name}`);
const isBuilt = (name, folders) => existsSync(stampOf(name)) && readFileSync(stampOf(name), 'utf8') === sourceHash(folders);

function buildPart(name, folders, how) {
  const hash = sourceHash(folders);
  const stamp = stampOf(name);
  const output = join(ROOT, name === 'web' ? 'web/dist' : 'server/dist');
  if (existsSync(output) && existsSync(stamp) && readFileSync(stamp, 'utf8') === hash) return;
  step(`building ${name === 'web' ? 'the interface (about a minute)' : 'the server'}`);
  const done = how();
  if (done.code !== 0) giveUp(`The build of ${name} did not work:\n${done.out.split('\n').slice(-40).join('\n')}`);
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, hash);
  if (name === 'server') rmSync(stampOf('server-unchecked'), { force: true });
}

function sourceHash(folders) {
  const hash = createHash('sha256');
  const add = (path) => hash.update(path).update(readFileSync(join(ROOT, path)));
  const walk = (folder) => {
    for (const entry of readdirSync(join(ROOT, folder), { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      if (['node_modules', 'dist', '.angular', 'testing'].includes(entry.name)) continue;
      // Nobody builds tests.
      if (/\.(spec\.ts|tsbuildinfo)$/.test(entry.name)) continue;
      const path = `${folder}/${entry.name}`;
      if (entry.isDirectory()) walk(path);
      else if (entry.isFile()) add(path);
    }
  };
  for (const file of ['package-lock.json', 'tsconfig.base.json', 'tsconfig.json']) add(file);
  for (const folder of folders) walk(folder);
  return hash.digest('hex');
}
