import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { HandInLinkView } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { DoorService } from '../api/door.service';
import { wordsFor } from '../api/problem';
import { HouseTimePipe } from './amounts';
import { OnceShown } from './once-shown';
import { BoundsFields, UNBOUND, type BoundTo } from './bounds';

const HOURS = [
  { value: 3, words: 'three hours' },
  { value: 24, words: 'a day' },
  { value: 72, words: 'three days' },
  { value: 168, words: 'a week' },
  { value: 744, words: '31 days' },
];

/** Makes a link by which somebody hands in from elsewhere, and shows it once: as an address and as a code to scan. */
@Component({
  selector: 'ts-link-dialog',
  imports: [FormsModule, ButtonModule, DialogModule, InputTextModule, SelectModule, BoundsFields, OnceShown, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Hand in from elsewhere"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="open()"
      (visibleChange)="close()"
      [style]="{ width: '640px' }"
    >
      @if (link(); as made) {
        <p class="said">Whoever opens this can hand in, and do nothing else, until {{ made.expiresAt | houseTime: 'long' }}.</p>
        <ts-once-shown label="Hand-in link" [secret]="made.address" [picture]="made.picture" />
      } @else {
        <form (ngSubmit)="make()">
          <div class="two">
            <label class="field"
              ><span>What it is for</span><input pInputText name="name" maxlength="80" placeholder="class 7b" [(ngModel)]="name"
            /></label>
            <label class="field" for="link-hours"
              ><span>Good for</span>
              <p-select
                inputId="link-hours"
                ariaLabel="Good for"
                name="hours"
                [options]="spans"
                optionLabel="words"
                optionValue="value"
                appendTo="body"
                fluid
                [(ngModel)]="hours"
              />
            </label>
          </div>
          <ts-bounds [given]="nothing" (changed)="bounds = $event" />
          @if (problem()) {
            <p class="attention" role="alert">{{ problem() }}</p>
          }
          <div class="row">
            <button pButton type="submit">Make a link</button>
            <a pButton class="p-button-outlined" href="/hand-in" target="_blank" rel="noopener">Open the hand-in page here</a>
          </div>
        </form>
      }
    </p-dialog>
  `,
  styles: `
    form {
      display: grid;
      gap: 12px;
    }
    .two {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 12px;
    }
    .row {
      display: flex;
      gap: 8px;
    }
    .said {
      margin-bottom: 12px;
    }
    input {
      width: 100%;
    }
  `,
})
export class LinkDialog {
  private readonly door = inject(DoorService);
  readonly open = input.required<boolean>();
  readonly closed = output<HandInLinkView | null>();
  protected readonly spans = HOURS;
  protected readonly nothing = UNBOUND;
  protected readonly link = signal<HandInLinkView | null>(null);
  protected readonly problem = signal('');
  protected name = '';
  protected hours = 24;
  protected bounds: BoundTo = UNBOUND;

  protected make(): void {
    this.problem.set('');
    this.door.makeLink({ name: this.name, hours: this.hours, ...this.bounds }).subscribe({
      next: (link) => this.link.set(link),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  /** Its secret is shown once: a link that was made is not made again by looking. */
  protected close(): void {
    this.closed.emit(this.link());
    this.link.set(null);
    this.problem.set('');
    this.name = '';
    this.bounds = UNBOUND;
  }
}
