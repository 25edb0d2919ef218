import { expect, it } from '@jest/globals';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { until } from '../../server/src/testing/house.js';

/* What a server started to read with ends with it, also when it is killed alone, as a system that is short of memory does. */

const READER = new URL('../../server/dist/media/thorough.js', import.meta.url).href;
const PICTURE = fileURLToPath(new URL('../fixtures/camera/goexif', import.meta.url));

it('exiftool does not outlive a process that is killed', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'tally-helpers-'));
  const script = `
    const { ThoroughReader } = await import(${JSON.stringify(READER)});
    const { readdirSync, readFileSync } = await import('node:fs');
    const picture = readdirSync(${JSON.stringify(PICTURE)}).find((name) => name.endsWith('.jpg'));
    await new ThoroughReader(${JSON.stringify(folder)}).read(Buffer.from(${JSON.stringify(`${PICTURE}/`)} + picture), new Date(0), 'UTC');
    const [note] = readdirSync(${JSON.stringify(folder)});
    console.log(readFileSync(${JSON.stringify(`${folder}/`)} + note, 'utf8'));
    setInterval(() => undefined, 1000);`;
  const child = spawn(process.execPath, ['--input-type=module', '-e', script], { stdio: ['ignore', 'pipe', 'inherit'] });
  try {
    const [told] = (await once(child.stdout, 'data')) as [Buffer];
    const pids = told.toString().trim().split(' ');
    expect(pids.length).toBeGreaterThan(0);
    for (const pid of pids) expect(existsSync(`/proc/${pid}`)).toBe(true);
    child.kill('SIGKILL');
    await until(() => Promise.resolve(pids.every((pid) => !existsSync(`/proc/${pid}`))), 20);
  } finally {
    child.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  }
});
