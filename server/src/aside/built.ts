import { fileURLToPath } from 'node:url';

/**
 * Path of a compiled file that a process or thread of its own begins with. Tests run sources: they too begin what was
 * built of them.
 * @param name relative to the module that asks (`import.meta.url`), ending in `.js`.
 */
export const builtFile = (name: string, from: string): string =>
  fileURLToPath(new URL(name, from)).replace(/\/server\/src\/(?!.*\/server\/src\/)/, '/server/dist/');
