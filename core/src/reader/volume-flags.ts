import type { VolumeHealth } from './card-facts.js';

const EXFAT_DIRTY = 0x0002;
const EXFAT_FAILED = 0x0004;
const FAT32 = { cleanShut: 0x0800_0000, noErrors: 0x0400_0000 };
const FAT16 = { cleanShut: 0x8000, noErrors: 0x4000 };

const text = (bytes: Uint8Array, at: number, length: number) => String.fromCharCode(...bytes.subarray(at, at + length));
const word = (bytes: Uint8Array, at: number) => bytes[at]! | (bytes[at + 1]! << 8);

const isExfat = (boot: Uint8Array): boolean => text(boot, 3, 8) === 'EXFAT   ';
const isFat32 = (boot: Uint8Array): boolean => text(boot, 82, 8) === 'FAT32   ';
const isFat16 = (boot: Uint8Array): boolean => text(boot, 54, 8) === 'FAT16   ';

/** The file system that a volume's first sector names; null for others. @param boot the first 512 bytes. */
export function fileSystemOf(boot: Uint8Array): string | null {
  if (boot.length < 512) return null;
  if (isExfat(boot)) return 'exfat';
  if (text(boot, 3, 8) === 'NTFS    ') return 'ntfs';
  return isFat32(boot) || isFat16(boot) ? 'vfat' : null;
}

/**
 * Where in the volume the entry of the allocation table with the volume's flags is; null where the first sector says it
 * all, or nothing does. Source: FAT32 File System Specification 1.03, FAT[1].
 * @param boot the first 512 bytes. @returns offset in bytes of 4 bytes.
 */
export function fatFlagsAt(boot: Uint8Array): number | null {
  if (boot.length < 512 || isExfat(boot) || !(isFat32(boot) || isFat16(boot))) return null;
  return word(boot, 11) * word(boot, 14) + (isFat32(boot) ? 4 : 2);
}

/**
 * Was a volume let go properly the last time, and has its medium failed? Only true of one that is not mounted for
 * writing: that one is marked from its first write on. Sources: exFAT file system specification, 3.1.13 VolumeFlags;
 * FAT32 File System Specification 1.03, FAT[1].
 * @param boot the first 512 bytes. @param entry the 4 bytes at `fatFlagsAt`. @returns null when nothing is said.
 */
export function volumeHealth(boot: Uint8Array, entry: Uint8Array | null): VolumeHealth | null {
  if (boot.length < 512) return null;
  if (isExfat(boot)) {
    const flags = word(boot, 106);
    return flags & EXFAT_FAILED ? 'damaged' : flags & EXFAT_DIRTY ? 'dirty' : 'clean';
  }
  if (entry === null || entry.length < 4 || fatFlagsAt(boot) === null) return null;
  const bits = isFat32(boot) ? FAT32 : FAT16;
  const flags = isFat32(boot) ? (word(entry, 0) | (word(entry, 2) << 16)) >>> 0 : word(entry, 0);
  if (!(flags & bits.noErrors)) return 'damaged';
  return flags & bits.cleanShut ? 'clean' : 'dirty';
}
