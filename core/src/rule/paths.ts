/*
 * Paths below a root, `/` between folders; the root itself is the empty path.
 */

/** The path of a name in a folder. */
export const pathIn = (folder: string, name: string): string => (folder ? `${folder}/${name}` : name);

/** The folder that a path stands in; the empty path for what stands in the root. */
export const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));

/** The last name of a path. */
export const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** Does a path, `/` between its parts, stay below where it begins? Also: no empty part, and no NUL. */
export const staysBelow = (path: string): boolean =>
  !path.includes('\u0000') && path.split('/').every((part) => part !== '' && part !== '.' && part !== '..');
