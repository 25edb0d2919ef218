import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { Thing } from '@tally/contract';
import { DialogModule } from 'primeng/dialog';
import { switchMap } from 'rxjs';
import { LendingService } from '../api/lending.service';
import { HouseTimePipe } from '../shared/amounts';

/** Who had a thing, newest first. */
@Component({
  selector: 'ts-loans-dialog',
  imports: [DialogModule, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Who had ' + label()"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '520px' }"
    >
      <ul>
        @for (loan of loans() ?? []; track loan.since) {
          <li>
            <strong>{{ loan.to }}</strong>
            <span>{{ loan.since | houseTime: 'day' }} to {{ loan.back ? (loan.back | houseTime: 'day') : 'now' }}</span>
            <span class="quiet">lent by {{ loan.by }}{{ loan.note ? ' · ' + loan.note : '' }}</span>
          </li>
        } @empty {
          <li class="empty">{{ loans() ? 'It was never lent.' : 'Fetching' }}</li>
        }
      </ul>
    </p-dialog>
  `,
  styles: `
    li {
      display: grid;
      grid-template-columns: 1fr auto;
      padding: 8px 0;
      border-bottom: 1px solid var(--line);
    }
  `,
})
export class LoansDialog {
  readonly thing = input.required<Thing>();
  readonly done = output();
  private readonly lending = inject(LendingService);
  protected readonly label = computed(() => this.thing().label ?? this.thing().name);
  protected readonly loans = toSignal(toObservable(this.thing).pipe(switchMap((thing) => this.lending.loans(thing))));
}
