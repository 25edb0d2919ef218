import { mkdtemp, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { extname, join } from 'node:path';
import { isUtf8 } from 'node:buffer';

/**
 * Hands a path to a native tool in a form that it cannot misread. Tools take paths as lines or arguments of text: a name
 * with a newline could smuggle in an option, and one that is not UTF-8 could not be passed at all. Such a file is
 * offered through a link with a plain name in a folder of its own.
 */
export async function withSafePath<T>(path: Buffer, use: (path: string) => Promise<T>): Promise<T> {
  const text = path.toString('utf8');
  // eslint-disable-next-line no-control-regex -- control characters are what is refused
  if (isUtf8(path) && !/[\u0000-\u001f\u007f]/.test(text)) return use(text);
  const folder = await mkdtemp(join(tmpdir(), 'tally-'));
  try {
    const plain = join(folder, `file${/^\.[a-z0-9]{1,8}$/i.exec(extname(text))?.[0] ?? ''}`);
    await symlink(path, plain);
    return await use(plain);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
