import { formatBytes, type ReceiptFacts } from '@tally/core/logbook';
import type { Column, Content, TableCell, TDocumentDefinitions } from 'pdfmake/interfaces.js';
import { STICK_ROW_POINTS, stickOnPaper, type StickRun } from './stick.js';
import { print, type Paper } from './print.js';

/** All that stands on a receipt. Times are texts in the house's zone. */
export interface ReceiptPaper {
  readonly house: string;
  readonly intake: string;
  readonly state: string;
  readonly card: string;
  readonly contributor: string;
  readonly assignment: string;
  readonly received: string;
  readonly filedAt: string | null;
  readonly clearedAt: string | null;
  readonly printedAt: string;
  readonly zone: string;
  readonly facts: ReceiptFacts;
  /** Hash of the list of filed names with their hashes, and how it is made. */
  readonly listHash: string;
  readonly stick: readonly StickRun[];
  readonly notes: readonly string[];
  readonly pictures: readonly { readonly data: string; readonly name: string }[];
  readonly code: string;
  readonly address: string;
}

/** Points inside the margins; pictures in one row. */
const WIDTH: Readonly<Record<Paper, number>> = { A4: 595 - 80, LETTER: 612 - 80 };
const IN_A_ROW = 6;
const SHOWN = 6;

/** The receipt as PDF, for black-and-white printers; on one page unless there is a great deal to say. */
export function receiptPdf(receipt: ReceiptPaper, paper: Paper): Promise<Buffer> {
  return print(documentOf(receipt, paper));
}

function documentOf(receipt: ReceiptPaper, paper: Paper): TDocumentDefinitions {
  const { facts } = receipt;
  return {
    info: { title: `Receipt ${receipt.intake}`, author: receipt.house, creator: 'Tally Stick' },
    pageSize: paper,
    pageMargins: [40, 36, 40, 40],
    defaultStyle: { fontSize: 9, lineHeight: 1.15 },
    styles: { label: { color: '#555' }, head: { bold: true, fontSize: 10, margin: [0, 9, 0, 2] }, mono: { fontSize: 8 } },
    content: [
      heading(receipt),
      said(receipt),
      { text: 'Stick', style: 'head' },
      stick(receipt, WIDTH[paper] - 90),
      { columns: [kinds(facts), places(receipt)], columnGap: 20 },
      ...list('Left on the card', facts.left.map(leftLine)),
      ...list('To look at', [...receipt.notes, ...facts.problems.map(({ path, words }) => `${path}: ${words}`)]),
      { text: 'List', style: 'head' },
      { text: `SHA-256 ${receipt.listHash}`, style: 'mono' },
      {
        text: 'of one line for each filed item, sorted: XXH128, two spaces, its path on the drive.',
        style: 'label',
        fontSize: 7.5,
      },
      ...contactSheet(receipt.pictures, WIDTH[paper]),
    ],
    footer: (page: number, pages: number): Content => ({
      margin: [40, 8, 40, 0],
      columns: [
        { text: `Printed ${receipt.printedAt} (${receipt.zone})`, style: 'label', fontSize: 7.5 },
        { text: pages > 1 ? `${page} of ${pages}` : '', alignment: 'right', style: 'label', fontSize: 7.5 },
      ],
    }),
  };
}

const heading = (receipt: ReceiptPaper): Content => ({
  columns: [
    {
      width: '*',
      stack: [
        { text: receipt.house, fontSize: 11 },
        { text: `Receipt ${receipt.intake}`, fontSize: 22, bold: true, margin: [0, 2, 0, 0] },
        { text: verdictOf(receipt), fontSize: 11, margin: [0, 2, 0, 0] },
      ],
    },
    { width: 72, stack: [{ image: receipt.code, width: 66, alignment: 'right' }] },
  ],
});

function verdictOf({ facts, state, clearedAt }: ReceiptPaper): string {
  const count = `${facts.filed.items} items, ${formatBytes(facts.filed.bytes)}`;
  const whole = facts.filed.items > 0 && facts.places.every(({ waiting, trouble }) => waiting + trouble === 0);
  const tally = whole ? 'every copy tallies' : state === 'tallied' ? 'copies to follow, see below' : state;
  return `${count}: ${tally}${clearedAt === null ? '' : '; the card was cleared'}`;
}

function said(receipt: ReceiptPaper): Content {
  const { first, last, folders } = receipt.facts;
  const when = (item: typeof first) =>
    item === null
      ? ''
      : `${item.path.slice(item.path.lastIndexOf('/') + 1)}${item.captured === null ? '' : `, ${item.captured.replace('T', ' ')}`}`;
  const more = folders.length > 2 ? ` and ${folders.length - 2} more folders` : '';
  const rows: [string, string | null][] = [
    ['Contributor', receipt.contributor],
    ['Card', receipt.card],
    ['Assignment', receipt.assignment],
    ['May be used', termsLine(receipt.facts)],
    ['Not to be shown', unshownLine(receipt.facts)],
    ['Received', receipt.received],
    ['Filed', receipt.filedAt],
    ['Card cleared', receipt.clearedAt],
    ['First item', when(first)],
    ['Last item', when(last)],
    [
      'Stands in',
      folders
        .slice(0, 2)
        .map(({ path }) => path || 'the root')
        .join(', ') + more,
    ],
    ['Record', receipt.address],
  ];
  const body = rows.flatMap(([label, value]): TableCell[][] => (value ? [[{ text: label, style: 'label' }, value]] : []));
  return { margin: [0, 8, 0, 0], table: { widths: [78, '*'], body }, layout: tight };
}

