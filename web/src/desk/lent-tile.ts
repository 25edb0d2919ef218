import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Thing } from '@tally/contract';
import { loanWords } from '../shared/loan-words';

/** Something that is lent: to whom, until when; overdue it calls for attention. */
@Component({
  selector: 'ts-lent-tile',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="card" tabindex="0" role="group" [attr.aria-label]="thing().label + ' is with ' + thing().loan!.to.name">
      <span class="top"
        ><span class="tape">{{ thing().label ?? thing().name }}</span
        ><span class="quiet">{{ what() }}</span></span
      >
      <strong>{{ thing().loan!.to.name }}</strong>
      <span class="foot">
        <span class="quiet" [class.trouble]="thing().loan!.standing === 'overdue'">{{ says() }}</span>
        <button type="button" class="plain" [attr.aria-label]="'Back: ' + thing().label" (click)="back.emit()">Back</button>
      </span>
    </div>
  `,
  styleUrl: './card-shape.css',
  host: { '[class.line]': 'line()' },
  styles: `
    .foot {
      display: flex;
      justify-content: space-between;
      align-items: baseline;
      gap: 8px;
    }
  `,
})
export class LentTile {
  readonly thing = input.required<Thing>();
  readonly line = input(false);
  readonly back = output();
  protected readonly says = computed(() => loanWords(this.thing().loan!));
  protected readonly what = computed(() => (this.thing().kind === 'card' ? '' : this.thing().name || this.thing().kind));
}
