import type { Db } from '../db/database.js';
import type { CopyOutcome, Unfinished } from './store/filed.js';
import { type IntakeRow, tell } from '../house/index.js';

const EVERY_MS = 300;

/** How far a filing is, how fast it goes and how long it will take; told to whoever listens. */
export class Pace {
  private readonly started = Date.now();
  private readonly bytes: number;
  private readonly passes: number;
  private worked = 0;
  private itemsDone = 0;
  private told = 0;
  private telling: Promise<void> = Promise.resolve();

  /** Each byte is worked on once when it is copied and once for each place when it is proven. */
  constructor(
    private readonly db: Db,
    private readonly intake: IntakeRow,
    private readonly items: readonly Unfinished[],
    places: number,
  ) {
    this.bytes = items.reduce((sum, item) => sum + item.bytes, 0);
    this.passes = 1 + places;
  }

  add(bytes: number): void {
    this.worked += bytes;
    if (Date.now() - this.told > EVERY_MS) this.tell([], []);
  }

  /** Counts a batch and waits until it is told, so that nothing is told after the end. */
  async batchDone(batch: readonly Unfinished[], copies: readonly CopyOutcome[]): Promise<void> {
    const troubled = new Set(copies.filter((copy) => copy.state !== 'tallied').map((copy) => copy.filedItemId));
    this.itemsDone += batch.length;
    const ids = (bad: boolean) => batch.filter((item) => troubled.has(item.filedItemId) === bad).map((item) => item.itemId);
    this.tell(ids(false), ids(true));
    await this.telling;
  }

  private tell(tallied: number[], troubled: number[]): void {
    this.told = Date.now();
    const share = this.bytes ? Math.min(1, this.worked / (this.bytes * this.passes)) : 1;
    const elapsed = Math.max(1, Date.now() - this.started);
    const bytesDone = Math.round(this.bytes * share);
    const progress = {
      intakeId: this.intake.id,
      items: this.items.length,
      itemsDone: this.itemsDone,
      bytes: this.bytes,
      bytesDone,
      bytesPerSecond: Math.round((bytesDone * 1000) / elapsed),
      msLeft: share > 0.02 ? Math.round((elapsed * (1 - share)) / share) : null,
      tallied,
      troubled,
    };
    // Progress is a courtesy: when it cannot be told, the work goes on.
    this.telling = this.telling.then(() => tell(this.db, { type: 'progress', progress }).catch(() => undefined));
  }
}
