/// <reference lib="webworker" />
import type { Ask } from './messages';
import { answer } from './read-file';

/** One file after the other: they share a hasher, and a card reader dislikes being asked for many things at once. */
let before: Promise<unknown> = Promise.resolve();

addEventListener('message', ({ data }: MessageEvent<Ask>) => {
  before = before.then(async () => postMessage(await answer(data)));
});
