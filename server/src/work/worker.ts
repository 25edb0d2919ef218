import { setTimeout as sleep } from 'node:timers/promises';
import type { Logger } from 'pino';
import type { Bus } from '../live/bus.js';
import type { Intervals } from './intervals.js';
import { Once } from './once.js';
import type { JobKind, Queue } from './queue.js';

/** What a room has to do at a station, beside answering requests. */
export interface Work {
  /** Its jobs in the station's queue: each only begins what is to be done. */
  readonly jobs?: readonly {
    readonly kind: JobKind;
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
  private deaf: () => void = () => undefined;

  constructor(
    private readonly works: readonly Work[],
    private readonly queue: Queue,
    private readonly station: string,
    private readonly intervals: Intervals,
    private readonly log: Logger,
    private readonly live: Pick<Bus, 'listen'>,
  ) {
    this.once = new Once(this.stopping.signal, log);
  }

  async start(): Promise<void> {
    const { signal } = this.stopping;
    for (const { jobs = [], loops = [] } of this.works) {
      for (const { kind, run } of jobs) await this.queue.work(kind, this.station, (id) => run(id, this.once));
      this.loops.push(...loops.map((loop) => loop(signal)));
    }
    this.deaf = this.live.listen((event) => {
      if (event.type === 'work' && event.station === this.station) this.queue.wake(event.kind);
    });
    this.loops.push(this.sweep(signal));
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    this.deaf();
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
