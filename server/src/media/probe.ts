import { type ClipSays, NOTHING_SAID, saysNothing } from '@tally/core/footage';
import { own } from '@tally/core/lookup';
import { z } from 'zod';
import { openOnly } from './clips.js';
import { cleanText } from './metadata.js';
import { runLimited } from './run-limited.js';
import { withSafePath } from './safe-path.js';

const Tags = z.record(z.string(), z.string()).catch({});
const Probed = z.object({
  streams: z
    .array(
      z.object({
        codec_type: z.string().optional(),
        r_frame_rate: z.string().optional(),
        color_primaries: z.string().optional(),
        color_transfer: z.string().optional(),
        channels: z.number().optional(),
        sample_rate: z.string().optional(),
        tags: Tags.optional(),
      }),
    )
    .catch([]),
  format: z.object({ tags: Tags.optional() }).catch({}),
});

/** What ffprobe calls the code points of ITU-T H.273. */
const PRIMARIES: Readonly<Record<string, number>> = {
  ...{
    bt709: 1,
    bt470m: 4,
    bt470bg: 5,
    smpte170m: 6,
    smpte240m: 7,
    film: 8,
    bt2020: 9,
    smpte428: 10,
    smpte431: 11,
    smpte432: 12,
  },
};
const TRANSFERS: Readonly<Record<string, number>> = {
  ...{ bt709: 1, bt470m: 4, bt470bg: 5, smpte170m: 6, smpte240m: 7, linear: 8, log100: 9, log316: 10, 'iec61966-2-4': 11 },
  ...{ 'iec61966-2-1': 13, 'bt2020-10': 14, 'bt2020-12': 15, smpte2084: 16, smpte428: 17, 'arib-std-b67': 18 },
};

const ENTRIES = [
  'stream=codec_type,r_frame_rate,color_primaries,color_transfer,channels,sample_rate',
  'stream_tags=timecode,reel_name',
  'format_tags=timecode,reel_name',
].join(':');

/** What a clip or recording says of itself, by its container. Null when it cannot be read or says nothing. */
export async function probeClip(path: Buffer): Promise<ClipSays | null> {
  const text = await withSafePath(path, (safe) =>
    runLimited('ffprobe', ['-v', 'error', '-show_entries', ENTRIES, '-of', 'json', ...openOnly(safe)], {
      timeout: 20_000,
      maxBuffer: 1 << 20,
    }),
  ).then(
    (output) => output.toString('utf8'),
    // What no tool understands says nothing: the item is filed all the same.
    () => null,
  );
  return text === null ? null : clipOf(text);
}

/** @param text what ffprobe writes as JSON. */
export function clipOf(text: string): ClipSays | null {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return null;
  }
  const read = Probed.safeParse(json);
  if (!read.success) return null;
  const { streams, format } = read.data;
  const video = streams.find(({ codec_type }) => codec_type === 'video');
  const sound = streams.filter(({ codec_type, channels }) => codec_type === 'audio' && channels);
  const tag = (name: string) =>
    cleanText([format.tags?.[name], ...streams.map(({ tags }) => tags?.[name])].find(Boolean))?.slice(0, 60) ?? null;
  const clip: ClipSays = {
    ...NOTHING_SAID,
    frameRate: video ? rateOf(video.r_frame_rate) : null,
    timecode: timecodeOf(tag('timecode')),
    reel: tag('reel_name'),
    primaries: own(PRIMARIES, video?.color_primaries ?? '') ?? null,
    transfer: own(TRANSFERS, video?.color_transfer ?? '') ?? null,
    tracks: sound.length || null,
    channels: sound.reduce((sum, { channels }) => sum + (channels ?? 0), 0) || null,
    sampleRate: Number(sound[0]?.sample_rate) || null,
  };
  return saysNothing(clip) ? null : clip;
}

/** SMPTE ST 12-1: hours, minutes, seconds, frames; a semicolon where frames are dropped. */
const timecodeOf = (text: string | null) => (text !== null && /^\d{2}:\d{2}:\d{2}[:;.]\d{2,3}$/.test(text) ? text : null);

function rateOf(fraction: string | undefined): number | null {
  const [above, below] = (fraction ?? '').split('/').map(Number);
  const rate = above! / below!;
  // What is not a picture a moment (a cover in a sound file) has rates of 90,000 and more.
  return Number.isFinite(rate) && rate > 0 && rate <= 1000 ? Number(rate.toFixed(3)) : null;
}
