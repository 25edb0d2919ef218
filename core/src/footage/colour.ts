/**
 * Colour of a clip by the code points of ITU-T H.273 (tables 2 and 3, from memory; the tests hold them against ffprobe's
 * names of clips that ffmpeg tagged). Only what cameras write: the others are told by their number.
 */
export const COLOUR_PRIMARIES: Readonly<Record<number, string>> = {
  1: 'BT.709',
  5: 'BT.601 625 lines',
  6: 'BT.601 525 lines',
  9: 'BT.2020',
  11: 'P3 (DCI)',
  12: 'P3 (D65)',
};

export const TRANSFERS: Readonly<Record<number, string>> = {
  1: 'BT.709',
  6: 'BT.601',
  8: 'linear',
  9: 'logarithmic, 100 to 1',
  10: 'logarithmic, 316 to 1',
  11: 'IEC 61966-2-4',
  13: 'sRGB',
  14: 'BT.2020, 10 bit',
  15: 'BT.2020, 12 bit',
  16: 'PQ',
  18: 'HLG',
};

/** H.273: "unspecified". */
const UNSPECIFIED = 2;

interface Colour {
  readonly primaries: number | null;
  readonly transfer: number | null;
  readonly gamma: string | null;
}

const said = (code: number | null): code is number => code !== null && code !== UNSPECIFIED && code !== 0;

/** `HLG in BT.2020`; null when the clip does not say. */
export function colourInWords({ primaries, transfer, gamma }: Colour): string | null {
  const curve = gamma ?? (said(transfer) ? (TRANSFERS[transfer] ?? `transfer ${transfer}`) : null);
  const space = said(primaries) ? (COLOUR_PRIMARIES[primaries] ?? `primaries ${primaries}`) : null;
  if (curve === null) return space;
  return space === null || space === curve ? curve : `${curve} in ${space}`;
}

/** What is written where somebody says that footage was not shot flat, whatever its clip says. */
export const NOT_FLAT = 'none';

/** The flat profile of footage: what somebody said, else what the clip says of itself. */
export function profileOf(said: string | null, clip: Pick<Colour, 'transfer' | 'gamma'> | null): string | null {
  if (said) return said === NOT_FLAT ? null : said;
  return clip && proposedProfile(clip);
}

/** A curve's name that stands for an ordinary picture: nothing to be told of it. */
const ORDINARY = /^(rec\.?\s*709|bt\.?\s*709|srgb|standard|normal|off|none)$/i;

/**
 * The flat profile that footage was probably shot with: the camera's own word, else the curve by its code point where it
 * needs grading (logarithmic, HLG, PQ, linear). Null for ordinary pictures and where nothing is said.
 */
export function proposedProfile({ transfer, gamma }: Pick<Colour, 'transfer' | 'gamma'>): string | null {
  if (gamma !== null) return ORDINARY.test(gamma.trim()) ? null : gamma.trim();
  switch (transfer) {
    case 8:
      return 'linear';
    case 9:
    case 10:
      return 'log';
    case 16:
      return 'PQ';
    case 18:
      return 'HLG';
    default:
      return null;
  }
}
