import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { CountPipe } from '../shared/amounts';
import { PullLamp } from '../shared/pull-lamp';
import { IntakeStore } from './intake-store';
import { May } from '../shared/may';

/** A moment before a card is given back: what still lies on it, and that it is pulled out first. */
@Component({
  selector: 'ts-give-back-dialog',
  imports: [May, DialogModule, ButtonModule, CountPipe, PullLamp],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Give ' + card() + ' back?'"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '520px' }"
    >
      @if (store.intake()?.present) {
        @if (letsGo()) {
          <p class="pull">
            <i class="pi pi-eject" aria-hidden="true"></i> <b>Let it go first, then pull it out of the reader.</b>
            <button type="button" class="plain" [disabled]="store.lettingGo()" (click)="store.letGo(true)">Let it go</button>
          </p>
        } @else {
          <p class="pull"><i class="pi pi-eject" aria-hidden="true"></i> <b>Pull it out of the reader first.</b></p>
        }
      } @else if (store.intake()?.letGo === 'done') {
        <p class="pull"><ts-pull-lamp [intake]="store.intake()!" /></p>
      }
      @if (onIt(); as n) {
        <p>
          It was not cleared: it still holds {{ n === 1 ? 'its' : 'all' }} {{ n | count: 'file' }}. Whoever gets it has them, and
          clears the card in the camera.
        </p>
      } @else {
        <p>It was cleared: nothing of this intake is on it any more.</p>
      }
      @if (store.counts().left; as left) {
        <p class="attention">
          {{ left | count: 'item' }} on it {{ left === 1 ? 'was' : 'were' }} left, and stand{{ left === 1 ? 's' : '' }} nowhere
          else.
        </p>
      }
      <ng-template #footer>
        @if (store.intake()?.present && onIt()) {
          <button pButton type="button" class="p-button-outlined" tsMay="clear" (click)="clear.emit()">Clear it first…</button>
        }
        <button pButton type="button" (click)="accept.emit()">Give back</button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    p + p {
      margin-top: 8px;
    }
    .pull {
      font-size: 18px;
    }
  `,
})
export class GiveBackDialog {
  protected readonly store = inject(IntakeStore);
  readonly done = output();
  readonly accept = output();
  readonly clear = output();

  protected readonly card = computed(() => this.store.intake()?.card.label ?? 'this card');
  protected readonly letsGo = computed(() => this.store.intake()?.reader?.letsGo ?? false);
  protected readonly onIt = computed(() => this.store.material().filter((item) => item.goneAt === null).length);
}
