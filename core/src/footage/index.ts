/*
 * footage: what does a clip or a recording say of itself?
 * In: what was read of its container, as code points and text.
 * Out: timecode, frame rate, colour in words, the flat profile that it was probably shot with, tracks, take and scene.
 * Standards: ITU-T H.273 (colour code points), SMPTE ST 12-1 (timecode), EBU Tech 3285 (bext).
 */
export { COLOUR_PRIMARIES, colourInWords, NOT_FLAT, profileOf, proposedProfile, TRANSFERS } from './colour.js';
export { timecodeAt } from './timecode.js';
export { clipInWords, type ClipSays, NOTHING_SAID, saysNothing } from './clip-says.js';
