import type { ServerResponse } from 'node:http';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';

/** Sends a text piece by piece: whoever goes away while it is sent ends it. */
export async function sent(response: ServerResponse, text: AsyncGenerator<string>): Promise<void> {
  // What goes wrong with the first piece is still an answer.
  const first = await text.next();
  const pieces = async function* () {
    if (!first.done) yield first.value;
    yield* text;
  };
  await pipeline(Readable.from(pieces()), response).catch((error: unknown) => {
    if (!response.destroyed) response.destroy(error as Error);
  });
}
