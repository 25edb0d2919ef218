import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { applyTo, type Edit, reach } from '@tally/core/fields';

/** The bytes of a file without what was put into it, from its start. @throws the system's error; RangeError when it is shorter. */
export async function* withoutInside(path: string, undo: Edit): AsyncGenerator<Uint8Array> {
  const end = reach(undo);
  const head = Buffer.alloc(end);
  const handle = await open(path, 'r');
  try {
    const { bytesRead } = await handle.read(head, 0, end, 0);
    if (bytesRead < end) throw new RangeError('the file is shorter than what was put into it');
  } finally {
    await handle.close();
  }
  yield applyTo(head, undo);
  yield* createReadStream(path, { start: end }) as AsyncIterable<Uint8Array>;
}
