import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { NotThere } from '../shell/not-there';
import { IntakeView } from './intake-view';

/** The page of an intake. Another id is another view with a store of its own: nothing of the one before stays. */
@Component({
  selector: 'ts-intake',
  imports: [IntakeView, NotThere],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (one of [id()]; track one) {
      @if (one === null) {
        <ts-not-there what="This is no intake" />
      } @else {
        <ts-intake-view [id]="one" />
      }
    }
  `,
})
export class IntakePage {
  /** Null: what stands in the address is no number of an intake. */
  readonly id = input.required({ transform: (text: unknown) => (/^\d{1,9}$/.test(String(text)) ? Number(text) : null) });
}
