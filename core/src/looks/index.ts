/*
 * looks: how do pictures compare?
 * In: small grey pictures (rows of brightness, one byte a pixel).
 * Out: how sharp a picture is, a hash by which similar pictures are found, groups of similar frames and their sharpest.
 * Published methods: variance of the Laplacian (Pech-Pacheco et al. 2000); difference hash (N. Krawetz 2013).
 */
export * from './sharpness.js';
export * from './difference-hash.js';
export * from './similar.js';
export * from './wave.js';
