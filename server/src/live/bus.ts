import { LiveEvent } from '@tally/contract';
import { EventEmitter } from 'node:events';
import { setTimeout as sleep } from 'node:timers/promises';
import pLimit from 'p-limit';
import pg from 'pg';
import { cut, heed, keptLine } from '../db/line.js';
import { LIVE_CHANNEL } from './channel.js';

/** Live events from the database to this process's listeners. Reconnects by itself. */
export class Bus {
  private readonly emitter = new EventEmitter().setMaxListeners(0);
  private readonly stopping = new AbortController();
  private client: pg.Client | null = null;
  private loop: Promise<void> = Promise.resolve();

  constructor(private readonly url: string) {}

  start(): void {
    this.loop = this.run();
  }

  /** @returns a function that ends the listening. */
  listen(on: (event: LiveEvent) => void): () => void {
    this.emitter.on('event', on);
    return () => this.emitter.off('event', on);
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    await this.client?.end().catch(() => undefined);
    await this.loop;
  }

  private async run(): Promise<void> {
    while (!this.stopping.signal.aborted) {
      const client = new pg.Client(keptLine(this.url, 'tally-live'));
      this.client = client;
      const ended = new Promise<void>((resolve) => {
        client.once('end', resolve);
        client.on('error', () => resolve());
      });
      let stopHeeding: () => void = () => undefined;
      try {
        await client.connect();
        client.on('notification', ({ payload }) => this.pass(payload));
        const inTurn = pLimit(1);
        stopHeeding = heed(client, inTurn);
        await inTurn(() => client.query(`listen ${LIVE_CHANNEL}`));
        // Whatever was missed while nobody listened: everybody looks again.
        this.emitter.emit('event', { type: 'again' } satisfies LiveEvent);
        await ended;
      } catch {
        // The database is away; try again below.
      }
      stopHeeding();
      // What is lost cannot be asked to end.
      cut(client);
      await sleep(500, undefined, { signal: this.stopping.signal }).catch(() => undefined);
    }
  }

  private pass(payload: string | undefined): void {
    const event = LiveEvent.safeParse(JSON.parse(payload ?? 'null'));
    if (event.success) this.emitter.emit('event', event.data);
  }
}