/** What may be done with what was filed; with numbers, where that differs. */
const termsLine = ({ terms }: ReceiptFacts): string =>
  terms.length > 1 ? terms.map(({ words, items }) => `${items}: ${words}`).join('; ') : (terms[0]?.words ?? '');

/** Without a name: the paper goes to whoever handed in. */
const unshownLine = ({ unshown }: ReceiptFacts): string =>
  unshown ? `somebody in ${unshown === 1 ? 'one item' : `${unshown} items`}` : '';

function stick({ stick: runs, facts }: ReceiptPaper, width: number): Content {
  const names = ['card', ...facts.places.map(({ name }) => name)];
  const line = (text: string): Content => ({
    text,
    style: 'label',
    fontSize: 7.5,
    lineHeight: STICK_ROW_POINTS / (7.5 * 1.17),
    noWrap: true,
  });
  return {
    columns: [
      { width: 84, stack: names.map(line) },
      { width, canvas: stickOnPaper(runs, width) },
    ],
    columnGap: 6,
  };
}

function kinds({ kinds: rows, filed }: ReceiptFacts): Column {
  const right = (text: string): TableCell => ({ text, alignment: 'right' });
  const body = [
    ...rows.map(({ kind, items, bytes }): TableCell[] => [kind, right(String(items)), right(formatBytes(bytes))]),
    [
      { text: 'in all', bold: true },
      { ...(right(String(filed.items)) as object), bold: true },
      { ...(right(formatBytes(filed.bytes)) as object), bold: true },
    ] as TableCell[],
  ];
  return {
    width: 150,
    stack: [
      { text: 'Filed', style: 'head' },
      { table: { widths: ['*', 'auto', 'auto'], body }, layout: ruled },
    ],
  };
}

function places({ facts }: ReceiptPaper): Column {
  const states = (place: ReceiptFacts['places'][number]) =>
    [
      `${place.tallied} tally`,
      place.waiting ? `${place.waiting} to follow` : '',
      place.trouble ? `${place.trouble} with trouble` : '',
    ]
      .filter(Boolean)
      .join(', ');
  const body = facts.places.map((place): TableCell[] => [
    {
      stack: [
        place.name,
        { text: `${place.kind}${place.device === null ? '' : `, device ${place.device}`}`, style: 'label', fontSize: 7.5 },
      ],
    },
    { stack: [states(place), { text: place.proofs.join('; '), style: 'label', fontSize: 7.5 }] },
  ]);
  return {
    width: '*',
    stack: [
      { text: 'Places', style: 'head' },
      body.length ? { table: { widths: ['*', '*'], body }, layout: ruled } : 'Nothing is filed yet.',
    ],
  };
}

const leftLine = ({ reason, items, examples }: ReceiptFacts['left'][number]) => {
  const more = items > examples.length ? ', …' : '';
  return `${items}: ${reason} (${examples.join(', ')}${more})`;
};

function list(title: string, lines: readonly string[]): Content[] {
  if (!lines.length) return [];
  const more = lines.length > SHOWN ? [`and ${lines.length - SHOWN} more, in the record`] : [];
  return [{ text: title, style: 'head' }, { stack: [...lines.slice(0, SHOWN), ...more] }];
}

function contactSheet(pictures: ReceiptPaper['pictures'], width: number): Content[] {
  if (!pictures.length) return [];
  const size = width / IN_A_ROW - 6;
  const cell = ({ data, name }: ReceiptPaper['pictures'][number]): Content => ({
    stack: [
      { image: data, fit: [size, size * 0.72] },
      { text: name, fontSize: 6.5, style: 'label' },
    ],
  });
  const rows: Content[] = [];
  for (let from = 0; from < pictures.length; from += IN_A_ROW) {
    const row = pictures.slice(from, from + IN_A_ROW).map(cell);
    const empty = Array.from({ length: IN_A_ROW - row.length }, (): Content => ({ text: '' }));
    rows.push({ columns: [...row, ...empty], columnGap: 6, margin: [0, 4, 0, 0], unbreakable: true });
  }
  return [{ text: 'Some of it', style: 'head' }, ...rows];
}

const tight = { hLineWidth: () => 0, vLineWidth: () => 0, paddingTop: () => 1, paddingBottom: () => 1, paddingLeft: () => 0 };
const ruled = { ...tight, hLineWidth: () => 0.5, hLineColor: () => '#999', paddingTop: () => 2, paddingBottom: () => 2 };
