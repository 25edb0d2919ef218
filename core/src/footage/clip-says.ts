import { colourInWords } from './colour.js';

/** What a clip or a sound recording says of itself. Null where it does not say. */
export interface ClipSays {
  /** Frames a second. */
  readonly frameRate: number | null;
  /** Timecode of the first frame, `hh:mm:ss:ff`; `;` before the frames where some are dropped (SMPTE ST 12-1). */
  readonly timecode: string | null;
  /** Reel or tape, as the camera names it. */
  readonly reel: string | null;
  /** Code points of ITU-T H.273. */
  readonly primaries: number | null;
  readonly transfer: number | null;
  /** The camera's own word for its curve, where it writes one. */
  readonly gamma: string | null;
  readonly tracks: number | null;
  readonly channels: number | null;
  /** Samples a second. */
  readonly sampleRate: number | null;
  readonly scene: string | null;
  readonly take: string | null;
}

export const NOTHING_SAID: ClipSays = {
  ...{ frameRate: null, timecode: null, reel: null, primaries: null, transfer: null, gamma: null },
  ...{ tracks: null, channels: null, sampleRate: null, scene: null, take: null },
};

export const saysNothing = (clip: ClipSays): boolean => Object.values(clip).every((value) => value === null);

/** What a clip says, as rows of a name and a value for people. */
export function clipInWords(clip: ClipSays): { readonly name: string; readonly value: string }[] {
  const rows: [string, string | null][] = [
    ['Timecode', clip.timecode],
    ['Frames a second', clip.frameRate === null ? null : String(Number(clip.frameRate.toFixed(3)))],
    ['Reel', clip.reel],
    ['Colour', colourInWords(clip)],
    ['Scene', clip.scene],
    ['Take', clip.take],
    ['Sound', soundInWords(clip)],
  ];
  return rows.flatMap(([name, value]) => (value ? [{ name, value }] : []));
}

function soundInWords({ tracks, channels, sampleRate }: ClipSays): string | null {
  if (channels === null) return null;
  const count = `${channels} ${channels === 1 ? 'channel' : 'channels'}`;
  const on = tracks !== null && tracks > 1 ? ` on ${tracks} tracks` : '';
  return `${count}${on}${sampleRate === null ? '' : `, ${Number((sampleRate / 1000).toFixed(1))} kHz`}`;
}
