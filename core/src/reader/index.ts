/*
 * reader: what is known of the card in a reader, and may it be pulled?
 * In: what the system says of a volume, its first bytes, and what is being done with the card.
 * Out: capacity and condition in words; whether it may be pulled, and if not, why.
 * Standards: Microsoft, exFAT file system specification (VolumeFlags); Microsoft, FAT32 File System Specification (FAT[1]).
 */
export { cardInWords, NO_FACTS, type CardFacts, type VolumeHealth } from './card-facts.js';
export { pullingOf, type Pulling, type PullNow } from './pulling.js';
export { fatFlagsAt, fileSystemOf, volumeHealth } from './volume-flags.js';
