import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { HandInLinkView } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { HandInService } from '../api/hand-in.service';
import { wordsFor } from '../api/problem';
import { HouseTimePipe } from '../shared/amounts';

/** Makes a link that is good for a day, for somebody who hands in from elsewhere. */
@Component({
  selector: 'ts-hand-in-link',
  imports: [ButtonModule, DialogModule, InputTextModule, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button pButton type="button" class="p-button-outlined" (click)="open.set(true)">Hand-in link</button>
    <p-dialog
      header="Hand in from elsewhere"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="open()"
      (visibleChange)="close()"
      [style]="{ width: '620px' }"
    >
      @if (link(); as made) {
        <p>Whoever opens this can hand in, and nothing else, until {{ made.expiresAt | houseTime: 'long' }}.</p>
        <div class="row">
          <input pInputText #box readonly class="mono" aria-label="Hand-in link" [value]="address()" (focus)="box.select()" />
          <button pButton type="button" (click)="copy()">{{ copied() ? 'Copied' : 'Copy' }}</button>
        </div>
        <p class="quiet">It is shown only now: copy it before you close this.</p>
      } @else {
        <p>A link is good for a day. Whoever opens it can hand in from any browser, and do nothing else.</p>
        <div class="row">
          <button pButton type="button" (click)="make()">Make a link</button>
          <a pButton class="p-button-outlined" href="/hand-in" target="_blank" rel="noopener">Open the hand-in page here</a>
        </div>
      }
    </p-dialog>
    @if (problem()) {
      <p class="attention" role="alert">{{ problem() }}</p>
    }
  `,
  styles: `
    .row {
      display: flex;
      gap: 8px;
      margin: 12px 0;
    }
    input {
      flex: 1;
    }
  `,
})
export class HandInLink {
  private readonly service = inject(HandInService);
  protected readonly open = signal(false);
  protected readonly link = signal<HandInLinkView | null>(null);
  protected readonly problem = signal('');
  protected readonly copied = signal(false);
  protected readonly address = computed(() => `${globalThis.location.origin}/hand-in#k=${this.link()?.token ?? ''}`);

  /** Its secret is shown once: a link that was made is not made again by looking. */
  protected close(): void {
    this.open.set(false);
    this.link.set(null);
  }

  protected make(): void {
    this.copied.set(false);
    this.service.makeLink(24).subscribe({
      next: (link) => this.link.set(link),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  protected copy(): void {
    void navigator.clipboard.writeText(this.address()).then(() => this.copied.set(true));
  }
}
