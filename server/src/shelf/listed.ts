import { type FoundItem, LIST_COLUMNS, type ListExport } from '@tally/contract';
import { type Cell, inPieces } from '@tally/core/spreadsheet';
import type { House } from '../house/index.js';
import { everyFound } from './asking.js';

type ListColumn = (typeof LIST_COLUMNS)[number];

/** What each column says of an item. */
const COLUMNS: Readonly<Record<ListColumn, (item: FoundItem) => Cell>> = {
  name: ({ filedAs, path }) => (filedAs ?? path).split('/').at(-1)!,
  taken: ({ captured }) => captured.local.replace('T', ' '),
  contributor: ({ contributor }) => contributor?.name ?? '',
  assignment: ({ assignment }) => assignment?.title ?? '',
  kind: ({ kind }) => kind,
  camera: ({ camera }) => camera,
  folder: ({ filedAs }) => (filedAs ?? '').split('/').slice(0, -1).join('/'),
  'on card': ({ path }) => path,
  bytes: ({ bytes }) => bytes,
  width: ({ width }) => width,
  height: ({ height }) => height,
  length: ({ durationMs }) => (durationMs === null ? null : durationMs / 1000),
  location: ({ location }) => location ?? '',
  words: ({ words }) => words.join('; '),
  description: ({ description }) => description,
  verdict: ({ verdict }) => verdict ?? '',
  terms: ({ terms }) => terms.words,
  intake: ({ intake }) => intake.number,
  filed: ({ filedOn }) => filedOn,
  copies: ({ copies }) => copies.filter(({ state }) => state === 'tallied').length,
};

/** Everything that a question finds as CSV or tab-separated text, piece by piece. */
export async function* exportList(
  house: House,
  { columns = [...LIST_COLUMNS], ...query }: ListExport,
  form: 'csv' | 'tsv',
): AsyncGenerator<string, void, undefined> {
  const piece = inPieces(form, columns);
  yield piece([]);
  for await (const items of everyFound(house, query))
    yield piece(items.map((item) => columns.map((column) => COLUMNS[column](item))));
}
