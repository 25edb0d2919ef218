import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { AlikeAnswer, FoundItem } from '@tally/contract';
import { DialogModule } from 'primeng/dialog';
import { catchError, of, switchMap } from 'rxjs';
import { RouterLink } from '@angular/router';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { Picture } from '../sheet/picture';

const GROUPS = [
  { how: 'the same', title: 'The same picture, also in other sizes' },
  { how: 'beside', title: 'The frames beside it' },
  { how: 'looks like it', title: 'What looks like it' },
] as const;

/** What is like an item, over everything that is filed. A press goes on from there. */
@Component({
  selector: 'ts-alike-dialog',
  imports: [DialogModule, Picture, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Alike"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '860px' }"
    >
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      @for (group of groups(); track group.title) {
        <section>
          <h3>{{ group.title }}</h3>
          @if (group.found.length) {
            <ul>
              @for (one of group.found; track one.item.id) {
                <li>
                  <button type="button" [attr.aria-label]="'What is like ' + one.item.filedAs" (click)="at.set(one.item.id)">
                    <ts-picture [item]="one.item" />
                  </button>
                  <a [routerLink]="['/shelf']" [queryParams]="{ q: 'intake:' + one.item.intake.number }" (click)="done.emit()">{{
                    one.item.intake.number
                  }}</a>
                  <span class="quiet">{{ size(one.item) }}{{ one.bits === null ? '' : ', ' + one.bits + ' of 64 differ' }}</span>
                </li>
              }
            </ul>
          } @else {
            <p class="quiet">none</p>
          }
        </section>
      } @empty {
        <div class="skeleton" style="height: 200px"></div>
      }
    </p-dialog>
  `,
  styles: `
    section {
      padding-bottom: 14px;
    }
    h3 {
      font-size: 15px;
      padding-bottom: 6px;
    }
    ul {
      display: flex;
      flex-wrap: wrap;
      gap: 10px;
    }
    li {
      display: grid;
      width: 148px;
      font-size: 13px;
    }
    li a {
      justify-self: start;
      min-height: 24px;
      line-height: 24px;
    }
    li button {
      width: 148px;
      height: 99px;
      padding: 0;
      border: 1px solid var(--line);
      background: none;
      cursor: pointer;
    }
  `,
})
export class AlikeDialog {
  readonly itemId = input.required<number>();
  readonly done = output();
  private readonly service = inject(ShelfService);
  protected readonly problem = signal('');
  /** Where one went on to. */
  protected readonly at = signal<number | null>(null);
  private readonly alike = toSignal(
    toObservable(computed(() => this.at() ?? this.itemId())).pipe(
      switchMap((id) =>
        this.service.alike(id).pipe(
          catchError((error: unknown) => {
            this.problem.set(wordsFor(error));
            return of([] as AlikeAnswer);
          }),
        ),
      ),
    ),
    { initialValue: null },
  );
  protected readonly groups = computed(() => {
    const alike = this.alike();
    return alike ? GROUPS.map(({ how, title }) => ({ title, found: alike.filter((one) => one.how === how) })) : [];
  });

  protected size({ width, height }: FoundItem): string {
    return width && height ? `${width} × ${height}` : 'no size known';
  }
}
