/*
 * driving: the places where copies live.
 * In: the settings' places, the file systems they stand on.
 * Out: each place with how it stands now and what it can do.
 */
export { abilitiesOf, placesStanding, placesThere, placeViews, type StandingPlace } from './places.js';
export { placeIsKnown } from './known.js';
export { meetPlaces } from './meeting.js';
export { drivingWork } from './work.js';
export {
  holdPlaceTotals,
  joinPlaceTotals,
  keptPlaces,
  listPlaces,
  placesInOrder,
  promisedBytes,
  recountPlaces,
  savePlaces,
  setMark,
} from './store.js';
