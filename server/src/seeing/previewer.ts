import { setTimeout as sleep } from 'node:timers/promises';
import { filedPicturesAhead, FROM_THE_NEWEST, pictureAhead } from './picture-ahead.js';
import { answerPictures } from './pictures-elsewhere.js';
import type { House } from '../house/index.js';

/** Should nobody tell that there is something to see. */
const PAUSE_MS = 10_000;
/** Between pictures of what is filed: nobody waits for these. */
const UNHURRIED_MS = 150;
/** So long after all of it was looked at it is looked for again. */
const FILED_AGAIN_MS = 120_000;
/** What comes together is looked at together. */
const TOGETHER_MS = 300;

/** Makes previews ahead in the background, and those that other stations ask for, until told to stop. */
export class Previewer {
  private readonly stopping = new AbortController();
  private loop: Promise<void> = Promise.resolve();
  private answering: Promise<void> | null = null;
  private isWanted = false;
  /** Says that something was heard of since the last look. */
  private somethingNew = new AbortController();
  private deaf: () => void = () => undefined;

  constructor(private readonly house: House) {}

  start(): void {
    const { live, settings } = this.house;
    this.deaf = live.listen((event) => {
      if (['items', 'intake', 'again', 'desk'].includes(event.type)) this.somethingNew.abort();
      const isMine = event.type === 'pictures wanted' && event.station === settings.station;
      // What was asked while nobody listened is found too.
      if (isMine || event.type === 'again') this.answer();
    });
    if (this.house.settings.previews.build === 'ahead') this.loop = this.run();
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    this.deaf();
    await this.answering;
    await this.loop;
  }

  /** Until nobody asks any more. */
  private answer(): void {
    this.isWanted = true;
    this.answering ??= this.answerAll()
      .catch((error: unknown) => this.house.log.warn({ error: (error as Error).message }, 'making previews for others'))
      .finally(() => (this.answering = null));
  }

  private async answerAll(): Promise<void> {
    // Who asks while this goes on is heard, and found by another look.
    while (this.takesWish()) while ((await answerPictures(this.house)) > 0);
  }

  private takesWish(): boolean {
    const wanted = this.isWanted && !this.stopping.signal.aborted;
    this.isWanted = false;
    return wanted;
  }

  private async run(): Promise<void> {
    const { signal } = this.stopping;
    let filedBelow: number | null = FROM_THE_NEWEST;
    let nextFiled = 0;
    while (!signal.aborted) {
      this.somethingNew = new AbortController();
      const made = await pictureAhead(this.house).catch((error: unknown) => {
        this.house.log.warn({ error: (error as Error).message }, 'making previews');
        return 0;
      });
      if (made > 0) continue;
      if (filedBelow !== null && !this.somethingNew.signal.aborted) {
        filedBelow = await filedPicturesAhead(this.house, filedBelow).catch((error: unknown) => {
          this.house.log.warn({ error: (error as Error).message }, 'making previews of what is filed');
          return null;
        });
        if (filedBelow === null) nextFiled = Date.now() + FILED_AGAIN_MS;
        await sleep(UNHURRIED_MS, undefined, { signal }).catch(() => undefined);
        continue;
      }
      // What was filed since, and places that are back, are looked at after a while.
      if (filedBelow === null && Date.now() > nextFiled) filedBelow = FROM_THE_NEWEST;
      // Ends early when there is something new, or when told to stop.
      await sleep(PAUSE_MS, undefined, { signal: AbortSignal.any([signal, this.somethingNew.signal]) }).catch(() => undefined);
      await sleep(TOGETHER_MS, undefined, { signal }).catch(() => undefined);
    }
  }
}
