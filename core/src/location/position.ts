/** A point on the earth: degrees north and east (WGS 84). */
export interface Position {
  readonly lat: number;
  readonly lon: number;
}

/** Mean radius of the earth in metres: IUGG, R1 = (2a + b) / 3 of GRS 80 (Moritz, "Geodetic Reference System 1980"). */
export const EARTH_RADIUS_M = 6_371_008.7714;

const radians = (degrees: number) => (degrees * Math.PI) / 180;

/** Distance over the great circle in metres, by the haversine formula (R. W. Sinnott, "Virtues of the Haversine", Sky and Telescope 68/2, 1984). */
export function distanceM(a: Position, b: Position): number {
  const half = Math.sin(radians(b.lat - a.lat) / 2) ** 2;
  const along = Math.sin(radians(b.lon - a.lon) / 2) ** 2;
  const h = half + Math.cos(radians(a.lat)) * Math.cos(radians(b.lat)) * along;
  return 2 * EARTH_RADIUS_M * Math.asin(Math.min(1, Math.sqrt(h)));
}

/** Can a point be meant? What cameras write without a fix (0, 0) is none. */
export const isPosition = ({ lat, lon }: Position): boolean =>
  Math.abs(lat) <= 90 && Math.abs(lon) <= 180 && (lat !== 0 || lon !== 0);

export interface Near<T> {
  readonly location: T;
  readonly metres: number;
}

/** The known location nearest to a point, within reach (a location may say how far it reaches). */
export function nearest<T extends { readonly position: Position | null; readonly reachM: number }>(
  locations: readonly T[],
  at: Position,
): Near<T> | null {
  let best: Near<T> | null = null;
  for (const location of locations) {
    if (!location.position) continue;
    const metres = distanceM(location.position, at);
    if (metres <= location.reachM && (!best || metres < best.metres)) best = { location, metres };
  }
  return best;
}

/** `1.4 km`, `230 m`. */
export const distanceInWords = (metres: number): string =>
  metres < 995 ? `${Math.round(metres / 10) * 10} m` : `${(metres / 1000).toFixed(metres < 9950 ? 1 : 0)} km`;

/** Degrees north and east, to about a metre. */
export const positionInWords = ({ lat, lon }: Position): string => `${lat.toFixed(5)}, ${lon.toFixed(5)}`;
