import { ChangeDetectionStrategy, Component, input, numberAttribute } from '@angular/core';
import { IntakeView } from './intake-view';

/** The page of an intake. Another id is another view with a store of its own: nothing of the one before stays. */
@Component({
  selector: 'ts-intake',
  imports: [IntakeView],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (one of [id()]; track one) {
      <ts-intake-view [id]="one" />
    }
  `,
})
export class IntakePage {
  readonly id = input.required({ transform: numberAttribute });
}
