import type { Settings } from '../settings.js';

/** What the frame gives the commands of a room. `H`: the house, as the rooms know it. */
export interface Frame<H> {
  /** Ends when somebody presses Ctrl-C. */
  readonly signal: AbortSignal;
  /** Runs with an open database, and keeps what it answers as the exit code. The command line does the work itself. */
  withHouse(run: (house: H) => Promise<number>): Promise<void>;
  /** Runs with the settings alone, before there is a house: its database may be empty. */
  withSettings(run: (settings: Settings) => Promise<number>): Promise<void>;
  /** The same for what needs no house. */
  alone(run: () => Promise<number>): Promise<void>;
  /** The house's time zone, where there are settings; else the system's. */
  zone(): string;
}
