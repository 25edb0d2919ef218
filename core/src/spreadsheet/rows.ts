import Papa from 'papaparse';

export type Cell = string | number | null;

export interface Rows {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly Cell[])[];
}

/**
 * What begins a formula, or could be taken off so that a formula begins; whatever follows, line breaks too. Such a cell
 * gets a ' before it.
 */
// eslint-disable-next-line no-control-regex -- what a spreadsheet would take off
const FORMULA = /^[\s\u0000-\u001f]*[=+\-@\uff1d\uff0b\uff0d\uff20]|^[\t\r\n]/;

// An empty table still has its header: papaparse takes the columns from here.
const plain = ({ columns, rows }: Rows, cell: (value: Cell) => Cell) => ({
  fields: [...columns],
  data: rows.map((row) => row.map(cell)),
});

/** CSV by RFC 4180: CRLF, quotes doubled, a header line; a line break inside a cell is kept. */
export function toCsv(rows: Rows): string {
  const written = Papa.unparse(
    plain(rows, (value) => value),
    { newline: '\r\n', escapeFormulae: FORMULA },
  );
  // Of no rows papaparse writes the header with its line break.
  return rows.rows.length ? `${written}\r\n` : written;
}

/** Tab-separated text: pasted, every row is one row, so what breaks a line or a cell becomes a space. */
export function toTsv(rows: Rows): string {
  // eslint-disable-next-line no-control-regex -- control characters are what is taken out
  const flat = (value: Cell) => (typeof value === 'string' ? value.replace(/[\u0000-\u001f\u007f]+/g, ' ') : value);
  const written = Papa.unparse(plain(rows, flat), { delimiter: '\t', newline: '\n', escapeFormulae: FORMULA });
  return rows.rows.length ? written : written.trimEnd();
}

/**
 * The same in pieces, for a table that is too long to be held: each call writes some more rows, the first the header too. Put
 * together, the pieces are what `toCsv` or `toTsv` writes of all rows.
 */
export function inPieces(form: 'csv' | 'tsv', columns: readonly string[]): (rows: Rows['rows']) => string {
  let isFirst = true;
  return (rows) => {
    const text = form === 'csv' ? toCsv({ columns, rows }) : toTsv({ columns, rows });
    if (isFirst) {
      isFirst = false;
      return text;
    }
    if (!rows.length) return '';
    // Names of columns hold no line break: the header is what stands before the first one.
    const newline = form === 'csv' ? '\r\n' : '\n';
    const body = text.includes(newline) ? text.slice(text.indexOf(newline) + newline.length) : '';
    return form === 'tsv' && body ? newline + body : body;
  };
}
