import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { MultiSelectModule } from 'primeng/multiselect';
import { PopoverModule } from 'primeng/popover';
import { catchError, combineLatest, EMPTY, filter, map, of, startWith, switchMap } from 'rxjs';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { focusBack } from '../shared/focus-back';
import { IntakeStore } from './intake-store';

/** The bundles that everything of the card goes into as it is filed. Not there while the house has no bundle. */
@Component({
  selector: 'ts-bundle-clause',
  imports: [FormsModule, PopoverModule, MultiSelectModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (bundles().length) {
      Also into{{ ' ' }}
      <button #word type="button" class="into" [class.none]="!said().length" title="Bundles" (click)="box.toggle($event)">
        {{ words() }}</button><p-popover #box ariaLabel="Bundles" (onHide)="back(word, box)">
        <label class="field" for="slip-bundles"
          ><span>Everything that is filed of this card goes into</span>
          <p-multiselect
            inputId="slip-bundles"
            ariaLabel="Bundles"
            display="chip"
            placeholder="no bundle"
            optionLabel="name"
            optionValue="id"
            [options]="bundles()"
            [ngModel]="ids()"
            (ngModelChange)="say($event)"
          />
        </label>
      </p-popover>
    }
  `,
  styles: `
    :host {
      display: block;
      font-size: 13px;
    }
    .into {
      padding: 0 1px;
      border: 0;
      border-bottom: 2px dotted var(--reed);
      background: none;
      color: var(--reed);
      font: inherit;
      font-weight: 560;
      line-height: 1.25;
      text-align: start;
      cursor: pointer;
    }
    .into.none {
      border-color: var(--line);
      color: var(--quiet);
      font-weight: 440;
    }
    .field {
      width: 320px;
    }
  `,
})
export class BundleClause {
  private readonly store = inject(IntakeStore);
  private readonly service = inject(ShelfService);
  protected readonly back = focusBack;
  protected readonly bundles = toSignal(this.service.bundles.pipe(catchError(() => of([]))), { initialValue: [] });
  /** Said here, before the server has told it. */
  private readonly asked = signal(0);
  private readonly id = computed(() => this.store.intake()?.id ?? null);
  private readonly moved = inject(LiveService).events.pipe(
    filter(({ type }) => type === 'shelf' || type === 'again'),
    startWith(null),
  );
  protected readonly said = toSignal(
    combineLatest([toObservable(this.id), toObservable(this.asked), this.moved]).pipe(
      map(([id]) => id),
      switchMap((id) => (id === null ? of([]) : this.service.bundlesOfSlip(id).pipe(catchError(() => EMPTY)))),
    ),
    { initialValue: [] },
  );
  protected readonly ids = computed(() => this.said().map(({ id }) => id));
  protected readonly words = computed(() =>
    this.said().length
      ? this.said()
          .map(({ name }) => `“${name}”`)
          .join(' and ')
      : 'no bundle',
  );

  protected say(bundleIds: readonly number[]): void {
    const id = this.id();
    if (id === null) return;
    this.service.sayBundles(id, bundleIds).subscribe({
      next: () => this.asked.update((n) => n + 1),
      error: (error: unknown) => this.store.warn(wordsFor(error)),
    });
  }
}
