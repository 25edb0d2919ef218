import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import type { PlaceView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { DriveService } from '../api/drive.service';
import { wordsFor } from '../api/problem';
import { CountPipe } from '../shared/amounts';

/** *This is that drive*: somebody says knowingly that what stands at a place's path is the place. */
@Component({
  selector: 'ts-known-dialog',
  imports: [ButtonModule, DialogModule, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let one = place();
    <p-dialog
      header="This is that drive"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '560px' }"
    >
      <p>
        What stands at <code>{{ one.root }}</code> is {{ one.name }} from now on: it gets this place’s mark. Nothing else on it is
        changed.
      </p>
      @if (one.asks === 'no mark') {
        <p>
          It carries no mark. Be sure that the drive is mounted there, and that it is no empty folder: what is filed goes to it.
        </p>
      } @else {
        <p>
          It carries the mark of another house, or of an earlier life of this one. A house that still uses this drive will find it
          away, until somebody says the same there.
        </p>
      }
      <p class="quiet">
        The logbook has {{ one.copies | count: 'copy' : 'copies' }} at {{ one.name }}. A check tells which of them stand there,
        and what else does.
      </p>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Leave it</button>
        <button pButton type="button" [disabled]="working()" (click)="say()">It is {{ one.name }}</button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    p + p {
      margin-top: 10px;
    }
  `,
})
export class KnownDialog {
  readonly place = input.required<PlaceView>();
  readonly done = output();
  private readonly service = inject(DriveService);
  private readonly messages = inject(MessageService);
  protected readonly problem = signal('');
  protected readonly working = signal(false);

  protected say(): void {
    const { id, name } = this.place();
    this.working.set(true);
    this.service.known(id).subscribe({
      next: () => {
        this.messages.add({
          severity: 'success',
          summary: `${name} is here. Check it to compare it with the logbook.`,
          life: 8_000,
        });
        this.done.emit();
      },
      error: (error: unknown) => {
        this.working.set(false);
        this.problem.set(wordsFor(error));
      },
    });
  }
}
