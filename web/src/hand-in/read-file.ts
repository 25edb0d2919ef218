import { captureTime } from '@tally/core/capture';
import { kindOf } from '@tally/core/card';
import { fastIdentityParts } from '@tally/core/copies';
import exifr from 'exifr';
import { createXXHash128, type IHasher } from 'hash-wasm';
import type { Answer, Ask } from './messages';

const CHUNK = 4 << 20;
const HEAD = 128 << 10;
const THUMBNAIL_PX = 240;

/** Does what a worker is asked to. Never throws: what cannot be read is an answer. */
export async function answer(ask: Ask): Promise<Answer> {
  try {
    if (ask.kind === 'hash') return { kind: 'hash', id: ask.id, hash: await hashOf(ask.file) };
    const head = new Uint8Array(await ask.file.slice(0, HEAD).arrayBuffer());
    return {
      kind: 'read',
      id: ask.id,
      quickHash: await quickHashOf(ask.file),
      captured: await capturedOf(ask.file, head, ask.zone),
      thumbnail: await thumbnailOf(ask.file, head),
    };
  } catch (error) {
    return { kind: 'failed', id: ask.id, why: (error as Error).message };
  }
}

let hasher: Promise<IHasher> | null = null;
const freshHasher = async () => (await (hasher ??= createXXHash128())).init();

/** XXH128 of a whole file, four megabytes at a time. */
export async function hashOf(file: Blob): Promise<string> {
  const hash = await freshHasher();
  for (let at = 0; at < file.size; at += CHUNK) hash.update(new Uint8Array(await file.slice(at, at + CHUNK).arrayBuffer()));
  return hash.digest('hex');
}

/** The fast identity, as the server computes it. */
export async function quickHashOf(file: Blob): Promise<string> {
  const parts = await Promise.all(fastIdentityParts(file.size).map(([from, to]) => file.slice(from, to).arrayBuffer()));
  const hash = await freshHasher();
  for (const part of parts) hash.update(new Uint8Array(part));
  return hash.digest('hex');
}

/** Capture time for the order of the pictures on this page; the server reads it again, more thoroughly. */
async function capturedOf(file: File, head: Uint8Array, zone: string): Promise<string> {
  const tags = (await exifr
    .parse(head, { pick: ['DateTimeOriginal', 'CreateDate', 'OffsetTimeOriginal', 'SubSecTimeOriginal'], reviveValues: false })
    .catch(() => undefined)) as Record<string, unknown> | undefined;
  const text = (name: string) => (typeof tags?.[name] === 'string' ? tags[name] : '');
  const dates = [text('DateTimeOriginal'), text('CreateDate')].filter(Boolean);
  const exifDates = dates.map((date) => ({
    text: date,
    offset: text('OffsetTimeOriginal'),
    subSeconds: text('SubSecTimeOriginal'),
  }));
  return captureTime({ exifDates, fileTime: new Date(file.lastModified) }, zone).local;
}

/** The embedded picture, else one made here, else none. */
async function thumbnailOf(file: File, head: Uint8Array): Promise<Blob | null> {
  const kind = kindOf(file.name);
  if (kind !== 'photo' && kind !== 'raw') return null;
  const embedded = await exifr.thumbnail(head).catch(() => undefined);
  if (embedded) return new Blob([new Uint8Array(embedded)], { type: 'image/jpeg' });
  if (kind === 'raw' || typeof createImageBitmap !== 'function') return null;
  try {
    const bitmap = await createImageBitmap(file, { resizeWidth: THUMBNAIL_PX, resizeQuality: 'medium' });
    const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
    canvas.getContext('2d')!.drawImage(bitmap, 0, 0);
    bitmap.close();
    return await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.7 });
  } catch {
    return null;
  }
}
