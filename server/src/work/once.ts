import type { Logger } from 'pino';

/** Things that go on behind a sweep, each at most once at a time: a slow one holds up nobody else. */
export class Once {
  private readonly underway = new Map<string, Promise<void>>();

  constructor(
    private readonly signal: AbortSignal,
    private readonly log: Logger,
  ) {}

  /** Runs something unless a thing of that name runs already. What fails is logged; the next sweep tries again. */
  readonly run = (name: string, work: (signal: AbortSignal) => Promise<unknown>): void => {
    if (this.underway.has(name) || this.signal.aborted) return;
    const done = work(this.signal)
      .catch((error: unknown) => {
        if (!this.signal.aborted) this.log.error({ work: name, error: (error as Error).message }, 'work was interrupted');
      })
      .then(() => void this.underway.delete(name));
    this.underway.set(name, done);
  };

  /** Resolves when all of it has come to rest. */
  async rest(): Promise<void> {
    await Promise.all(this.underway.values());
  }
}
