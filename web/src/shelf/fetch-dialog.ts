import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { DialogModule } from 'primeng/dialog';
import { RadioButtonModule } from 'primeng/radiobutton';
import { catchError, of, switchMap } from 'rxjs';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { BytesPipe, CountPipe } from '../shared/amounts';
import type { Meant } from './shelf-foot';

/** Originals go out: what may not be shown, has to be asked for or is away is said first. */
@Component({
  selector: 'ts-fetch-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, CheckboxModule, RadioButtonModule, BytesPipe, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Fetch ' + (meant().count | count: 'original') + '?'"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '560px' }"
    >
      @if (before(); as said) {
        <p>{{ said.items | count: 'file' }}, {{ said.bytes | bytes }}, as one zip: the files as they stand on the drive.</p>
        @for (line of said.no; track line.words) {
          <p class="trouble">
            <b>{{ line.items | count: 'item' }}:</b> {{ line.words }}
          </p>
        }
        @for (line of said.ask; track line.words) {
          <p class="attention">
            <b>{{ line.items | count: 'item' }}:</b> {{ line.words }}
          </p>
        }
        @if (said.away) {
          <p class="attention">
            {{ said.away | count: 'item' }}: no place that has a copy is here. They are named in the zip and left out.
          </p>
        }
        <fieldset>
          <legend>Names</legend>
          <label for="names-house"
            ><p-radiobutton inputId="names-house" name="names" value="house" [(ngModel)]="names" /> by the house, in its
            folders</label
          >
          <label for="names-card"
            ><p-radiobutton inputId="names-card" name="names" value="card" [(ngModel)]="names" /> as on the card, under the
            intake’s number</label
          >
        </fieldset>
        @if (said.no.length || said.ask.length) {
          <label class="sure" for="fetch-sure"
            ><p-checkbox inputId="fetch-sure" [binary]="true" [(ngModel)]="sure" /> I have read this, and they may go out</label
          >
        }
      } @else if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      } @else {
        <div class="skeleton" style="height: 80px"></div>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Not now</button>
        <a
          pButton
          [class.p-disabled]="!ready()"
          [attr.href]="ready() ? address() : null"
          download="originals.zip"
          (click)="gone()"
          >Fetch {{ meant().count.toLocaleString() }}</a
        >
      </ng-template>
    </p-dialog>
  `,
  styles: `
    p {
      margin-bottom: 8px;
    }
    fieldset {
      display: grid;
      gap: 4px;
      margin: 12px 0;
      padding: 0;
      border: 0;
    }
    legend {
      padding: 0 0 4px;
      font-weight: 600;
    }
    label {
      display: flex;
      gap: 10px;
      align-items: center;
      min-height: 28px;
    }
  `,
})
export class FetchDialog {
  readonly meant = input.required<Meant>();
  readonly done = output();
  private readonly service = inject(ShelfService);
  protected readonly problem = signal('');
  protected readonly names = signal<'house' | 'card'>('house');
  protected readonly sure = signal(false);
  protected readonly before = toSignal(
    toObservable(this.meant).pipe(
      switchMap(({ what }) =>
        this.service.beforeFetching(what).pipe(
          catchError((error: unknown) => {
            this.problem.set(wordsFor(error));
            return of(null);
          }),
        ),
      ),
    ),
    { initialValue: null },
  );
  protected readonly ready = computed(() => {
    const said = this.before();
    return said !== null && said.items > said.away && (this.sure() || !(said.no.length || said.ask.length));
  });
  protected readonly address = computed(() => this.service.zipOf(this.meant().what, this.names()));

  protected gone(): void {
    if (this.ready()) setTimeout(() => this.done.emit());
  }
}
