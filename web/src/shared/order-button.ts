import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';

/** How a list is in order by one of its columns; null: not by this one. As `aria-sort` has it. */
export type Ordered = 'ascending' | 'descending' | null;

/** @param by what a column orders by; null: nothing. */
export const orderedBy = <T extends string>(by: T | null, order: T, descending: boolean): Ordered =>
  by !== order ? null : descending ? 'descending' : 'ascending';

/** In the head of a column: puts the list in order by it, and shows whether it is. */
@Component({
  selector: 'ts-order-button',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button type="button" (click)="ask.emit()">
      {{ name() }}
      <i
        class="pi"
        [class.pi-sort-down-fill]="ordered() === 'descending'"
        [class.pi-sort-up-fill]="ordered() === 'ascending'"
        aria-hidden="true"
      ></i>
    </button>
  `,
  styles: `
    button {
      border: 0;
      padding: 4px 0;
      background: none;
      color: inherit;
      font: inherit;
      cursor: pointer;
    }
    .pi {
      font-size: 10px;
      color: var(--reed);
    }
    :host-context(th.right) button {
      direction: rtl;
    }
  `,
})
export class OrderButton {
  readonly name = input.required<string>();
  readonly ordered = input.required<Ordered>();
  readonly ask = output();
}
