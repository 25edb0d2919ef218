import { setTimeout as sleep } from 'node:timers/promises';

const LONGEST_WAIT_MS = 400;

/** Lets what somebody is looking at go first: work behind it waits for a calm moment, though never long. */
export class Urgency {
  private urgent = 0;

  /** Somebody waits from now on. @returns to be called when they have what they waited for. */
  begin(): () => void {
    this.urgent++;
    let ended = false;
    return () => {
      if (!ended) this.urgent--;
      ended = true;
    };
  }

  /** Resolves when nobody waits for anything, or after a while all the same. */
  readonly calm = async (): Promise<void> => {
    for (let waited = 0; this.urgent > 0 && waited < LONGEST_WAIT_MS; waited += 20) await sleep(20);
  };
}
