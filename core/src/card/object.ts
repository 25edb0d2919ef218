import type { Kind } from './kind.js';
import type { StructureName } from './structures.js';

/** What a file is to the exposure, clip or recording that it belongs to. */
export const OBJECT_ROLES = ['leader', 'part', 'raw', 'sound', 'sidecar', 'proxy', 'thumbnail', 'index', 'edit'] as const;
export type ObjectRole = (typeof OBJECT_ROLES)[number];

/** A file as a listing gives it. */
export interface ListedFile {
  /** Path on the card, `/` between folders. */
  readonly path: string;
  /** Size in bytes, where it is known: it decides whether numbered clips are parts of one. */
  readonly bytes?: number;
}

/** Which object a file belongs to, and as what. */
export interface Belonging {
  /** Path of the file that leads the object; its own when it leads or stands alone. */
  readonly object: string;
  readonly role: ObjectRole;
  /** Which part of one recording, from 1, and of how many; null when it is not one of several. */
  readonly part: number | null;
  readonly parts: number | null;
  readonly structure: StructureName;
  /** The folder on the card that has to be kept together with all below it ('' is the card); null where nothing has. */
  readonly root: string | null;
  /** Exposures of one numbered series share it: they stay in one run. */
  readonly series: string | null;
}

/** A path taken apart once. */
export interface CardFile {
  readonly path: string;
  readonly folder: string;
  readonly name: string;
  /** Folder, stem and extension in lower case: letter case never tells two files of a camera apart. */
  readonly foldedFolder: string;
  readonly stem: string;
  readonly ext: string;
  readonly kind: Kind;
  readonly bytes: number | undefined;
}

/** What a structure says of one file: the key of its object, its role, and its place in a row of parts. */
export interface Placed {
  readonly key: string;
  readonly role: ObjectRole;
  /** Sorts the parts of one recording; null when it is not numbered. */
  readonly order: number | null;
  readonly structure: StructureName;
  readonly root: string | null;
  readonly series?: string;
}
