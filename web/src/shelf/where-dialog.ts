import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { WhereAnswer } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { catchError, of, switchMap } from 'rxjs';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { CopyMark } from '../shared/copy-mark';
import { May } from '../shared/may';

const CALLED = 'tally-share-of-';

/** What this machine calls a place: `\\server\\share`, `/Volumes/Shared`; '' where nobody said. */
const calledHere = (placeId: string): string => localStorage.getItem(CALLED + placeId) ?? '';

/** A path as this machine writes it: with the separators that its name of the share has. */
export function pathHere(called: string, path: string): string {
  const backwards = called.includes('\\') || /^[A-Za-z]:/.test(called);
  const root = called.replace(/[\\/]+$/, '');
  return backwards ? `${root}\\${path.replaceAll('/', '\\')}` : `${root}/${path}`;
}

/** Where an item stands at each place, as the share is called here, and what it came with. */
@Component({
  selector: 'ts-where-dialog',
  imports: [May, RouterLink, DialogModule, ButtonModule, InputTextModule, CopyMark],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Where is it"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '680px' }"
    >
      @if (where(); as it) {
        <ul>
          @for (place of it.places; track place.id) {
            <li>
              <h3>
                <ts-copy [place]="place.name" [state]="place.state" />
                @if (!place.online) {
                  <span class="attention">away</span>
                }
              </h3>
              <code>{{ pathAt(place) }}</code>
              <span class="acts">
                <button type="button" class="plain" (click)="copy(pathAt(place))">Copy path</button>
                <label [attr.for]="'called-' + place.id" class="quiet">called here</label>
                <input
                  pInputText
                  pSize="small"
                  [id]="'called-' + place.id"
                  placeholder="the share’s name on this machine"
                  [value]="called(place.id)"
                  (change)="call(place.id, $any($event.target).value)"
                />
              </span>
            </li>
          }
        </ul>
        <dl>
          <dt>Intake</dt>
          <dd>
            <a [routerLink]="['/logbook', it.intake.id]">{{ it.intake.number }}</a>
          </dd>
          <dt>Card</dt>
          <dd>
            {{ it.card.label }}, <code>{{ it.card.path }}</code>
          </dd>
          @if (it.contributor; as by) {
            <dt>Contributor</dt>
            <dd>
              <a [routerLink]="['/people/contributor', by.id]">{{ by.name }}</a>
            </dd>
          }
          @if (it.assignment; as one) {
            <dt>Assignment</dt>
            <dd>
              <a [routerLink]="['/people/assignment', one.id]">{{ one.title }}</a>
            </dd>
          }
          @if (it.bundles.length) {
            <dt>Bundles</dt>
            <dd>
              @for (bundle of it.bundles; track bundle.id) {
                <a [routerLink]="['/shelf']" [queryParams]="{ q: 'bundle:' + bundle.id }" (click)="done.emit()">{{
                  bundle.name
                }}</a>
              }
            </dd>
          }
        </dl>
      } @else if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      } @else {
        <div class="skeleton" style="height: 140px"></div>
      }
      <ng-template #footer>
        <a pButton class="p-button-outlined" [href]="'/api/items/' + itemId() + '/picture/full'" target="_blank" rel="noopener"
          >Open</a
        >
        <a pButton tsMay="fetch" [href]="'/api/items/' + itemId() + '/file'" download>Fetch it</a>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    li {
      padding: 8px 0;
      border-bottom: 1px solid var(--line);
    }
    h3 {
      display: flex;
      gap: 8px;
      align-items: center;
      font-size: 15px;
    }
    code {
      overflow-wrap: anywhere;
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      gap: 10px;
      align-items: center;
      margin-top: 4px;
    }
    .acts input {
      flex: 1;
    }
    dl {
      display: grid;
      grid-template-columns: 110px 1fr;
      gap: 4px 10px;
      margin-top: 12px;
    }
    dt {
      color: var(--quiet);
    }
    dd a + a {
      margin-left: 10px;
    }
  `,
})
export class WhereDialog {
  readonly itemId = input.required<number>();
  readonly done = output();
  private readonly service = inject(ShelfService);
  private readonly messages = inject(MessageService);
  protected readonly problem = signal('');
  /** Changes when somebody says what a place is called here. */
  private readonly named = signal(0);
  protected readonly where = toSignal(
    toObservable(this.itemId).pipe(
      switchMap((id) =>
        this.service.where(id).pipe(
          catchError((error: unknown) => {
            this.problem.set(wordsFor(error));
            return of(null);
          }),
        ),
      ),
    ),
    { initialValue: null },
  );

  protected called(placeId: string): string {
    this.named();
    return calledHere(placeId);
  }

  protected call(placeId: string, name: string): void {
    if (name.trim()) localStorage.setItem(CALLED + placeId, name.trim());
    else localStorage.removeItem(CALLED + placeId);
    this.named.update((n) => n + 1);
  }

  protected pathAt({ id, path }: WhereAnswer['places'][number]): string {
    const called = this.called(id);
    const { path: filed } = this.where()!;
    return called ? pathHere(called, filed) : (path ?? filed);
  }

  protected copy(path: string): void {
    navigator.clipboard.writeText(path).then(
      () => this.messages.add({ severity: 'success', summary: 'The path is copied.', life: 3_000 }),
      () => this.messages.add({ severity: 'warn', summary: `This browser does not let it be copied: ${path}`, life: 8_000 }),
    );
  }
}
