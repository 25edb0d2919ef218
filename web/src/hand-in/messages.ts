import type { WallClock } from '@tally/core/capture';

/** What the page asks a worker to do with a file. */
export type Ask =
  | { readonly kind: 'read'; readonly id: number; readonly file: File; readonly zone: string }
  | { readonly kind: 'hash'; readonly id: number; readonly file: File };

/** What a worker found. */
export type Answer =
  | {
      readonly kind: 'read';
      readonly id: number;
      readonly quickHash: string;
      readonly captured: WallClock;
      readonly thumbnail: Blob | null;
    }
  | { readonly kind: 'hash'; readonly id: number; readonly hash: string }
  | { readonly kind: 'failed'; readonly id: number; readonly why: string };
