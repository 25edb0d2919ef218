import { ChangeDetectionStrategy, Component, computed, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { LABEL_FORMS, type LabelForm } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputNumberModule } from 'primeng/inputnumber';
import { SelectButtonModule } from 'primeng/selectbutton';

/** Labels to print for new cards: a sheet or a tape, with a bar code each. The browser prints them. */
@Component({
  selector: 'ts-labels-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, InputNumberModule, SelectButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Print labels"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '460px' }"
    >
      <p>The next free labels, each with a bar code that a hand scanner types. A scan anywhere on the desk opens its card.</p>
      <div class="row">
        <label for="label-count">How many</label>
        <p-inputnumber
          inputId="label-count"
          [min]="1"
          [max]="240"
          [showButtons]="true"
          [ngModel]="count()"
          (ngModelChange)="count.set($event ?? 1)"
        />
      </div>
      <div class="row">
        <span id="label-form">Onto</span>
        <p-selectbutton
          ariaLabelledBy="label-form"
          [options]="forms"
          optionLabel="words"
          optionValue="value"
          [allowEmpty]="false"
          [ngModel]="form()"
          (ngModelChange)="form.set($event)"
        />
      </div>
      @if (form() === 'sheet') {
        <div class="row">
          <label for="label-skip">Used up on the first sheet</label>
          <p-inputnumber
            inputId="label-skip"
            [min]="0"
            [max]="23"
            [showButtons]="true"
            [ngModel]="skip()"
            (ngModelChange)="skip.set($event ?? 0)"
          />
        </div>
      }
      <ng-template #footer>
        <a pButton [href]="address()" target="_blank" rel="noopener"
          >Open {{ count() }} {{ count() === 1 ? 'label' : 'labels' }}</a
        >
      </ng-template>
    </p-dialog>
  `,
  styles: `
    .row {
      display: grid;
      grid-template-columns: 180px 1fr;
      align-items: center;
      min-height: 48px;
    }
  `,
})
export class LabelsDialog {
  readonly done = output();
  protected readonly forms = LABEL_FORMS.map((value) => ({ value, words: value === 'sheet' ? 'a sheet, 3 × 8' : 'tape' }));
  protected readonly count = signal(24);
  protected readonly form = signal<LabelForm>('sheet');
  protected readonly skip = signal(0);
  protected readonly address = computed(() => {
    const skip = this.form() === 'sheet' ? this.skip() : 0;
    return `/api/labels.pdf?${new URLSearchParams({ count: `${this.count()}`, form: this.form(), skip: `${skip}` }).toString()}`;
  });
}
