import { ChangeDetectionStrategy, Component, ElementRef, inject, input, signal, viewChild } from '@angular/core';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';

/** A secret that is shown now and never again: to be read, copied, or scanned. */
@Component({
  selector: 'ts-once-shown',
  imports: [ButtonModule, InputTextModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row">
      <input pInputText #box readonly class="mono" [attr.aria-label]="label()" [value]="secret()" (focus)="box.select()" />
      <button pButton type="button" (click)="copy()">{{ copied() ? 'Copied' : 'Copy' }}</button>
    </div>
    @if (picture(); as address) {
      <img [src]="address" alt="The same as a square code to scan" width="196" height="196" />
    }
    <p class="quiet">It is shown only now: copy it before you close this.</p>
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
    }
    .row {
      display: flex;
      gap: 8px;
    }
    input {
      flex: 1;
      min-width: 0;
    }
    img {
      padding: 12px;
      background: #fff;
      border: 1px solid var(--line);
      image-rendering: pixelated;
    }
  `,
})
export class OnceShown {
  readonly secret = input.required<string>();
  readonly label = input.required<string>();
  readonly picture = input<string | null>(null);
  protected readonly copied = signal(false);
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  private readonly page = inject(ElementRef) as ElementRef<HTMLElement>;

  protected copy(): void {
    // Without HTTPS a browser gives no clipboard: then it is marked, to be copied by hand.
    const clipboard = (this.page.nativeElement.ownerDocument.defaultView?.navigator as { clipboard?: Clipboard }).clipboard;
    if (!clipboard) this.box().nativeElement.select();
    else void clipboard.writeText(this.secret()).then(() => this.copied.set(true));
  }
}
