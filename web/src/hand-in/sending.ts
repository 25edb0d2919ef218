import * as tus from 'tus-js-client';

/** What the sending of one file tells. */
export interface Told {
  sent(bytes: number): void;
  waiting(why: string): void;
}

/** Waits between tries after a lost connection; the last one is repeated for as long as the page is open. */
const RETRY_MS = [0, 500, 1000, 2000, 4000, ...Array.from({ length: 500 }, () => 8000)];
const CHECKSUM_MISMATCH = 460;

const CONFLICT = 409;

/** It arrived whole and only the answer was lost: begun anew, it is told that nobody waits for it any more. */
const isThereAlready = (error: Error): boolean =>
  error instanceof tus.DetailedError &&
  error.originalRequest.getMethod() === 'POST' &&
  error.originalResponse?.getStatus() === CONFLICT;

/** The bytes that arrived were not those that were read: the file is read and sent again. */
export class Mismatch extends Error {}

/** Whoever sends may not any more: the link was ended, or its time is over. */
export class Ended extends Error {}

/**
 * Sends one file by the tus protocol; goes on where an earlier try stopped, also one before a reload.
 * @throws Mismatch; Ended; AbortError when told to stop; Error in words for the person.
 */
export async function sendFile(
  file: File,
  announced: { handIn: number; position: number; hash: string },
  told: Told,
  signal: AbortSignal,
): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    const one: tus.Upload = new tus.Upload(file, {
      endpoint: '/api/uploads',
      chunkSize: 8 << 20,
      retryDelays: RETRY_MS,
      metadata: { handIn: String(announced.handIn), position: String(announced.position), xxh128: announced.hash },
      fingerprint: () => Promise.resolve(`tally-${announced.handIn}-${announced.position}-${announced.hash}`),
      removeFingerprintOnSuccess: true,
      onProgress: (bytes) => told.sent(bytes),
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        const again = status === 0 || status === 423 || status >= 500;
        if (again) told.waiting('The connection was lost. It goes on by itself when it is back.');
        return again;
      },
      onSuccess: () => resolve(),
      onError: (error) => {
        const status = error instanceof tus.DetailedError ? error.originalResponse?.getStatus() : undefined;
        const words = error instanceof tus.DetailedError ? error.originalResponse?.getBody() : undefined;
        if (status === CHECKSUM_MISMATCH) reject(new Mismatch());
        else if (isThereAlready(error)) resolve();
        else if (status === 401)
          reject(new Ended('This hand-in link has ended. What has arrived is safe; ask for a new link for the rest.'));
        else reject(new Error(words ?? 'The server refused this file.'));
      },
    });
    signal.addEventListener('abort', () => {
      void one.abort();
      reject(new DOMException('paused', 'AbortError'));
    });
    void one.findPreviousUploads().then((before) => {
      if (before[0]) one.resumeFromPreviousUpload(before[0]);
      if (!signal.aborted) one.start();
    });
  });
  told.sent(file.size);
}
