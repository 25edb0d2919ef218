import { Id, UploadAnnouncement } from '@tally/contract';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import type { RequestHandler } from 'express';
import { randomBytes } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import { join } from 'node:path';
import { fileArrived, forgetParts, openParts, openPartsFolder, theirHandIn, wantedFile } from './hand-in.js';
import { personOf } from '../http/guard.js';
import { sendProblem } from '../http/problem.js';
import { type House, Refusal } from '../house/index.js';

const PATH = '/api/uploads';
/** What an address here may look like: the collection, or one upload, whose name begins with its hand-in. No query. */
const OF_UPLOAD = /^\/api\/uploads(\/?|\/(\d{1,10})-\d{1,10}-[0-9a-f]{24})$/;
/** So many uploads of a hand-in may be open at once: each may grow to its file's size. */
const OPEN_UPLOADS = 16;
const OF_ONE_FILE = 2;
/** An upload that nobody goes on with is forgotten. */
const KEPT_MS = 3 * 24 * 3_600_000;
const FORGET_MS = 3_600_000;
/** Of tus's checksum extension: the bytes are not what was announced. */
const CHECKSUM_MISMATCH = 460;

const NOT_ANNOUNCED = 'handIn, position and xxh128 must be announced';

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
      const announced = UploadAnnouncement.safeParse(metadata);
      if (!announced.success) throw new Refused(400, NOT_ANNOUNCED);
      const { handIn, position } = announced.data;
      return `${handIn}-${position}-${randomBytes(12).toString('hex')}`;
    },
    onUploadCreate: async (request, upload) => {
      const announced = UploadAnnouncement.safeParse(upload.metadata);
      const node = request.runtime?.node?.req as IncomingMessage | undefined;
      const personId = node ? asking.get(node) : undefined;
      if (!announced.success || personId === undefined) throw new Refused(400, NOT_ANNOUNCED);
      const { handIn, position } = announced.data;
      const file = await wantedFile(house, handIn, position, personId).catch(asRefusal);
      if (upload.size !== file.bytes)
        throw new Refused(413, `${file.path} has ${file.bytes} bytes, not ${upload.size ?? 'an unknown number'}`);
      await keepFew(house.settings.dataDir, handIn, position);
      return {};
    },
    onUploadFinish: async (_request, upload: Upload) => {
      const { handIn, position, xxh128 } = UploadAnnouncement.parse(upload.metadata);
      const same = await fileArrived(house, handIn, position, join(directory, upload.id), xxh128);
      await store.configstore.delete(upload.id);
      if (same) await forgetParts(house.settings.dataDir, handIn, position);
      if (!same) throw new Refused(CHECKSUM_MISMATCH, 'the bytes that arrived are not those that were announced');
      return {};
    },
  });

  const forget = () => void server.cleanUpExpiredUploads().catch(() => undefined);
  setInterval(forget, FORGET_MS).unref();

  return async (request, response) => {
    const personId = personOf(response).id;
    asking.set(request, personId);
    const [, upload, handIn] = OF_UPLOAD.exec(request.originalUrl) ?? [];
    if (upload === undefined) {
      sendProblem(response, 404, 'There is no such upload');
      return;
    }
    if (handIn === undefined && request.method !== 'POST' && request.method !== 'OPTIONS') {
      sendProblem(response, 404, 'There is no such upload');
      return;
    }
    if (handIn !== undefined) await theirHandIn(house, Id.parse(handIn), personId);
    // The protocol's server reads the upload from the address: it gets what was looked at, and nothing beside it.
    request.url = `${PATH}${upload}`;
    await server.handle(request, response);
  };
}

/** An upload that was begun anew twice takes the place of those before it; more than a browser needs at once are refused. */
async function keepFew(dataDir: string, handIn: number, position: number): Promise<void> {
  if ((await openParts(dataDir, `${handIn}-${position}-`)) >= OF_ONE_FILE) await forgetParts(dataDir, handIn, position);
  if ((await openParts(dataDir, `${handIn}-`)) >= OPEN_UPLOADS)
    throw new Refused(429, `${OPEN_UPLOADS} files of this hand-in are being sent already`);
}

function asRefusal(error: unknown): never {
  if (error instanceof Refusal) throw new Refused(error.kind === 'not found' ? 404 : 409, error.message);
  throw error;
}
