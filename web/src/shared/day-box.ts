import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { DatePickerModule } from 'primeng/datepicker';
import { SessionService } from '../api/session.service';

/** A box for a calendar day in the house's order of day and month, whatever the browser thinks. Speaks `yyyy-MM-dd`. */
@Component({
  selector: 'ts-day-box',
  imports: [FormsModule, DatePickerModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-datepicker
      [inputId]="inputId()"
      [ariaLabel]="label()"
      [dateFormat]="format()"
      [placeholder]="placeholder() || example()"
      [showIcon]="true"
      iconDisplay="input"
      [showButtonBar]="true"
      [minDate]="least()"
      [firstDayOfWeek]="1"
      appendTo="body"
      size="small"
      fluid
      [ngModel]="date()"
      (ngModelChange)="said($event)"
    />
  `,
  styles: `
    :host {
      display: block;
      min-width: 132px;
    }
  `,
})
export class DayBox {
  readonly inputId = input('');
  readonly label = input.required<string>();
  readonly placeholder = input('');
  /** The day, `yyyy-MM-dd`; empty: none. */
  readonly day = input<string>('');
  readonly min = input<string>('');
  readonly dayChange = output<string>();

  private readonly dates = inject(SessionService).dates;
  protected readonly format = computed(() => (this.dates() === 'day first' ? 'dd/mm/yy' : 'mm/dd/yy'));
  protected readonly example = computed(() => (this.dates() === 'day first' ? 'dd/mm/yyyy' : 'mm/dd/yyyy'));
  protected readonly date = computed(() => dateOf(this.day()));
  protected readonly least = computed(() => dateOf(this.min()));

  protected said(date: Date | null): void {
    this.dayChange.emit(date ? dayOf(date) : '');
  }
}

// The calendar knows days of this browser's own zone: only the figures of the day are taken from it.
const dateOf = (day: string): Date | null => {
  const [year, month, date] = day.split('-').map(Number);
  return year && month && date ? new Date(year, month - 1, date) : null;
};
const two = (n: number) => String(n).padStart(2, '0');
const dayOf = (date: Date): string => `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
