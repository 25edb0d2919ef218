/** How often the house looks at what tells nobody when it changes, in milliseconds. */
export interface Intervals {
  /** What nobody works on: killed work, places that are back. */
  readonly sweepMs: number;
  /** What failed at a place that is here: how soon it is tried again the first time. */
  readonly retryMs: number;
  /** Readers: mounts raise no events that every system delivers. */
  readonly readersMs: number;
  /** How old what is known of cards that lie still may be. */
  readonly lyingMs: number;
  /** Files that arrived in a watched folder. */
  readonly arrivalsMs: number;
  /** What a watched folder holds, for what no event told. */
  readonly folderMs: number;
  /** Whether somebody wants a filing to pause or stop. */
  readonly haltMs: number;
  /** Jobs in the queue of which nobody was told. */
  readonly jobsMs: number;
  /** Somebody else watches a reader: how soon it is tried again. */
  readonly standbyMs: number;
  /** What others put on the places by hand: folders whose time says so. */
  readonly roundsMs: number;
}

export const INTERVALS: Intervals = {
  sweepMs: 3_000,
  retryMs: 10_000,
  readersMs: 350,
  lyingMs: 2_000,
  arrivalsMs: 200,
  folderMs: 5_000,
  haltMs: 400,
  jobsMs: 10_000,
  standbyMs: 1_000,
  roundsMs: 15_000,
};
