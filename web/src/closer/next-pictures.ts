import { Injectable, type OnDestroy } from '@angular/core';
import type { Tile } from '../sheet/tiles';

/** In which order neighbours are fetched: what comes next first. */
const NEIGHBOURS = [1, 2, -1, 3];

/** Fetches and decodes the pictures that are likely to be looked at next, and lets go of the others. */
@Injectable()
export class NextPictures implements OnDestroy {
  private readonly ready = new Map<string, HTMLImageElement>();
  private stop = new AbortController();

  prepare(tiles: readonly Tile[], focus: number, across: number): void {
    this.stop.abort();
    this.stop = new AbortController();
    const wanted = NEIGHBOURS.map((step) => tiles[focus + (step > 0 ? step + across - 1 : step)])
      .filter((tile) => tile !== undefined && (tile.lead.kind === 'photo' || tile.lead.kind === 'raw'))
      .map((tile) => `/api/items/${tile!.lead.id}/picture/closer`);
    const here = `/api/items/${tiles[focus]?.lead.id}/picture/closer`;
    for (const url of this.ready.keys()) if (url !== here && !wanted.includes(url)) this.ready.delete(url);
    void this.fetch(wanted, this.stop.signal);
  }

  ngOnDestroy(): void {
    this.stop.abort();
  }

  /** One after the other, so that the picture on screen never waits for them. */
  private async fetch(urls: readonly string[], signal: AbortSignal): Promise<void> {
    for (const url of urls) {
      if (this.ready.has(url)) continue;
      try {
        // The header makes it yield on the server; the answer is the same, so the browser's cache serves the picture itself.
        const answer = await fetch(url, { signal, headers: { 'X-Next': '1' } });
        if (!answer.ok) continue;
        await answer.blob();
        const image = new Image();
        image.src = url;
        await image.decode();
        this.ready.set(url, image);
      } catch {
        if (signal.aborted) return;
      }
    }
  }
}
