/*
 * location: where was it taken?
 * In: positions, known locations, a track.
 * Out: distances, the nearest known location, where a track was at a moment.
 * Standards: GPX 1.1 (Topografix); the great circle by haversine.
 */
export {
  distanceInWords,
  distanceM,
  EARTH_RADIUS_M,
  isPosition,
  nearest,
  positionInWords,
  type Near,
  type Position,
} from './position.js';
export { nearKnown, type KnownLocation, type TakenNear } from './known.js';
export { MOST_BEYOND_MS, MOST_GAP_MS, positionAt, readGpx, type TrackPoint } from './track.js';
