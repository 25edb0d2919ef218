import { Refusal } from '../../house/index.js';

/** A line of a sheet that changes something. */
export interface SheetLine<T> {
  readonly line: number;
  readonly said: T;
  /** The record that it changes; null: it is new. */
  readonly id: number | null;
}

/** Says of a refusal which line it is about, and that nothing of the file was taken in. */
export const refusedAt =
  (line: number) =>
  (error: unknown): never => {
    if (error instanceof Refusal)
      throw new Refusal(error.kind, `Line ${line}: ${error.message} Nothing of the file was taken in.`);
    throw error;
  };
