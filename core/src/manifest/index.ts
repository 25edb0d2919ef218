/*
 * manifest: what is written beside the files?
 * In: names with their hashes.
 * Out: a checksum list that `xxhsum -c` can check, hash lists in generations with their chain, and their reading back.
 * Formats: the list of xxHash's own tool (a hash, two spaces, a name; one line a file); ASC MHL 2.0; C4 identities.
 */
export * from './c4.js';
export * from './checksums.js';
export * from './hash-list.js';
