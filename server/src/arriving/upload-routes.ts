import { UploadAnnouncement } from '@tally/contract';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import type { RequestHandler } from 'express';
import { randomBytes } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import { join } from 'node:path';
import { fileArrived, openPartsFolder, theirHandIn, wantedFile } from './hand-in.js';
import { personOf } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import { type House, Refusal } from '../house/index.js';

const PATH = '/api/uploads';
/** An upload that nobody goes on with is forgotten. */
const KEPT_MS = 3 * 24 * 3_600_000;
const FORGET_MS = 3_600_000;
/** Of tus's checksum extension: the bytes are not what was announced. */
const CHECKSUM_MISMATCH = 460;

/** What the protocol's server answers with: it looks for these two fields. */
class Refused extends Error {
  constructor(
    readonly status_code: number,
    readonly body: string,
  ) {
    super(body);
  }
}

/**
 * Uploads by the tus protocol, version 1.0.0 (https://tus.io/protocols/resumable-upload: core, creation, expiration,
 * termination). Each upload is one file of somebody's hand-in; it counts once its bytes are proven.
 */
export function uploads(house: House): RequestHandler {
  const directory = openPartsFolder(house.settings.dataDir);
  const store = new FileStore({ directory, expirationPeriodInMilliseconds: KEPT_MS });
  // Who asks is known to the route before the protocol's own handler runs.
  const asking = new WeakMap<IncomingMessage, number>();

  const server = new Server({
    path: PATH,
    datastore: store,
    relativeLocation: true,
    namingFunction: (_request, metadata) => {
      const { handIn, position } = UploadAnnouncement.parse(metadata);
      return `${handIn}-${position}-${randomBytes(12).toString('hex')}`;
    },
    onUploadCreate: async (request, upload) => {
      const announced = UploadAnnouncement.safeParse(upload.metadata);
      const node = request.runtime?.node?.req as IncomingMessage | undefined;
      const personId = node ? asking.get(node) : undefined;
      if (!announced.success || personId === undefined) throw new Refused(400, 'handIn, position and xxh128 must be announced');
      const { handIn, position } = announced.data;
      const file = await wantedFile(house, handIn, position, personId).catch(asRefusal);
      if (upload.size !== file.bytes)
        throw new Refused(413, `${file.path} has ${file.bytes} bytes, not ${upload.size ?? 'an unknown number'}`);
      return {};
    },
    onUploadFinish: async (_request, upload: Upload) => {
      const { handIn, position, xxh128 } = UploadAnnouncement.parse(upload.metadata);
      const same = await fileArrived(house, handIn, position, join(directory, upload.id), xxh128);
      await store.configstore.delete(upload.id);
      if (!same) throw new Refused(CHECKSUM_MISMATCH, 'the bytes that arrived are not those that were announced');
      return {};
    },
  });

  const forget = () => void server.cleanUpExpiredUploads().catch(() => undefined);
  setInterval(forget, FORGET_MS).unref();

  return async (request, response) => {
    const personId = personOf(response).id;
    asking.set(request, personId);
    const id = /\/uploads\/(\d+)-\d+-[0-9a-f]+$/.exec(request.originalUrl.split('?')[0]!)?.[1];
    if (id !== undefined) await theirHandIn(house, Number(id), personId);
    else if (request.method !== 'POST' && request.method !== 'OPTIONS') {
      sendProblem(response, 404, 'There is no such upload');
      return;
    }
    request.url = request.originalUrl;
    await server.handle(request, response);
  };
}

function asRefusal(error: unknown): never {
  if (error instanceof Refusal) throw new Refused(error.kind === 'not found' ? 404 : 409, error.message);
  throw error;
}
