/**
 * A change of a file that can be taken back: pieces in the order of their places. From `at`, counted in the file as it is
 * before, `cut` bytes go and `put` comes. Offsets and lengths in bytes.
 */
export type Edit = readonly Piece[];
export interface Piece {
  readonly at: number;
  readonly cut: number;
  readonly put: Uint8Array;
}

/** Bytes that stay what they are, whatever becomes of those they come from (a Node Buffer's own `slice` shares them). */
export const copied = (bytes: Uint8Array, from: number, to: number): Uint8Array => new Uint8Array(bytes.subarray(from, to));

/** By how much a file grows (shrinks, below 0). */
export const growth = (edit: Edit): number => edit.reduce((sum, { cut, put }) => sum + put.length - cut, 0);

/** Up to where, in the file as it is before, bytes are looked at or changed: all behind it only moves. */
export const reach = (edit: Edit): number => edit.reduce((most, { at, cut }) => Math.max(most, at + cut), 0);

/** The beginning of a file after an edit. @param head of the file before, at least as long as the edit reaches. */
export function applyTo(head: Uint8Array, edit: Edit): Uint8Array {
  const changed = new Uint8Array(head.length + growth(edit));
  let [from, to] = [0, 0];
  for (const { at, cut, put } of edit) {
    if (at < from || at + cut > head.length) throw new RangeError('an edit does not fit its file');
    changed.set(head.subarray(from, at), to);
    to += at - from;
    changed.set(put, to);
    to += put.length;
    from = at + cut;
  }
  changed.set(head.subarray(from), to);
  return changed;
}

/** The edit that takes another one back. @param head of the file before the edit that is taken back. */
export function undoOf(head: Uint8Array, edit: Edit): Edit {
  let moved = 0;
  return edit.map(({ at, cut, put }) => {
    const back = { at: at + moved, cut: put.length, put: copied(head, at, at + cut) };
    moved += put.length - cut;
    return back;
  });
}

/** One edit, for one after another: of the file before the first. @param head of that file, as long as both reach. */
export function oneAfterAnother(head: Uint8Array, first: Edit, second: Edit): Edit {
  const end = Math.max(reach(first), reach(second) - growth(first));
  const put = applyTo(applyTo(head.subarray(0, end), first), second);
  return [{ at: 0, cut: end, put }];
}
