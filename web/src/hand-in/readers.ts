import { Injectable, type OnDestroy } from '@angular/core';
import { Subject } from 'rxjs';
import type { Answer, Ask } from './messages';

/** Web workers that read and hash files, as many as half the processors; each file goes to the one with the least to do. */
@Injectable()
export class Readers implements OnDestroy {
  readonly answers = new Subject<Answer>();
  private readonly pool: { worker: Worker; busy: number }[] = [];

  ask(ask: Ask): void {
    if (!this.pool.length) this.open();
    const least = this.pool.reduce((a, b) => (b.busy < a.busy ? b : a));
    least.busy++;
    least.worker.postMessage(ask);
  }

  ngOnDestroy(): void {
    for (const { worker } of this.pool) worker.terminate();
    this.answers.complete();
  }

  private open(): void {
    const count = Math.max(1, Math.min(4, Math.floor((navigator.hardwareConcurrency || 2) / 2)));
    for (let i = 0; i < count; i++) {
      const slot = { worker: new Worker(new URL('./reading.worker', import.meta.url), { type: 'module' }), busy: 0 };
      slot.worker.onmessage = ({ data }: MessageEvent<Answer>) => {
        slot.busy--;
        this.answers.next(data);
      };
      this.pool.push(slot);
    }
  }
}
