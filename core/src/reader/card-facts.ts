import { formatBytes } from '../logbook/index.js';

/** `dirty`: it was pulled while something was written; `damaged`: the medium failed somewhere. */
export type VolumeHealth = 'clean' | 'dirty' | 'damaged';

/** What the system says of the card in a reader. Null where it does not say. */
export interface CardFacts {
  readonly reader: string | null;
  readonly slot: string | null;
  readonly capacityBytes: number | null;
  readonly usedBytes: number | null;
  /** `exfat`, `vfat`, `ntfs`, `ext4` … */
  readonly fileSystem: string | null;
  readonly volume: string | null;
  readonly writeProtected: boolean;
  readonly health: VolumeHealth | null;
  /** Can it be let go: unmounted, or by the house's own command? A plain folder cannot, and need not. */
  readonly letsGo: boolean;
}

export const NO_FACTS: CardFacts = {
  ...{ reader: null, slot: null, capacityBytes: null, usedBytes: null, fileSystem: null, volume: null },
  ...{ writeProtected: false, health: null, letsGo: false },
};

const FILE_SYSTEMS: Readonly<Record<string, string>> = {
  ...{ exfat: 'exFAT', vfat: 'FAT', msdos: 'FAT', ntfs: 'NTFS', ntfs3: 'NTFS', hfsplus: 'HFS+', apfs: 'APFS', udf: 'UDF' },
};

/** Where it lies, how much it holds, what it is; and apart from that what a person should do something about. */
export function cardInWords(facts: CardFacts): { readonly says: string; readonly attention: readonly string[] } {
  const { reader, slot, capacityBytes, usedBytes, fileSystem, writeProtected, health } = facts;
  const where = [reader, slot].filter(Boolean).join(', ');
  const used = usedBytes === null ? '' : `${formatBytes(usedBytes)} used of `;
  const holds = capacityBytes === null ? null : `${used}${formatBytes(capacityBytes)}`;
  const system = fileSystem && (FILE_SYSTEMS[fileSystem] ?? fileSystem);
  const attention: string[] = [];
  if (writeProtected) attention.push('write-protected: it can be read and filed, not cleared');
  if (health === 'dirty')
    attention.push(
      'not let go properly the last time: look whether its newest pictures can be seen, and format it in the camera when it is empty',
    );
  if (health === 'damaged') attention.push('its file system says that the medium failed: file it now, then put the card aside');
  return { says: [where, holds, system].filter(Boolean).join(' · '), attention };
}
