import { Injectable, signal } from '@angular/core';

/** Who takes what a hand scanner reads: a page that has a use for it, else the shell. */
@Injectable({ providedIn: 'root' })
export class Scans {
  /** Answers whether it took the label. */
  readonly taker = signal<((label: string) => boolean) | null>(null);
}
