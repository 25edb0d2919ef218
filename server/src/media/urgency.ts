import { setTimeout as sleep } from 'node:timers/promises';

const LONGEST_WAIT_MS = 400;

/** Lets what somebody is looking at go first: work behind it waits for a calm moment, though never long. */
export class Urgency {
  private urgent = 0;

  /** Runs something that a person waits for. */
  async first<T>(run: () => Promise<T>): Promise<T> {
    this.urgent++;
    try {
      return await run();
    } finally {
      this.urgent--;
    }
  }

  /** Resolves when nobody waits for anything, or after a while all the same. */
  readonly calm = async (): Promise<void> => {
    for (let waited = 0; this.urgent > 0 && waited < LONGEST_WAIT_MS; waited += 20) await sleep(20);
  };
}
