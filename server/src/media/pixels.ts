import { differenceHash, HASH_HEIGHT, HASH_WIDTH, sharpness } from '@tally/core/looks';
import sharp, { type Sharp } from 'sharp';

/*
 * What is done with the pixels of pictures. Runs in processes of its own (decoder-process): whoever wrote these files may
 * have meant harm.
 */

/** All focus measures of a house are taken at this long side, so that they can be compared. */
const MEASURED_PX = 960;
const JPEG = { quality: 80 } as const;

/** What a preview showed. */
export interface Look {
  readonly sharpness: number;
  readonly look: string;
}

/** Where a picture's bytes are: in a file, or here. */
export type Picture = string | Uint8Array;

/** How it is turned: by its own word; by that, else by an EXIF orientation found elsewhere; or by that one alone. */
export type Turn = 'own' | { readonly own: boolean; readonly else: number };

/** The ones that browsers and cameras use; no text that is drawn, no document, nothing that loads something else. */
const LOADERS = ['Jpeg', 'Png', 'Webp', 'Nsgif', 'Tiff', 'Heif'].map((name) => `VipsForeignLoad${name}`);

/** Lets this process decode pictures of the formats that cameras write, and nothing else. */
export function onlyPictures(): void {
  sharp.block({ operation: ['VipsForeignLoad'] });
  sharp.unblock({ operation: LOADERS });
  sharp.cache(false);
}

/** Brightness and colours without any coding. */
interface Pixels {
  readonly data: Buffer;
  readonly info: { readonly width: number; readonly height: number; readonly channels: 1 | 2 | 3 | 4 };
}

/** Turns a picture upright by EXIF orientation (CIPA DC-008, tag 0x0112). */
export function upright(image: Sharp, orientation: number): Sharp {
  // sharp mirrors before it turns.
  const degrees = [0, 0, 0, 180, 180, 270, 90, 90, 270][orientation] ?? 0;
  const mirrored = [2, 4, 5, 7].includes(orientation) ? image.flop() : image;
  return mirrored.rotate(degrees);
}

async function turned(picture: Picture, turn: Turn): Promise<Sharp> {
  const open = () => sharp(picture, { failOn: 'none' });
  if (turn === 'own') return open().rotate();
  const own = turn.own ? (await open().metadata()).orientation : undefined;
  return own && own > 1 ? open().rotate() : upright(open(), turn.else);
}

/** Shrinks to sRGB: sharp converts from an embedded profile before it drops it. Transparent parts become white. */
const within = (image: Sharp, pixels: number): Sharp =>
  image
    .resize({ width: pixels, height: pixels, fit: 'inside', withoutEnlargement: true })
    .flatten({ background: '#fff' })
    .toColourspace('srgb');

/** A JPEG of at most so many pixels on its long side. @throws when it is no picture that can be decoded. */
export async function shrink(picture: Picture, pixels: number, turn: Turn): Promise<Buffer> {
  return within(await turned(picture, turn), pixels)
    .jpeg(JPEG)
    .toBuffer();
}

/** Both sizes from one decoding, and what there is to say about the picture. @throws as `shrink`. */
export async function bothSizes(
  picture: Picture,
  sizes: { readonly closer: number; readonly sheet: number },
  turn: Turn,
  wantLook: boolean,
): Promise<{ closer: Buffer; sheet: Buffer; look: Look | null }> {
  const pixels = await within(await turned(picture, turn), sizes.closer)
    .raw()
    .toBuffer({ resolveWithObject: true });
  const [closer, sheet, look] = await Promise.all([
    fromPixels(pixels).jpeg(JPEG).toBuffer(),
    within(fromPixels(pixels), sizes.sheet).jpeg(JPEG).toBuffer(),
    wantLook ? lookAt(fromPixels(pixels)) : null,
  ]);
  return { closer, sheet, look };
}

const fromPixels = ({ data, info: { width, height, channels } }: Pixels): Sharp =>
  sharp(data, { raw: { width, height, channels } });

/** Small and without colours, for paper. @throws as `shrink`. */
export const grey = (picture: Picture, pixels: number): Promise<Buffer> =>
  sharp(picture).resize(pixels, pixels, { fit: 'inside' }).greyscale().jpeg({ quality: 72 }).toBuffer();

/** The format of a picture by its own header, such as `jpeg`. @throws as `shrink`. */
export const formatOf = async (picture: Picture): Promise<string> => (await sharp(picture).metadata()).format;

/** Focus measure and difference hash of a picture. */
export async function lookAt(picture: Sharp): Promise<Look | null> {
  try {
    const grey = picture.greyscale();
    const measured = grey.clone().resize({ width: MEASURED_PX, height: MEASURED_PX, fit: 'inside', withoutEnlargement: true });
    const { data, info } = await measured.raw().toBuffer({ resolveWithObject: true });
    const tiny = await grey.clone().resize({ width: HASH_WIDTH, height: HASH_HEIGHT, fit: 'fill' }).raw().toBuffer();
    return { sharpness: sharpness({ width: info.width, height: info.height, pixels: data }), look: differenceHash(tiny) };
  } catch {
    return null;
  }
}
