import bwipjs from 'bwip-js/node';

/** A square code (QR, ISO/IEC 18004) as a data address of a PNG. */
export async function squareCode(text: string): Promise<string> {
  const png = await bwipjs.toBuffer({ bcid: 'qrcode', text, scale: 4, paddingwidth: 0 });
  return asAddress(png);
}

/** A bar code (Code 128, ISO/IEC 15417) for a hand scanner, as a data address of a PNG. */
export async function barCode(text: string): Promise<string> {
  const png = await bwipjs.toBuffer({ bcid: 'code128', text, scale: 3, height: 8, includetext: false });
  return asAddress(png);
}

const asAddress = (png: Uint8Array) => `data:image/png;base64,${Buffer.from(png).toString('base64')}`;
