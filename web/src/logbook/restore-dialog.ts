import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { IntakeSummary, RestoreAnswer } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { RadioButtonModule } from 'primeng/radiobutton';
import { finalize, map, switchMap } from 'rxjs';
import { DeskService } from '../api/desk.service';
import { IntakesService } from '../api/intakes.service';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { BytesPipe, CountPipe } from '../shared/amounts';

/** Puts the files of an intake back on a card that lies in a reader: original names, folders and times. */
@Component({
  selector: 'ts-restore-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, RadioButtonModule, BytesPipe, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Restore as it was on the card"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '560px' }"
    >
      <p>
        {{ intake().filed | count: 'file' }} of intake {{ intake().number }} go back under their original names, folders and
        times, byte for byte. Nothing that stands on the card is replaced.
      </p>
      @if (problem(); as words) {
        <p class="attention" role="alert">{{ words }}</p>
      }
      @if (answer(); as now) {
        <p role="status">
          <b>{{ now.restored | count: 'file' }}</b> restored, {{ now.bytes | bytes }}, each read back and compared.
        </p>
        @if (now.failed.length) {
          <p class="attention" role="alert">
            {{ now.failed.length | count: 'file' }} could not be:
            @for (one of now.failed.slice(0, 5); track one.path) {
              <code>{{ one.path }}: {{ one.why }}</code>
            }
          </p>
        }
      } @else {
        <fieldset [disabled]="busy()">
          <legend>Onto which card?</legend>
          @for (card of cards(); track card.id) {
            <label [for]="'card-' + card.id">
              <p-radiobutton
                [inputId]="'card-' + card.id"
                name="card"
                [value]="card.id"
                [ngModel]="chosen()"
                (ngModelChange)="chosen.set($event)"
              />
              <span class="tape">{{ card.card.label ?? 'no label' }}</span> {{ card.card.volume }}
              <span class="quiet">{{ card.clearedAt ? 'cleared' : (card.items | count: 'item') }}</span>
            </label>
          } @empty {
            <p class="empty">No card is in a reader. Put one in, and it shows here.</p>
          }
        </fieldset>
      }
      <ng-template #footer>
        @if (answer()) {
          <button pButton type="button" (click)="done.emit()">Close</button>
        } @else {
          <button pButton type="button" [disabled]="chosen() === null || busy()" (click)="restore()">
            {{ busy() ? 'Restoring' : 'Restore ' + (intake().filed | count: 'file') }}
          </button>
        }
      </ng-template>
    </p-dialog>
  `,
  styles: `
    fieldset {
      border: 0;
      padding: 0;
      margin-top: 12px;
    }
    label {
      display: flex;
      gap: 10px;
      align-items: center;
      min-height: 40px;
    }
    code {
      display: block;
      overflow-wrap: anywhere;
    }
  `,
})
export class RestoreDialog {
  private readonly service = inject(IntakesService);
  private readonly desk = inject(DeskService);
  readonly intake = input.required<IntakeSummary>();
  readonly done = output();

  private readonly onTheDesk = toSignal(
    inject(LiveService)
      .whenever('desk')
      .pipe(
        switchMap(() => this.desk.desk()),
        map((desk) => [...desk.in, ...desk.onTheDesk, ...desk.toGiveBack]),
      ),
    { initialValue: [] },
  );
  /** This intake's own card first. */
  protected readonly cards = computed(() => {
    const own = this.intake().card.id;
    const here = this.onTheDesk().filter(({ present, handedIn }) => present && !handedIn);
    return [...here.filter(({ card }) => card.id === own), ...here.filter(({ card }) => card.id !== own)];
  });
  protected readonly chosen = signal<number | null>(null);
  protected readonly busy = signal(false);
  protected readonly problem = signal('');
  protected readonly answer = signal<RestoreAnswer | null>(null);

  protected restore(): void {
    const cardOf = this.chosen();
    if (cardOf === null || this.busy()) return;
    this.busy.set(true);
    this.problem.set('');
    this.service
      .restore(this.intake().id, cardOf)
      .pipe(finalize(() => this.busy.set(false)))
      .subscribe({
        next: (answer) => this.answer.set(answer),
        error: (error: unknown) => this.problem.set(wordsFor(error)),
      });
  }
}
