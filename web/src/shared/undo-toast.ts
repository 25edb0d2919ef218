import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MessageService, type ToastMessageOptions } from 'primeng/api';
import { ToastModule } from 'primeng/toast';
import type { Observable } from 'rxjs';
import { wordsFor } from '../api/problem';

/** How to take something back: what the button says, and what it does. */
export interface Undo {
  readonly words: string;
  readonly undo: () => Observable<unknown>;
}

const UNDO_MS = 15_000;

/** A message about something that was done, with a moment to take it back. */
export const undoable = (summary: string, data: Undo): ToastMessageOptions => ({
  ...{ key: 'undo', severity: 'success', life: UNDO_MS, summary, data },
});

/** Where messages with a way back are shown. */
@Component({
  selector: 'ts-undo-toast',
  imports: [ToastModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-toast key="undo" position="bottom-right">
      <ng-template #message let-message>
        <span class="said">{{ message.summary }}</span>
        <button type="button" (click)="takeBack(message.data)">{{ message.data.words }}</button>
      </ng-template>
    </p-toast>
  `,
  styles: `
    .said {
      flex: 1;
      font-weight: 600;
    }
    button {
      min-height: 32px;
      padding: 0 12px;
      border: 1px solid currentColor;
      border-radius: 6px;
      background: none;
      color: inherit;
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
  `,
})
export class UndoToast {
  private readonly messages = inject(MessageService);

  protected takeBack({ undo }: Undo): void {
    this.messages.clear('undo');
    undo().subscribe({
      next: () => this.messages.add({ severity: 'info', summary: 'Taken back.', life: 4000 }),
      error: (error: unknown) => this.messages.add({ severity: 'error', summary: wordsFor(error), life: 8000 }),
    });
  }
}
