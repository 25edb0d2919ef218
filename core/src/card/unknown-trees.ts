import type { CardFile, Placed } from './object.js';

/** Folders of a card's root that are understood, or mean nothing as a whole. */
const UNDERSTOOD = /^(dcim|misc|private)$/;
/** As cameras name folders: capitals and digits, eight at most. */
const MADE_BY_A_CAMERA = /^[A-Z0-9_]{1,8}$/;

/**
 * Trees of cameras that nobody here has seen: a folder that a camera named, with sub-folders of media, and beside these a
 * file that describes none of them alone, an index. What the index needs stays whole.
 * @param placed what each file is by its own name and folder.
 * @returns the same, with all that lies in such a tree marked so.
 */
export function unknownTrees(files: readonly CardFile[], placed: ReadonlyMap<string, Placed>): Map<string, Placed> {
  const tops = new Map<string, CardFile[]>();
  for (const file of files) {
    const top = file.folder.split('/', 1)[0]!;
    if (top === '' || UNDERSTOOD.test(top.toLowerCase()) || !MADE_BY_A_CAMERA.test(top)) continue;
    const here = tops.get(top);
    if (here) here.push(file);
    else tops.set(top, [file]);
  }
  const found = new Map(placed);
  for (const [root, inside] of tops) {
    if (!isTree(root, inside, placed)) continue;
    for (const file of inside) {
      const one = placed.get(file.path)!;
      const isIndex = isApart(file, placed) && !isMedia(file);
      found.set(
        file.path,
        isIndex
          ? { key: `${root}\0\0index`, role: 'index', order: null, structure: 'camera tree', root }
          : { ...one, structure: 'camera tree', root },
      );
    }
  }
  return found;
}

const isMedia = ({ kind }: CardFile) => kind !== 'sidecar' && kind !== 'other';
/** Is it nobody's companion? */
const isApart = (file: CardFile, placed: ReadonlyMap<string, Placed>) => placed.get(file.path)!.key === `\0${file.path}`;

function isTree(root: string, inside: readonly CardFile[], placed: ReadonlyMap<string, Placed>): boolean {
  const subFolders = new Set(inside.filter(({ folder }) => folder !== root).map(({ folder }) => folder));
  return (
    subFolders.size >= 2 &&
    inside.some((file) => file.folder !== root && isMedia(file)) &&
    inside.some((file) => file.folder === root && !isMedia(file) && isApart(file, placed))
  );
}
