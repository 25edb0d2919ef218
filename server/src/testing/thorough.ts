import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ThoroughReader } from '../media/thorough.js';
import { atTheEnd } from './at-the-end.js';

let shared: ThoroughReader | null = null;

/** One exiftool for all houses of a file of tests: a house takes longer to begin its own than most of them are open. */
export function sharedReader(): ThoroughReader {
  if (shared) return shared;
  const made = (shared = new ThoroughReader(join(tmpdir(), `exiftool-of-tests-${process.pid}`)));
  atTheEnd(async () => {
    shared = null;
    await made.close();
  });
  return made;
}
