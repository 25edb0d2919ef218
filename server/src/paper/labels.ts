import type { LabelForm } from '@tally/contract';
import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces.js';
import { barCode } from './code.js';
import { print } from './print.js';

const MM = 72 / 25.4;

/** A sheet of 3 × 8 labels of 70 × 37 mm on A4, and single labels of 54 × 17 mm on tape, one a page (common sizes, no source). */
const FORMS = {
  sheet: { columns: 3, rows: 8, width: 70 * MM, height: 37 * MM, text: 26, code: 46 * MM },
  tape: { columns: 1, rows: 1, width: 54 * MM, height: 17 * MM, text: 15, code: 42 * MM },
} as const;

/**
 * Labels for cards: the label as people read it, a bar code of it (Code 128) that a hand scanner types, and the house.
 * @param skip how many places of the first sheet are used up already.
 */
export async function labelsPdf(labels: readonly string[], house: string, form: LabelForm, skip = 0): Promise<Buffer> {
  const { columns, rows, width, height, text, code } = FORMS[form];
  const perPage = columns * rows;
  const content: Content[] = [];
  for (const [index, label] of labels.entries()) {
    const seat = (index + (form === 'sheet' ? skip : 0)) % perPage;
    const [x, y] = [(seat % columns) * width, Math.floor(seat / columns) * height];
    const inset = form === 'sheet' ? 5 * MM : 1.5 * MM;
    const starts = index > 0 && seat === 0;
    content.push(
      // Nothing to see: it only begins the next page.
      { text: '', ...(starts ? { pageBreak: 'before' } : {}) },
      { text: label, bold: true, fontSize: text, absolutePosition: { x: x + inset, y: y + inset * 0.6 } },
      {
        image: await barCode(label),
        width: code,
        height: height * 0.34,
        absolutePosition: { x: x + inset, y: y + inset * 0.6 + text * 1.25 },
      },
      {
        text: house,
        fontSize: form === 'sheet' ? 8 : 5,
        absolutePosition: { x: x + inset, y: y + height - (form === 'sheet' ? 6 : 2.6) * MM },
      },
    );
  }
  const document: TDocumentDefinitions = {
    info: { title: `Labels ${labels[0] ?? ''}`, author: house, creator: 'Tally Stick' },
    pageSize: form === 'sheet' ? 'A4' : { width, height },
    pageMargins: [0, 0, 0, 0],
    content,
  };
  return print(document);
}
