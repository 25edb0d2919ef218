import { kindOf, systemReason, type Kind } from '@tally/core/card';

/** A file that somebody chose, with its path inside the card. */
export interface CardFile {
  readonly path: string;
  readonly file: File;
  readonly kind: Kind;
}

/** Files of a card, in the order of their paths, without what systems put there. What a camera needs of its structure is sent along. */
export function material(files: readonly { path: string; file: File }[]): CardFile[] {
  return files
    .filter(({ path }) => path !== '' && systemReason(path) === null)
    .map(({ path, file }) => ({ path: path.normalize('NFC'), file, kind: kindOf(path) }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
}

/** What a folder picker, or one for single files, gives. @returns also what the folder is called. */
export function fromPicker(list: FileList): { name: string; files: CardFile[] } {
  const all = [...list].map((file) => ({ file, path: file.webkitRelativePath || file.name }));
  const name = all[0]?.file.webkitRelativePath.split('/')[0] ?? '';
  const inside = name ? all.map(({ file, path }) => ({ file, path: path.slice(name.length + 1) })) : all;
  return { name, files: material(inside) };
}

/** What was dropped: folders are walked. */
export async function fromDrop(items: DataTransferItemList): Promise<{ name: string; files: CardFile[] }> {
  const entries = [...items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  const single = entries.length === 1 && entries[0]!.isDirectory ? entries[0]! : null;
  const found: { path: string; file: File }[] = [];
  const walk = async (entry: FileSystemEntry, path: string): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
      found.push({ path, file });
      return;
    }
    for (const child of await children(entry as FileSystemDirectoryEntry))
      await walk(child, path ? `${path}/${child.name}` : child.name);
  };
  if (single) await walk(single, '');
  else for (const entry of entries) await walk(entry, entry.name);
  return { name: single?.name ?? '', files: material(found) };
}

/** A directory reader hands its entries over in batches until an empty one. */
async function children(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (!some.length) return all;
    all.push(...some);
  }
}
