import { ChangeDetectionStrategy, Component, effect, inject, input, output, signal } from '@angular/core';
import type { MendView } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DriveService } from '../api/drive.service';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { May } from '../shared/may';

/** What was mended, the newest first: done, still to follow somewhere, taken back. */
@Component({
  selector: 'ts-mends-list',
  imports: [May, ButtonModule, CountPipe, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ol>
      @for (one of mends(); track one.id) {
        <li>
          <span class="quiet time">{{ one.at | houseTime: 'short' }}</span>
          <div>
            <p>{{ one.words }}.</p>
            <p class="quiet">{{ one.who }}, {{ one.items | count: 'file' }}, {{ standing(one) }}</p>
            @for (problem of one.problems; track $index) {
              <p class="attention">{{ problem }}</p>
            }
          </div>
          @if (one.state === 'needs attention') {
            <button pButton type="button" tsMay="mend" class="p-button-outlined" (click)="again(one)">Try again</button>
          } @else if (one.takesBack === null && one.takenBackBy === null && !one.emptiedAt) {
            <button pButton type="button" tsMay="mend" class="p-button-outlined" (click)="back.emit(one.id)">Take back…</button>
          } @else {
            <span></span>
          }
        </li>
      } @empty {
        <li class="empty">Nothing was mended yet. What is found, moved or re-filed is listed here and can be taken back.</li>
      }
    </ol>
    @if (next() !== null) {
      <button type="button" class="plain" (click)="more()">Show more</button>
    }
  `,
  styles: `
    li:not(.empty) {
      display: grid;
      grid-template-columns: 130px minmax(0, 1fr) auto;
      gap: 12px;
      align-items: start;
      padding: 10px 0;
      border-bottom: 1px solid var(--line);
    }
  `,
})
export class MendsList {
  readonly stamp = input<unknown>(null);
  readonly back = output<number>();
  private readonly service = inject(DriveService);
  protected readonly mends = signal<readonly MendView[]>([]);
  protected readonly next = signal<number | null>(null);

  constructor() {
    effect(() => {
      this.stamp();
      this.service.mends().subscribe(({ mends, next }) => {
        this.mends.set(mends);
        this.next.set(next);
      });
    });
  }

  /** How it stands, what waits for which place, and how long what was put aside is kept. */
  protected standing(one: MendView): string {
    const waits = one.waiting.map(({ place, moves }) => `${place} has ${moves} ${moves === 1 ? 'move' : 'moves'} to make`);
    const kept = one.keptUntil && !one.emptiedAt ? [`kept until ${one.keptUntil} at least`] : [];
    return [this.state(one), ...waits, ...kept].join('; ');
  }

  private state(one: MendView): string {
    if (one.takenBackBy !== null) return 'taken back';
    if (one.emptiedAt) return 'removed for good';
    return one.state === 'done' ? 'done everywhere' : one.state;
  }

  protected again(one: MendView): void {
    this.service.tryAgain(one.id).subscribe();
  }

  protected more(): void {
    this.service.mends(this.next()).subscribe(({ mends, next }) => {
      this.mends.update((before) => [...before, ...mends]);
      this.next.set(next);
    });
  }
}
