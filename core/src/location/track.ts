import { XMLParser } from 'fast-xml-parser';
import { isPosition, type Position } from './position.js';

/** A moment of a track: milliseconds since 1970 in UTC. */
export interface TrackPoint extends Position {
  readonly at: number;
}

/** Farther apart than this, nothing is said of what lies between two points. Common practice, no source. */
export const MOST_GAP_MS = 10 * 60_000;
/** So far before the first or after the last point it still counts. Common practice, no source. */
export const MOST_BEYOND_MS = 2 * 60_000;
const MOST_POINTS = 500_000;

/**
 * The timed points of a GPX 1.1 file (Topografix schema: gpx/trk/trkseg/trkpt with lat, lon and time), in order of time.
 * @returns words for what is wrong instead, where it cannot be used.
 */
export function readGpx(text: string): readonly TrackPoint[] | string {
  let read: unknown;
  try {
    read = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '@',
      processEntities: false,
      removeNSPrefix: true,
    }).parse(text, true);
  } catch (error) {
    return `This is no XML that can be read: ${(error as Error).message}`;
  }
  const gpx = child(read, 'gpx');
  if (!gpx) return 'This is no GPX file: it has no <gpx>.';
  const points: TrackPoint[] = [];
  for (const track of many(gpx, 'trk'))
    for (const segment of many(track, 'trkseg'))
      for (const point of many(segment, 'trkpt')) {
        const one = point as Record<string, unknown>;
        const [lat, lon, at] = [Number(one['@lat']), Number(one['@lon']), Date.parse(String(one['time']))];
        if (Number.isFinite(at) && isPosition({ lat, lon })) points.push({ lat, lon, at });
        if (points.length > MOST_POINTS) return `This track has more than ${MOST_POINTS} points.`;
      }
  if (!points.length) return 'This GPX file has no point with a time.';
  return points.sort((a, b) => a.at - b.at);
}

const child = (of: unknown, name: string): unknown =>
  typeof of === 'object' && of !== null ? (of as Record<string, unknown>)[name] : undefined;
const many = (of: unknown, name: string): unknown[] => {
  const found = child(of, name);
  return found === undefined ? [] : Array.isArray(found) ? found : [found];
};

/** Where a track was at a moment: between two points in proportion to time; null where it says nothing. */
export function positionAt(track: readonly TrackPoint[], at: number): Position | null {
  let [low, high] = [0, track.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (track[middle]!.at <= at) low = middle + 1;
    else high = middle;
  }
  const [before, after] = [track[low - 1], track[low]];
  if (before && after) {
    if (before.at === at) return { lat: before.lat, lon: before.lon };
    if (after.at - before.at > MOST_GAP_MS) return null;
    const part = (at - before.at) / (after.at - before.at);
    // The short way over the 180th meridian.
    const turn = ((after.lon - before.lon + 540) % 360) - 180;
    const lon = ((before.lon + turn * part + 540) % 360) - 180;
    return { lat: before.lat + (after.lat - before.lat) * part, lon };
  }
  const end = before ?? after;
  return end && Math.abs(end.at - at) <= MOST_BEYOND_MS ? { lat: end.lat, lon: end.lon } : null;
}
