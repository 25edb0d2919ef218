import type { Edit } from '@tally/core/fields';
import type { PieceKept } from '../db/entities/written.js';

/** An edit as it is kept in the database and in records beside the files. */
export const keptEdit = (edit: Edit): PieceKept[] =>
  edit.map(({ at, cut, put }) => ({ at, cut, put: Buffer.from(put).toString('base64') }));

export const editOf = (kept: readonly PieceKept[]): Edit =>
  kept.map(({ at, cut, put }) => ({ at, cut, put: Buffer.from(put, 'base64') }));
