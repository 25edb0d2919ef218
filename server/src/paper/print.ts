import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { PAPERS } from '@tally/contract';
import type { TDocumentDefinitions } from 'pdfmake/interfaces.js';

const fonts = join(dirname(createRequire(import.meta.url).resolve('pdfmake/package.json')), 'fonts/Roboto');

/** Whoever prints loads it: it is large, and most commands print nothing. */
async function printer() {
  const { default: pdfmake } = await import('pdfmake');
  pdfmake.setFonts({
    Roboto: {
      normal: join(fonts, 'Roboto-Regular.ttf'),
      bold: join(fonts, 'Roboto-Medium.ttf'),
      italics: join(fonts, 'Roboto-Italic.ttf'),
      bolditalics: join(fonts, 'Roboto-MediumItalic.ttf'),
    },
  });
  // Nothing a document names is ever fetched, and of files only its own fonts are read.
  pdfmake.setUrlAccessPolicy(() => false);
  pdfmake.setLocalAccessPolicy((path) => path.startsWith(fonts));
  return pdfmake;
}

/** Sizes of paper that desks have. */
export type Paper = (typeof PAPERS)[number];

/** Lays a document out. Pictures must be data addresses. */
export async function print(document: TDocumentDefinitions): Promise<Buffer> {
  return (await printer()).createPdf(document).getBuffer();
}
