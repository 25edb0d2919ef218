import { readFile } from 'node:fs/promises';
import { codeOf } from '../drive/list-card.js';
import { WrongUse } from './output.js';

/** A file that a person names on the command line. @throws WrongUse when it cannot be read. */
export const read = (file: string): Promise<Buffer> =>
  readFile(file).catch((error: unknown) => {
    throw new WrongUse(`${file} cannot be read (${codeOf(error)}).`);
  });
