/**
 * Files and folders that are not material: what systems and cameras put on a card for themselves, and the small pictures
 * and small versions that stand for others. They are listed with the reason, never silently dropped. Common practice, no
 * source, except: DCIM is the images' root of DCF (CIPA DC-009).
 */
import { kindOf } from './kind.js';
import type { Belonging } from './object.js';
import { structureNamed, type StructureName } from './structures.js';

const FOLDERS: readonly [test: RegExp, reason: string][] = [
  [/^(\.Spotlight-V100|\.fseventsd|\.TemporaryItems|\.DocumentRevisions-V100)$/i, 'macOS index'],
  [/^\.Trash(es|-\d+)?$/i, 'wastebasket'],
  [/^\$RECYCLE\.BIN$/i, 'wastebasket'],
  [/^System Volume Information$/i, 'Windows system folder'],
  [/^LOST\.DIR$/i, 'recovered fragments of the card'],
  [/^\.thumb(s|nails)?$/i, 'thumbnails folder'],
];

const FILES: readonly [test: RegExp, reason: string][] = [
  [/^\._/, 'macOS companion file'],
  [/^\.DS_Store$/i, 'macOS folder view'],
  [/^(Thumbs\.db|desktop\.ini|ehthumbs\.db)$/i, 'Windows folder view'],
  [/^autorun\.inf$/i, 'system file'],
  [/^\.(nomedia|metadata_never_index)$/i, 'system file'],
  [/^\.trashed-/i, 'thrown away on the device'],
  [/^\.pending-/i, 'not finished by the device'],
  [/^\..+\.[^.]+$/, 'hidden on the device'],
];

/** What cameras keep for themselves beside the material, by the ends of the names. */
const INDEXES: readonly [test: RegExp, reason: string][] = [
  [/^STATUS\.BIN$/i, "camera index: the card's state"],
  [/\.mrk$/i, 'positions at each exposure'],
  [/\.(nav|obs|rtk)$/i, 'positions along the flight'],
  [/\.dsc$/i, "camera index: the card's description"],
  [/\.(ctg|bdm|mpl|ind|bnp|int|idx|inp)$/i, 'camera index'],
];
/** What other devices write, too, is a camera's where cameras write. */
const IN_CAMERA_FOLDERS = /(^|\/)(DCIM|MISC|PRIVATE|AVF_INFO|MP_ROOT|DATABASE)\/(.*\/)?[^/]+\.(dat|db)$/i;

/** How a house keeps structures; what it does not say is as the table of structures has it. */
export interface Keeping {
  /** Is every card kept as it is? */
  readonly card: boolean;
  readonly structures: Readonly<Partial<Record<StructureName, 'whole' | 'rename' | undefined>>>;
  /** What becomes of small versions that stand beside their clips. */
  readonly smallVersions: 'left' | 'kept';
}

export const DEFAULT_KEEPING: Keeping = { card: false, structures: {}, smallVersions: 'left' };

/**
 * Folder on the card below which a file stays as it is ('' for the whole card), or null when it gets a name of the house.
 */
export function keptRoot({ root, structure }: Pick<Belonging, 'root' | 'structure'>, keeping: Keeping): string | null {
  if (keeping.card) return '';
  if (root === null) return null;
  const said = keeping.structures[structure] ?? (structureNamed(structure).whole ? 'whole' : 'rename');
  return said === 'whole' ? root : null;
}

/** Why the system, not the camera, put a file there; null when a camera or a person did. */
export function systemReason(path: string): string | null {
  const parts = path.split('/');
  const name = parts.pop() ?? '';
  for (const folder of parts) {
    const hit = FOLDERS.find(([test]) => test.test(folder));
    if (hit) return hit[1];
  }
  return FILES.find(([test]) => test.test(name))?.[1] ?? null;
}

/**
 * Why a file is set aside, or null when it is material. Nothing that a kept structure needs is set aside.
 * @param path uses `/`, relative to the card.
 * @param belonging what it is in its object; what its name alone tells when left out.
 */
export function setAsideReason(path: string, belonging?: Belonging, keeping: Keeping = DEFAULT_KEEPING): string | null {
  const system = systemReason(path);
  if (system !== null || (belonging && keptRoot(belonging, keeping) !== null)) return system;
  const name = path.slice(path.lastIndexOf('/') + 1);
  const index = INDEXES.find(([test]) => test.test(name))?.[1];
  if (index) return index;
  if (IN_CAMERA_FOLDERS.test(path)) return 'camera index';
  // What stands for nothing else is all there is: material, unless it can be nothing but a thumbnail.
  const standsAlone = belonging?.object === path;
  switch (belonging?.role) {
    case 'thumbnail':
      return standsAlone && kindOf(name) === 'photo' ? null : 'small picture that the camera made';
    case 'proxy':
      return standsAlone || keeping.smallVersions === 'kept' ? null : 'small version that the camera made';
    case 'index':
      return belonging.root === null ? null : `index of ${structureNamed(belonging.structure).title}`;
    default:
      return null;
  }
}
