import { ChangeDetectionStrategy, Component, inject, output } from '@angular/core';
import { ContributorBox } from '../shared/contributor-box';
import { IntakeStore } from './intake-store';

/** Says who handed the card in. */
@Component({
  selector: 'ts-contributor-picker',
  imports: [ContributorBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<ts-contributor-box label="Who took these?" (chosen)="choose($event)" />`,
})
export class ContributorPicker {
  readonly done = output();
  private readonly store = inject(IntakeStore);

  protected choose(contributorId: number): void {
    this.store.say({ contributorId });
    this.done.emit();
  }
}
