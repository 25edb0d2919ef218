import { ChangeDetectionStrategy, Component, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { IntakesService } from '../api/intakes.service';
import { IntakeStore } from './intake-store';

/** Says what stands on the card's tape; the next free label is proposed. */
@Component({
  selector: 'ts-label-picker',
  imports: [FormsModule, ButtonModule, InputTextModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="say()">
      <label class="field"
        ><span>What does the tape say?</span><input pInputText class="mono" name="label" maxlength="24" [(ngModel)]="label"
      /></label>
      <button pButton type="submit" [disabled]="!label().trim()">Label it {{ label() }}</button>
    </form>
  `,
  styleUrl: '../shared/small-form.css',
})
export class LabelPicker {
  readonly done = output();
  private readonly store = inject(IntakeStore);
  protected readonly label = signal(this.store.intake()?.card.label ?? '');

  constructor() {
    if (this.label()) return;
    inject(IntakesService)
      .nextLabel()
      .subscribe((next) => this.label.set(next));
  }

  protected say(): void {
    this.store.say({ cardLabel: this.label() });
    this.done.emit();
  }
}
