import { ChangeDetectionStrategy, Component, input, output, viewChild, type ElementRef } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { InputTextModule } from 'primeng/inputtext';

/** A box to type words into; `/` brings the cursor here from anywhere on the page. */
@Component({
  selector: 'ts-find-box',
  imports: [FormsModule, InputTextModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label>
      <span class="visually-hidden">{{ label() }}</span>
      <i class="pi pi-search" aria-hidden="true"></i>
      <input
        #box
        pInputText
        [placeholder]="placeholder()"
        [ngModel]="words()"
        (ngModelChange)="typed.emit($event)"
        (keydown.enter)="sought.emit(box.value)"
      />
      <kbd aria-hidden="true">/</kbd>
    </label>
  `,
  styles: `
    :host {
      display: block;
      position: relative;
    }
    .pi {
      position: absolute;
      left: 12px;
      top: 11px;
      color: var(--quiet);
    }
    input {
      width: 100%;
      padding-left: 36px;
    }
    kbd {
      position: absolute;
      right: 8px;
      top: 7px;
      border: 1px solid var(--line);
      border-radius: 4px;
      padding: 0 7px;
      color: var(--quiet);
      font: 13px var(--font-mono);
    }
  `,
  host: { role: 'search', '(document:keydown./)': 'focus($event)' },
})
export class FindBox {
  readonly label = input.required<string>();
  readonly placeholder = input.required<string>();
  readonly words = input<string>();
  readonly typed = output<string>();
  readonly sought = output<string>();
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');

  protected focus(event: Event): void {
    if (event.target instanceof HTMLInputElement) return;
    event.preventDefault();
    this.box().nativeElement.focus();
  }
}
