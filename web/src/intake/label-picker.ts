import { ChangeDetectionStrategy, Component, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { HandedIn, OnInsert } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { DeskService } from '../api/desk.service';
import { IntakesService } from '../api/intakes.service';
import { IntakeStore } from './intake-store';

/** Says what stands on the card's tape; the next free label is proposed. */
@Component({
  selector: 'ts-label-picker',
  imports: [FormsModule, ButtonModule, InputTextModule, SelectModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (handedIn().length) {
      <div class="handed">
        <span class="quiet">Handed in and not read yet</span>
        @for (card of handedIn(); track card.cardId) {
          <button pButton type="button" class="p-button-outlined" (click)="is(card.label!)">
            {{ card.label }}{{ card.from ? ' from ' + card.from.name : '' }}
          </button>
        }
      </div>
    }
    <form (ngSubmit)="say()">
      <label class="field"
        ><span>What does the tape say?</span><input pInputText class="mono" name="label" [(ngModel)]="label"
      /></label>
      @if (label().trim().length > most) {
        <p class="attention" role="alert">A label has at most {{ most }} characters; this has {{ label().trim().length }}.</p>
      }
      <button pButton type="submit" [disabled]="!label().trim() || label().trim().length > most">Label it {{ label() }}</button>
    </form>
    <div class="field next">
      <span id="on-insert">When this card is put in again</span>
      <p-select
        [options]="actions"
        optionLabel="words"
        optionValue="key"
        [ngModel]="store.intake()?.card?.onInsert"
        (ngModelChange)="store.say({ onInsert: $event })"
        ariaLabelledBy="on-insert"
        appendTo="body"
      />
    </div>
  `,
  styles: `
    .handed {
      display: grid;
      gap: 6px;
    }
    .next {
      margin-top: 14px;
    }
  `,
  styleUrl: '../shared/small-form.css',
})
export class LabelPicker {
  readonly done = output();
  protected readonly most = 24;
  protected readonly store = inject(IntakeStore);
  protected readonly actions: { key: OnInsert; words: string }[] = [
    { key: 'show', words: 'just show it on the desk' },
    { key: 'open', words: 'open it here' },
    { key: 'take all new', words: 'take everything new, and wait' },
    { key: 'file all new', words: 'take and file everything new' },
  ];
  protected readonly label = signal(this.store.intake()?.card.label ?? '');

  /** A card that lies in the tray and was not read may be this one. */
  protected readonly handedIn = signal<readonly HandedIn[]>([]);

  constructor() {
    if (this.label()) return;
    inject(DeskService)
      .desk()
      .subscribe(({ handedIn }) => this.handedIn.set(handedIn.filter(({ label }) => label !== null)));
    inject(IntakesService)
      .nextLabel()
      .subscribe((next) => this.label.set(next));
  }

  protected is(label: string): void {
    this.label.set(label);
    this.say();
  }

  protected say(): void {
    this.store.say({ cardLabel: this.label() });
    this.done.emit();
  }
}
