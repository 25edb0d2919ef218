import { ChangeDetectionStrategy, Component, inject, input, output, signal, type OnInit } from '@angular/core';
import type { MendAsk, MendPlan } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { DriveService } from '../api/drive.service';
import { wordsFor } from '../api/problem';
import { CountPipe } from '../shared/amounts';
import { Path } from '../shared/path';

/** What a mend would do, before it is done: every old name beside its new one, folders made and emptied, what is in its way. */
@Component({
  selector: 'ts-mend-dialog',
  imports: [DialogModule, ButtonModule, CountPipe, Path],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="back() ? 'Take back' : 'Mend'"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit(false)"
      [style]="{ width: '860px' }"
    >
      @if (plan(); as one) {
        <p class="words">{{ one.words }}.</p>
        @if (one.faults.length) {
          <div class="attention" role="alert">
            <p>{{ one.faults.length | count: 'thing is' : 'things are' }} in its way. Nothing is begun until that is settled.</p>
            <ul>
              @for (fault of one.faults.slice(0, 12); track $index) {
                <li><ts-path [of]="fault.path" />: {{ fault.why }}</li>
              }
            </ul>
          </div>
        }
        @if (one.folders.length) {
          <h3>Folders</h3>
          <table class="names">
            @for (step of one.folders; track $index) {
              <tr>
                <td><ts-path [of]="step.from" /></td>
                <td aria-hidden="true">→</td>
                <td><ts-path [of]="step.to" /></td>
                <td class="quiet">{{ step.place ?? 'everywhere' }}</td>
              </tr>
            }
          </table>
        }
        @if (one.steps.length) {
          <h3>{{ one.steps.length + one.moreSteps | count: 'file' }}</h3>
          <div class="list" tabindex="0" role="region" aria-label="Old and new names">
            <table class="names">
              <thead>
                <tr>
                  <th scope="col">now</th>
                  <th></th>
                  <th scope="col">then</th>
                  <th scope="col">where</th>
                </tr>
              </thead>
              <tbody>
                @for (step of one.steps; track $index) {
                  <tr>
                    <td><ts-path [of]="step.from" /></td>
                    <td aria-hidden="true">→</td>
                    <td><ts-path [of]="step.to" /></td>
                    <td class="quiet">{{ step.place ?? 'everywhere' }}</td>
                  </tr>
                }
              </tbody>
            </table>
            @if (one.moreSteps) {
              <p class="quiet">and {{ one.moreSteps.toLocaleString() }} more</p>
            }
          </div>
        }
        <ul class="also">
          @for (words of one.also; track $index) {
            <li>{{ words }}</li>
          }
          @if (one.makes.length) {
            <li>
              New folders: <span class="mono">{{ one.makes.slice(0, 6).join(', ') }}</span>{{
                one.makes.length > 6 ? ' and ' + (one.makes.length - 6) + ' more' : ''
              }}
            </li>
          }
          @if (one.empties.length) {
            <li>
              Folders that are left, and go if nothing else stands in them:
              <span class="mono">{{ one.empties.slice(0, 6).join(', ') }}</span>
            </li>
          }
          @for (place of one.places; track place.name) {
            <li>{{ place.name }} follows {{ place.now ? 'now' : 'when it is back' }}.</li>
          }
        </ul>
      } @else if (!problem()) {
        <div class="skeleton" style="height: 160px"></div>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit(false)">Leave it</button>
        <button pButton type="button" [disabled]="!canDo() || working()" (click)="accept()">
          {{ back() ? 'Take back' : 'Do it' }}{{ plan()?.items ? ': ' + (plan()!.items | count: 'file') : '' }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    .words {
      font-size: 15px;
      margin-bottom: 8px;
    }
    h3 {
      font-size: 15px;
      margin: 10px 0 4px;
    }
    .list {
      max-height: 320px;
      overflow: auto;
    }
    .names {
      width: 100%;
      border-collapse: collapse;
      font-size: 13px;
    }
    .names td {
      padding: 4px 8px 4px 0;
      border-bottom: 1px solid var(--line);
      vertical-align: top;
    }
    .also {
      margin-top: 10px;
      display: grid;
      gap: 4px;
      font-size: 13px;
    }
  `,
})
export class MendDialog implements OnInit {
  readonly ask = input<MendAsk | null>(null);
  /** Id of a mend that is to be taken back. */
  readonly back = input<number | null>(null);
  /** true: something was begun. */
  readonly done = output<boolean>();
  private readonly service = inject(DriveService);
  private readonly messages = inject(MessageService);

  protected readonly plan = signal<MendPlan | null>(null);
  protected readonly problem = signal('');
  protected readonly working = signal(false);

  /** Nothing is in its way, and something comes of it. */
  protected canDo(): boolean {
    const plan = this.plan();
    return plan !== null && !plan.faults.length && plan.items + plan.folders.length > 0;
  }

  ngOnInit(): void {
    const [ask, back] = [this.ask(), this.back()];
    const planned = back !== null ? this.service.planBack(back) : ask ? this.service.plan(ask) : null;
    planned?.subscribe({ next: (plan) => this.plan.set(plan), error: this.failed });
  }

  protected accept(): void {
    const [ask, back, plan] = [this.ask(), this.back(), this.plan()];
    if (!plan) return;
    this.working.set(true);
    if (back !== null) {
      this.service.takeBack(back).subscribe({ next: () => this.begun(), error: this.failed });
      return;
    }
    if (!ask) return;
    this.service.mend(ask, plan.seal).subscribe({
      next: (answer) => {
        if (answer.outcome === 'begun') return this.begun();
        this.working.set(false);
        this.plan.set(answer.plan);
        this.problem.set('Others changed something in between: this is what would happen now.');
      },
      error: this.failed,
    });
  }

  private begun(): void {
    this.messages.add({
      severity: 'success',
      summary: 'Begun. Places follow as they are there; it can be taken back.',
      life: 6_000,
    });
    this.done.emit(true);
  }

  private readonly failed = (error: unknown) => {
    this.working.set(false);
    this.problem.set(wordsFor(error));
  };
}
