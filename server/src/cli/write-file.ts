import { EXIT, say, WrongUse } from './output.js';
import { writeFile } from 'node:fs/promises';
import { codeOf } from '../drive/list-card.js';

export async function write(file: string, pdf: Buffer): Promise<number> {
  await writeFile(file, pdf, { flag: 'wx' }).catch((error: unknown) => {
    throw new WrongUse(
      codeOf(error) === 'EEXIST' ? `${file} stands there already.` : `${file} cannot be written (${codeOf(error)}).`,
    );
  });
  say(`${file} written.`);
  return EXIT.done;
}
