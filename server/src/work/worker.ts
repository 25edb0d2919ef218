import { setTimeout as sleep } from 'node:timers/promises';
import type { Logger } from 'pino';
import type { Intervals } from './intervals.js';
import { Once } from './once.js';
import type { JobKind, Queue } from './queue.js';

/** What a room has to do at a station, beside answering requests. */
export interface Work {
  /** Its jobs in the station's queue, so many at once. */
  readonly jobs?: readonly {
    readonly kind: JobKind;
    readonly lanes: number;
    readonly run: (id: number, once: Once) => void;
  }[];
  /** Finds what nobody works on, whether or not its job survived, and begins it. */
  readonly sweep?: (once: Once) => Promise<void>;
  /** Goes on until told to stop. */
  readonly loops?: readonly ((signal: AbortSignal) => Promise<void>)[];
}

/** Carries out the work of all rooms at a station, until told to stop. */
export class Worker {
  private readonly stopping = new AbortController();
  private readonly once: Once;
  private readonly loops: Promise<void>[] = [];

  constructor(
    private readonly works: readonly Work[],
    private readonly queue: Queue,
    private readonly station: string,
    private readonly intervals: Intervals,
    private readonly log: Logger,
  ) {
    this.once = new Once(this.stopping.signal, log);
  }

  async start(): Promise<void> {
    const { signal } = this.stopping;
    for (const { jobs = [], loops = [] } of this.works) {
      for (const { kind, lanes, run } of jobs) await this.queue.work(kind, this.station, lanes, (id) => run(id, this.once));
      this.loops.push(...loops.map((loop) => loop(signal)));
    }
    this.loops.push(this.sweep(signal));
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    await Promise.allSettled(this.loops);
    await this.once.rest();
  }

  private async sweep(signal: AbortSignal): Promise<void> {
    while (!signal.aborted) {
      for (const work of this.works) {
        await work.sweep?.(this.once).catch((error: unknown) => this.log.warn({ error: (error as Error).message }, 'sweep'));
      }
      // Ends early when told to stop.
      await sleep(this.intervals.sweepMs, undefined, { signal }).catch(() => undefined);
    }
  }
}
