import { setTimeout as sleep } from 'node:timers/promises';
import { pictureAhead } from './picture-ahead.js';
import type { House } from '../house/index.js';

const PAUSE_MS = 700;

/** Makes previews ahead in the background, until told to stop. */
export class Previewer {
  private readonly stopping = new AbortController();
  private loop: Promise<void> = Promise.resolve();

  constructor(private readonly house: House) {}

  start(): void {
    if (this.house.settings.previews.build === 'ahead') this.loop = this.run();
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    await this.loop;
  }

  private async run(): Promise<void> {
    const { signal } = this.stopping;
    while (!signal.aborted) {
      const made = await pictureAhead(this.house).catch((error: unknown) => {
        this.house.log.warn({ error: (error as Error).message }, 'making previews');
        return 0;
      });
      if (made === 0) await sleep(PAUSE_MS, undefined, { signal }).catch(() => undefined);
    }
  }
}
