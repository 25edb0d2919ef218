import { inPieces } from '../spreadsheet/index.js';

export interface AuditLine {
  readonly id: number;
  readonly at: string;
  readonly kind: string;
  readonly who: string | null;
  readonly text: string;
}

/** Events as CSV (RFC 4180), piece by piece, the names of the columns with the first. A cell is never a formula. */
export function auditInPieces(): (events: readonly AuditLine[]) => string {
  const piece = inPieces('csv', ['number', 'time', 'kind', 'who', 'what']);
  return (events) => piece(events.map(({ id, at, kind, who, text }) => [id, at, kind, who, text]));
}
