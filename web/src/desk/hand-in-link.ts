import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { ButtonModule } from 'primeng/button';
import { LinkDialog } from '../shared/link-dialog';

/** From the desk: a link for somebody who hands in from elsewhere. */
@Component({
  selector: 'ts-hand-in-link',
  imports: [ButtonModule, LinkDialog],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button pButton type="button" class="p-button-outlined" (click)="open.set(true)">Hand-in link</button>
    <ts-link-dialog [open]="open()" (closed)="open.set(false)" />
  `,
})
export class HandInLink {
  protected readonly open = signal(false);
}
