import { captureTime } from '@tally/core/capture';
import { extensionOf } from '@tally/core/card';
import type { ClipSays } from '@tally/core/footage';
import { constants } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import { readEnds, type Ends } from '../drive/hashing.js';
import { codeOf } from '../drive/list-card.js';
import { HEAD_BYTES, readJpegHead } from './jpeg-head.js';
import { probeClip } from './probe.js';
import { cleanText, NOTHING_READ, type FileToRead, type Metadata, type MetadataReader } from './metadata.js';
import { ThoroughReader } from './thorough.js';

/**
 * Reads metadata: plain JPEGs in this process from their first bytes, everything else, and all that looks odd, by exiftool.
 * Never throws for a file: what is wrong with it becomes its remark.
 */
export class CardReader implements MetadataReader {
  private readonly withoutSerial = new Set<string>();

  constructor(
    readonly thorough: ThoroughReader,
    private readonly houseZone: string,
  ) {}

  async read(file: FileToRead): Promise<Metadata & { readonly quickHash: Buffer | null }> {
    let handle: FileHandle;
    try {
      handle = await open(file.path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK);
    } catch (error) {
      return this.unreadable(file, error);
    }
    try {
      const ends = await readEnds(handle, file.bytes, HEAD_BYTES);
      return { ...(await this.metadata(file, ends)), quickHash: ends.quickHash };
    } catch (error) {
      return this.unreadable(file, error);
    } finally {
      await handle.close();
    }
  }

  close(): Promise<void> {
    return this.thorough.close();
  }

  private async metadata(file: FileToRead, ends: Ends): Promise<Metadata> {
    const byFileTime = { ...NOTHING_READ, captured: captureTime({ exifDates: [], fileTime: file.modifiedAt }, this.houseZone) };
    if (file.bytes === 0) return { ...byFileTime, remark: 'an empty file (0 bytes)' };
    if (file.kind === 'sidecar' || file.kind === 'other') return { ...byFileTime, remark: null };

    const plain = await readJpegHead(ends.head, file.modifiedAt, this.houseZone);
    const remark = lookAtEnd(ends) ?? (plain && wrongName(file, 'JPEG'));
    if (plain) {
      const body = `${plain.make} ${plain.model}`;
      const { hasMakerNote, ...metadata } = plain;
      // Many cameras keep the serial number in their own notes, which only the thorough reader knows. Ask once a model.
      if (metadata.serial || !hasMakerNote || this.withoutSerial.has(body)) return { ...metadata, remark };
      try {
        const { serial } = await this.thorough.read(file.path, file.modifiedAt, this.houseZone);
        if (serial === null) this.withoutSerial.add(body);
        return { ...metadata, serial, remark };
      } catch {
        // One file that cannot be read says nothing about the model: the next one is asked again.
        return { ...metadata, remark };
      }
    }
    try {
      const { fileType, ...metadata } = await this.thorough.read(file.path, file.modifiedAt, this.houseZone);
      const clip = file.kind === 'video' || file.kind === 'sound' ? bothSay(metadata.clip, await probeClip(file.path)) : null;
      return { ...metadata, clip, remark: remark ?? wrongName(file, fileType) ?? metadata.remark };
    } catch (error) {
      return {
        ...byFileTime,
        remark:
          remark ?? `no metadata could be read (${cleanText((error as Error).message)?.slice(0, 120) ?? 'no reason given'})`,
      };
    }
  }

  private unreadable(file: FileToRead, error: unknown): Metadata & { quickHash: null } {
    const captured = captureTime({ exifDates: [], fileTime: file.modifiedAt }, this.houseZone);
    return { ...NOTHING_READ, captured, remark: `cannot be read (${codeOf(error)})`, quickHash: null };
  }
}

/** What the tags say, and the container where they say nothing. */
function bothSay(tags: ClipSays | null, container: ClipSays | null): ClipSays | null {
  if (!tags || !container) return tags ?? container;
  const said = Object.fromEntries(Object.entries(tags).filter(([, value]) => value !== null));
  return { ...container, ...said };
}

/** A JPEG ends with an EOI marker (ITU-T T.81, B.1.1.3), though some writers add data behind it. */
function lookAtEnd({ head, tail }: Ends): string | null {
  if (head.length < 2 || head.readUInt16BE(0) !== 0xffd8) return null;
  const end = tail.length ? tail : head;
  return end.lastIndexOf(Buffer.from([0xff, 0xd9])) >= 0 ? null : 'cut off: the picture has no end';
}

/** Only pictures named as JPEG that are something else, or the other way round: other families share containers. */
function wrongName(file: FileToRead, fileType: string | null): string | null {
  const ext = extensionOf(file.path.toString('utf8'));
  if (fileType === null) return null;
  const claimsJpeg = ['jpg', 'jpeg', 'jpe', 'thm', 'mpo'].includes(ext);
  const isJpeg = fileType === 'JPEG' || fileType === 'MPO';
  if (claimsJpeg && !isJpeg) return `named .${ext} but is ${fileType}`;
  if (isJpeg && !claimsJpeg && file.kind !== 'raw') return `named .${ext} but is JPEG`;
  return null;
}
