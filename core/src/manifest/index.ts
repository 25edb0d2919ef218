/*
 * manifest: what is written beside the files?
 * In: names with their hashes.
 * Out: a checksum list that `xxhsum -c` can check, and its reading back.
 * Formats: the list of xxHash's own tool (a hash, two spaces, a name; one line a file).
 */
export * from './checksums.js';
