import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { ItemView } from '@tally/contract';
import { ASIDE_REASONS, type AsideReason, standingInWords } from '@tally/core/life';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { RadioButtonModule } from 'primeng/radiobutton';
import { CountPipe } from '../shared/amounts';
import { IntakeStore } from './intake-store';

const SAYS: Readonly<Record<AsideReason, string>> = {
  unreadable: 'unreadable: the card does not give it',
  gone: 'gone: it is not on the card any more',
  'not ours': 'not ours: it is nobody’s business here',
};
const SHOWN = 8;

/** Sets items aside with a reason: the intake goes on without them, and receipt, record and log say so. */
@Component({
  selector: 'ts-aside-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, RadioButtonModule, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Set ' + (items().length | count: 'item') + ' aside?'"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '560px' }"
    >
      <ul>
        @for (item of shown(); track item.id) {
          <li>
            <code>{{ item.path }}</code> <span class="quiet">{{ words(item) }}</span>
          </li>
        }
      </ul>
      @if (items().length > shown().length) {
        <p class="quiet">and {{ items().length - shown().length }} more</p>
      }
      <fieldset>
        <legend>Why</legend>
        @for (one of reasons; track one) {
          <label [for]="'why-' + one"
            ><p-radiobutton
              [inputId]="'why-' + one"
              name="why"
              [value]="one"
              [ngModel]="reason()"
              (ngModelChange)="reason.set($event)"
            />
            {{ says[one] }}</label
          >
        }
      </fieldset>
      <p class="quiet">
        The intake goes on without {{ items().length === 1 ? 'it' : 'them' }}. Nothing on the card is touched, and it can be taken
        again later.
      </p>
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Leave it</button>
        <button pButton type="button" [disabled]="!reason()" (click)="accept()">Set {{ items().length }} aside</button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    ul {
      max-height: 30vh;
      overflow-y: auto;
    }
    li {
      padding: 4px 0;
      overflow-wrap: anywhere;
    }
    fieldset {
      display: grid;
      gap: 4px;
      margin: 12px 0;
      padding: 0;
      border: 0;
    }
    legend {
      font-weight: 600;
      padding: 0 0 4px;
    }
    label {
      display: flex;
      gap: 10px;
      align-items: center;
      min-height: 32px;
    }
  `,
})
export class AsideDialog {
  private readonly store = inject(IntakeStore);
  readonly items = input.required<readonly ItemView[]>();
  readonly done = output();

  protected readonly reasons = ASIDE_REASONS;
  protected readonly says = SAYS;
  private readonly chosen = signal<AsideReason | null>(null);
  /** What the system said, unless somebody knows better. */
  protected readonly reason = Object.assign(
    computed<AsideReason | null>(() => this.chosen() ?? guessed(this.items())),
    { set: (reason: AsideReason) => this.chosen.set(reason) },
  );
  protected readonly shown = computed(() => this.items().slice(0, SHOWN));

  protected words(item: ItemView): string {
    return standingInWords(item, this.store.intake() ?? { tray: 'on the desk' });
  }

  protected accept(): void {
    const reason = this.reason();
    if (reason) this.store.goOnWithout(this.items(), reason, () => this.done.emit());
  }
}

/** ENOENT is the system's word for a file that is not there. */
function guessed(items: readonly ItemView[]): AsideReason | null {
  const problems = items.map((item) => item.copies.find(({ problem }) => problem !== null)?.problem ?? item.remark ?? '');
  if (problems.every((problem) => problem.includes('ENOENT'))) return 'gone';
  return problems.every((problem) => /cannot be read|EIO/.test(problem)) ? 'unreadable' : null;
}
