import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { catchError, of } from 'rxjs';
import { ShelfService } from '../api/shelf.service';

/** Standing questions that something new answers, until somebody looks. */
@Component({
  selector: 'ts-fresh-on-shelf',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (fresh().length) {
      <h2>New on the shelf</h2>
      <ul>
        @for (one of fresh(); track one.id) {
          <li>
            <a
              [routerLink]="['/shelf']"
              [queryParams]="{ q: one.question.text, standing: one.id }"
              [title]="one.question.sentence"
              ><b>{{ one.fresh.toLocaleString() }} new</b> {{ one.fresh === 1 ? 'answers' : 'answer' }} “{{ one.name }}”</a
            >
          </li>
        }
      </ul>
    }
  `,
  styles: `
    ul {
      padding: 4px 0 14px;
    }
    a {
      display: block;
      min-height: 28px;
      padding: 3px 0;
    }
  `,
})
export class FreshOnShelf {
  private readonly standing = toSignal(inject(ShelfService).standing.pipe(catchError(() => of([]))), { initialValue: [] });
  protected readonly fresh = computed(() => this.standing().filter(({ tells, fresh }) => tells && fresh > 0));
}
