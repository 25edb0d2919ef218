import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { MessageService } from 'primeng/api';
import { AutoCompleteModule } from 'primeng/autocomplete';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { of, switchMap } from 'rxjs';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { CountPipe } from '../shared/amounts';
import { undoable } from '../shared/undo-toast';
import type { Meant } from './shelf-foot';

/** Puts items into a bundle: one that is there, or a new one by its name. */
@Component({
  selector: 'ts-bundle-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, AutoCompleteModule, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="(meant().count | count: 'item') + ' into a bundle'"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '460px' }"
    >
      <label class="field" for="bundle-name"
        ><span>Bundle</span>
        <p-autocomplete
          inputId="bundle-name"
          ariaLabel="Bundle"
          placeholder="Its name; a new name makes a new bundle"
          [dropdown]="true"
          dropdownAriaLabel="Show bundles"
          [suggestions]="found()"
          appendTo="body"
          fluid
          (completeMethod)="typed.set($event.query)"
          [ngModel]="name()"
          (ngModelChange)="name.set($event ?? '')"
          (keydown.enter)="accept()"
        />
      </label>
      <p class="quiet">A bundle holds no files: an item may stand in several, and stays where it is when a bundle is removed.</p>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Not now</button>
        <button pButton type="button" [disabled]="!name().trim()" (click)="accept()">
          {{ known() ? 'Put them in' : 'Make it and put them in' }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    p {
      margin-top: 10px;
    }
  `,
})
export class BundleDialog {
  readonly meant = input.required<Meant>();
  readonly done = output();
  private readonly service = inject(ShelfService);
  private readonly messages = inject(MessageService);
  private readonly bundles = toSignal(this.service.bundles, { initialValue: [] });
  protected readonly typed = signal('');
  protected readonly name = signal('');
  protected readonly problem = signal('');
  protected readonly found = computed(() => {
    const typed = this.typed().toLowerCase();
    return this.bundles()
      .map(({ name }) => name)
      .filter((name) => name.toLowerCase().includes(typed))
      .slice(0, 30);
  });
  protected readonly known = computed(() =>
    this.bundles().find(({ name }) => name.toLowerCase() === this.name().trim().toLowerCase()),
  );

  protected accept(): void {
    const name = this.name().trim();
    if (!name) return;
    const { what } = this.meant();
    const known = this.known();
    const bundle = known ? of(known) : this.service.makeBundle(name, null);
    bundle.pipe(switchMap(({ id }) => this.service.putInto(id, what))).subscribe({
      next: ({ bundle: now, changed }) => {
        this.done.emit();
        const summary = `${changed} put into “${now.name}”: ${now.items} now.`;
        const undo = () => this.service.takeOut(now.id, 'itemIds' in what ? what.itemIds : []);
        this.messages.add(
          changed && 'itemIds' in what
            ? undoable(summary, { words: 'Take them out', undo })
            : { severity: 'success', summary, life: 5_000 },
        );
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
