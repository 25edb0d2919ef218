import type { Run } from '@tally/core/card';
import type { Tile } from './tiles';

export const HEAD_PX = 40;
const GAP_PX = 6;
const ROW_PX = 96;
const RUN_GAP_PX = 14;

export interface PlacedTile {
  readonly tile: Tile;
  readonly index: number;
  readonly left: number;
  readonly width: number;
}

export interface PlacedHead {
  readonly run: Run<Tile>;
  readonly left: number;
  readonly width: number;
}

/** The head of a run, or of several short ones that share a row. */
export interface HeadRow {
  readonly type: 'head';
  readonly top: number;
  readonly height: number;
  readonly heads: readonly PlacedHead[];
}

export interface TileRow {
  readonly type: 'tiles';
  readonly top: number;
  readonly height: number;
  readonly tiles: readonly PlacedTile[];
}

export type Row = HeadRow | TileRow;

export interface SheetLayout {
  readonly rows: readonly Row[];
  readonly height: number;
}

/** Width over height as the picture is seen; what has no picture gets an ordinary one's. */
export function aspectOf({ lead }: Tile): number {
  const { width, height, kind, turned } = lead;
  if (kind === 'sound') return 1.7;
  if (!width || !height) return 1.5;
  const aspect = turned % 2 ? height / width : width / height;
  return Math.min(2.6, Math.max(0.56, aspect));
}

/** Runs of at most so many tiles share a row with their neighbours: a card of scattered days is no page of single pictures. */
const SHORT_RUN = 2;
/** Room for the head of a run that shares its row. */
const SHORT_HEAD_PX = 236;
const BETWEEN_RUNS_PX = 18;

const widthOf = (tiles: readonly Tile[]) =>
  tiles.reduce((sum, tile) => sum + aspectOf(tile) * ROW_PX, GAP_PX * (tiles.length - 1));

/** From here on, short runs that fit beside each other; one alone has a row of its own as ever. */
function sharing(runs: readonly Run<Tile>[], from: number, width: number): PlacedHead[] {
  const heads: PlacedHead[] = [];
  let left = 0;
  for (const run of runs.slice(from)) {
    const wide = Math.max(SHORT_HEAD_PX, widthOf(run.items));
    if (run.items.length > SHORT_RUN || left + wide > width) break;
    heads.push({ run, left, width: wide });
    left += wide + BETWEEN_RUNS_PX;
  }
  return heads.length > 1 ? heads : [];
}

/**
 * Lays runs out in rows that fill the sheet's width: each row's height gives, the last of a run stays as it is. Short runs
 * share a row.
 */
export function layOut(runs: readonly Run<Tile>[], width: number): SheetLayout {
  const rows: Row[] = [];
  let top = 0;
  let index = 0;
  for (let at = 0; at < runs.length; at++) {
    const run = runs[at]!;
    const together = run.items.length > SHORT_RUN ? [] : sharing(runs, at, width);
    if (together.length) {
      rows.push({ type: 'head', top, height: HEAD_PX, heads: together });
      top += HEAD_PX;
      const tiles = together.flatMap((head) => {
        let left = head.left;
        return head.run.items.map((tile): PlacedTile => {
          const placed = { tile, index: index++, left, width: aspectOf(tile) * ROW_PX };
          left += placed.width + GAP_PX;
          return placed;
        });
      });
      rows.push({ type: 'tiles', top, height: ROW_PX, tiles });
      top += ROW_PX + GAP_PX + RUN_GAP_PX;
      at += together.length - 1;
      continue;
    }
    rows.push({ type: 'head', top, height: HEAD_PX, heads: [{ run, left: 0, width }] });
    top += HEAD_PX;
    let row: Tile[] = [];
    let aspects = 0;
    const close = (fill: boolean) => {
      const room = width - GAP_PX * (row.length - 1);
      const height = fill ? room / aspects : Math.min(ROW_PX * 1.08, room / aspects);
      let left = 0;
      const tiles = row.map((tile): PlacedTile => {
        const placed = { tile, index: index++, left, width: aspectOf(tile) * height };
        left += placed.width + GAP_PX;
        return placed;
      });
      rows.push({ type: 'tiles', top, height, tiles });
      top += height + GAP_PX;
      row = [];
      aspects = 0;
    };
    for (const tile of run.items) {
      row.push(tile);
      aspects += aspectOf(tile);
      if (aspects * ROW_PX + GAP_PX * (row.length - 1) >= width) close(true);
    }
    if (row.length) close(aspects * ROW_PX > width * 0.82);
    top += RUN_GAP_PX;
  }
  return { rows, height: top };
}

/** Index of the first row that ends below a height: rows stand one under the other. */
export function rowAt(rows: readonly Row[], y: number): number {
  let [low, high] = [0, rows.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (rows[middle]!.top + rows[middle]!.height <= y) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Rows that can be seen, with about a row to spare above and below. */
export function rowsInView({ rows }: SheetLayout, scrollTop: number, viewHeight: number): Row[] {
  const spare = ROW_PX * 1.3;
  const from = rowAt(rows, scrollTop - spare);
  const to = rowAt(rows, scrollTop + viewHeight + spare);
  return rows.slice(from, to + 1);
}

export interface SeatedTile extends PlacedTile {
  readonly seat: number;
  readonly top: number;
  readonly height: number;
}

/**
 * Gives each tile in view one of a number of seats (its index modulo that number), so that scrolling changes what sits
 * in a seat and makes nothing anew. The seats must be at least as many as the tiles in view.
 */
export function seated(rows: readonly Row[], seats: number): SeatedTile[] {
  return rows
    .flatMap((row) =>
      row.type === 'tiles'
        ? row.tiles.map((placed) => ({ ...placed, seat: placed.index % seats, top: row.top, height: row.height }))
        : [],
    )
    .sort((a, b) => a.seat - b.seat);
}

/** Tiles that a drawn rectangle touches, in sheet coordinates. */
export function tilesWithin({ rows }: SheetLayout, box: { left: number; top: number; right: number; bottom: number }): Tile[] {
  return rows
    .slice(rowAt(rows, box.top), rowAt(rows, box.bottom) + 1)
    .flatMap((row) =>
      row.type === 'tiles' && row.top < box.bottom && row.top + row.height > box.top
        ? row.tiles.filter((placed) => placed.left < box.right && placed.left + placed.width > box.left).map(({ tile }) => tile)
        : [],
    );
}
