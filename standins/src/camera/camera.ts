import sharp from 'sharp';
import { writeTiff, type Ifd, type Value } from './tiff.js';

/** A made-up camera body. */
export interface Body {
  readonly make: string;
  readonly model: string;
  readonly serial: string;
}

export interface Exposure {
  /** Wall clock, `yyyy-MM-ddTHH:mm:ss`. */
  readonly at: string;
  /** `+01:00`, or null for a camera that knows no zone. */
  readonly offset: string | null;
  readonly seconds: number;
  readonly fNumber: number;
  readonly iso: number;
  readonly focalLength: number;
}

const exifDate = (at: string) => ({ ascii: at.replace('T', ' ').replaceAll('-', ':') });

/** EXIF tags by number (CIPA DC-008-2023, sections 4.6.4 and 4.6.6). */
function cameraTags(body: Body, exposure: Exposure, width: number, height: number): Record<number, Value> {
  const exif: Record<number, Value> = {
    0x829a: { rational: [exposure.seconds < 1 ? [1, Math.round(1 / exposure.seconds)] : [Math.round(exposure.seconds), 1]] },
    0x829d: { rational: [[Math.round(exposure.fNumber * 10), 10]] },
    0x8827: { short: [exposure.iso] },
    0x9000: { undefined: Buffer.from('0232') },
    0x9003: exifDate(exposure.at),
    0x9004: exifDate(exposure.at),
    0x920a: { rational: [[exposure.focalLength, 1]] },
    0xa002: { long: [width] },
    0xa003: { long: [height] },
    0xa431: { ascii: body.serial },
  };
  if (exposure.offset) {
    exif[0x9010] = { ascii: exposure.offset };
    exif[0x9011] = { ascii: exposure.offset };
  }
  return {
    0x010f: { ascii: body.make },
    0x0110: { ascii: body.model },
    0x0112: { short: [1] },
    0x0132: exifDate(exposure.at),
    0x8769: { ifds: [{ entries: exif }] },
  };
}

/** Puts a camera's EXIF, with a small embedded picture, into a plain JPEG. */
export function withExif(
  jpeg: Buffer,
  thumbnail: Buffer,
  body: Body,
  exposure: Exposure,
  size: { width: number; height: number },
): Buffer {
  const small: Ifd = { entries: { 0x0103: { short: [6] }, 0x0201: { blob: thumbnail }, 0x0202: { long: [thumbnail.length] } } };
  const tiff = writeTiff({ entries: cameraTags(body, exposure, size.width, size.height), next: small });
  const segment = Buffer.concat([Buffer.from('Exif\0\0', 'latin1'), tiff]);
  const head = Buffer.from([0xff, 0xd8, 0xff, 0xe1, 0, 0]);
  head.writeUInt16BE(segment.length + 2, 4);
  return Buffer.concat([head, segment, jpeg.subarray(2)]);
}

export function thumbnailOf(jpeg: Buffer): Promise<Buffer> {
  return sharp(jpeg).resize(240, 240, { fit: 'inside' }).jpeg({ quality: 70 }).toBuffer();
}

/**
 * A raw file as an open standard has it (Adobe DNG 1.4): camera data in the first directory, a mosaic of sensor values and
 * the camera's own JPEG in sub-directories. Tag numbers from memory, confirmed by reading the result with exiftool.
 */
export async function rawFile(jpeg: Buffer, body: Body, exposure: Exposure): Promise<Buffer> {
  const { data, info } = await sharp(jpeg)
    .resize(900, 900, { fit: 'inside' })
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const mosaic = Buffer.alloc(data.length * 2);
  for (let i = 0; i < data.length; i++) mosaic.writeUInt16LE((data[i]! << 6) | ((i * 2_654_435_761) & 63), i * 2);
  const { width, height } = await sharp(jpeg).metadata();
  const sensor: Ifd = {
    entries: {
      0x00fe: { long: [0] },
      0x0100: { long: [info.width] },
      0x0101: { long: [info.height] },
      0x0102: { short: [16] },
      0x0103: { short: [1] },
      0x0106: { short: [32_803] },
      0x0111: { blob: mosaic },
      0x0115: { short: [1] },
      0x0117: { long: [mosaic.length] },
      0x828d: { short: [2, 2] },
      0x828e: { byte: [0, 1, 1, 2] },
    },
  };
  const picture: Ifd = {
    entries: {
      0x00fe: { long: [1] },
      0x0100: { long: [width] },
      0x0101: { long: [height] },
      0x0103: { short: [7] },
      0x0106: { short: [6] },
      0x0111: { blob: jpeg },
      0x0117: { long: [jpeg.length] },
    },
  };
  const entries: Record<number, Value> = {
    ...cameraTags(body, exposure, width, height),
    0x00fe: { long: [1] },
    0x014a: { ifds: [sensor, picture] },
    0xc612: { byte: [1, 4, 0, 0] },
    0xc614: { ascii: `${body.make} ${body.model}` },
    0xc62f: { ascii: body.serial },
  };
  return writeTiff({ entries });
}
