import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { pullingOfView } from '../shared/pull-lamp';
import { IntakeStore } from './intake-store';

/** Something on the card waits for it: is it pulled all the same? */
@Component({
  selector: 'ts-pull-dialog',
  imports: [DialogModule, ButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Let it go all the same?"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '480px' }"
    >
      <p>
        It still waits: {{ why() }}. What is not filed stays on the card, and goes on when the card is in a reader again. Nothing
        is lost.
      </p>
      <ng-template #footer>
        <button pButton type="button" (click)="accept.emit()">Let it go</button>
      </ng-template>
    </p-dialog>
  `,
})
export class PullDialog {
  private readonly store = inject(IntakeStore);
  readonly done = output();
  readonly accept = output();
  protected readonly why = computed(() => {
    const intake = this.store.intake();
    return intake ? (pullingOfView(intake).why ?? '') : '';
  });
}
