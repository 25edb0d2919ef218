import type { Run } from '@tally/core/card';
import type { Tile } from './intake-store';

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

export type Row =
  | { readonly type: 'head'; readonly top: number; readonly height: number; readonly run: Run<Tile> }
  | {
      readonly type: 'tiles';
      readonly top: number;
      readonly height: number;
      readonly run: Run<Tile>;
      readonly tiles: readonly PlacedTile[];
    };

export interface SheetLayout {
  readonly rows: readonly Row[];
  readonly height: number;
}

/** Width over height as the picture is seen; what has no picture gets an ordinary one's. */
export function aspectOf(tile: Tile): number {
  const { width, height, kind } = tile.lead;
  if (kind === 'sound') return 1.7;
  if (!width || !height) return 1.5;
  return Math.min(2.6, Math.max(0.56, width / height));
}

/** Lays runs out in rows that fill the sheet's width: each row's height gives, the last of a run stays as it is. */
export function layOut(runs: readonly Run<Tile>[], width: number): SheetLayout {
  const rows: Row[] = [];
  let top = 0;
  let index = 0;
  for (const run of runs) {
    rows.push({ type: 'head', top, height: HEAD_PX, run });
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
      rows.push({ type: 'tiles', top, height, run, tiles });
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

/** Rows that can be seen, with some to spare. */
export function rowsInView(layout: SheetLayout, scrollTop: number, viewHeight: number): Row[] {
  const spare = viewHeight;
  return layout.rows.filter((row) => row.top + row.height > scrollTop - spare && row.top < scrollTop + viewHeight + spare);
}
