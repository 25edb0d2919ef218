import { Injectable, type OnDestroy } from '@angular/core';
import type { RuleMaterial } from '@tally/contract';
import type { RuleSource } from '@tally/core/rule';
import { Subject } from 'rxjs';
import type { TriedOrFault } from './trying';

export type TryAsk =
  | { readonly kind: 'material'; readonly material: RuleMaterial }
  | { readonly kind: 'try'; readonly id: number; readonly source: RuleSource; readonly other: RuleSource | null };

export interface TryAnswer {
  readonly id: number;
  readonly outcome: TriedOrFault;
}

/** Tries rules in a web worker, one at a time: while one is tried, only the newest that waits is kept. */
@Injectable()
export class TrialRunner implements OnDestroy {
  readonly outcomes = new Subject<TriedOrFault>();
  private worker: Worker | null = null;
  private busy = false;
  private waiting: (TryAsk & { kind: 'try' }) | null = null;
  private asked = 0;

  use(material: RuleMaterial): void {
    this.send({ kind: 'material', material });
  }

  try(source: RuleSource, other: RuleSource | null): void {
    const ask = { kind: 'try', id: ++this.asked, source, other } as const;
    if (this.busy) this.waiting = ask;
    else this.start(ask);
  }

  ngOnDestroy(): void {
    this.worker?.terminate();
    this.outcomes.complete();
  }

  private start(ask: TryAsk & { kind: 'try' }): void {
    this.busy = true;
    this.send(ask);
  }

  private send(ask: TryAsk): void {
    this.worker ??= this.open();
    this.worker.postMessage(ask);
  }

  private open(): Worker {
    const worker = new Worker(new URL('./trying.worker', import.meta.url), { type: 'module' });
    // A rule that breaks the worker must not keep the next one from being tried.
    worker.onerror = () => (this.busy = false);
    worker.onmessage = ({ data }: MessageEvent<TryAnswer>) => {
      this.busy = false;
      const next = this.waiting;
      this.waiting = null;
      if (next) this.start(next);
      // What is out of date by now is not worth showing.
      else if (data.id === this.asked) this.outcomes.next(data.outcome);
    };
    return worker;
  }
}
