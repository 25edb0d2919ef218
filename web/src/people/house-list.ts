import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import type { HouseListName, ShownAnswer } from '@tally/contract';
import { foldText } from '@tally/core/words';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { SelectModule } from 'primeng/select';
import { TableModule } from 'primeng/table';
import { switchMap } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { EntryForm } from './entry-form';
import { type Entry, LIST_KINDS } from './list-fields';
import { May } from '../shared/may';

/** A list of the house: terms, locations, people who are shown. Each entry is corrected, merged, retired and put back. */
@Component({
  selector: 'ts-house-list',
  imports: [May, FormsModule, RouterLink, ButtonModule, DialogModule, SelectModule, TableModule, EntryForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-table
      [value]="rows()"
      [virtualScroll]="true"
      [virtualScrollItemSize]="36"
      [scrollable]="true"
      scrollHeight="flex"
      [tableStyle]="{ 'table-layout': 'fixed', 'min-width': '660px' }"
    >
      <ng-template #header>
        <tr>
          @for (column of kind().columns; track column.words) {
            <th scope="col" [style.width]="column.width">{{ column.words }}</th>
          }
          <th scope="col" style="width: 190px"><span class="visually-hidden">What to do</span></th>
        </tr>
      </ng-template>
      <ng-template #body let-one>
        <tr [class.retired]="one.retired" [class.marked]="kind().marked?.(one, today())">
          @for (column of kind().columns; track column.words; let first = $first) {
            <td [title]="column.of(one, today())">
              @if (first) {
                <button type="button" class="plain" (click)="correcting.set(one)">{{ column.of(one, today()) }}</button>
                {{ one.retired ? 'retired' : '' }}
              } @else {
                {{ column.of(one, today()) }}
              }
            </td>
          }
          <td class="does">
            @if (list() === 'pictured' && one.items) {
              <button type="button" class="plain" (click)="look(one)">where</button>
            }
            <button type="button" class="plain" tsMay="keep the lists" (click)="merging.set(one)">merge…</button>
            <button type="button" class="plain" (click)="retire(one)">{{ one.retired ? 'put back' : 'retire' }}</button>
          </td>
        </tr>
      </ng-template>
      <ng-template #emptymessage
        ><tr>
          <td [attr.colspan]="kind().columns.length + 1" class="empty">
            {{ all() ? (sought() ? 'Nothing fits these words.' : kind().empty) : 'Fetching the list' }}
          </td>
        </tr></ng-template
      >
    </p-table>
    <p-dialog
      closeAriaLabel="Close"
      [header]="adding() ? 'New ' + kind().one : 'Correct ' + (correcting()?.name ?? '')"
      [modal]="true"
      [visible]="adding() || correcting() !== null"
      (visibleChange)="close()"
    >
      @if (adding() || correcting()) {
        <ts-entry-form [list]="list()" [kind]="kind()" [entry]="correcting()" (saved)="saved($event)" />
      }
    </p-dialog>
    <p-dialog
      closeAriaLabel="Close"
      [header]="'Merge ' + (merging()?.name ?? '')"
      [modal]="true"
      [visible]="merging() !== null"
      (visibleChange)="merging.set(null)"
    >
      @if (merging(); as one) {
        <div class="merge">
          <p>
            Everything that says “{{ one.name }}” says the other from now on. “{{ one.name }}” goes; the log keeps what it was.
          </p>
          <label class="field" for="merge-into"
            ><span>Is the same as</span>
            <p-select
              inputId="merge-into"
              ariaLabel="Is the same as"
              [options]="others()"
              optionLabel="name"
              [filter]="true"
              appendTo="body"
              fluid
              [ngModel]="into()"
              (ngModelChange)="into.set($event)"
            />
          </label>
          <button pButton type="button" [disabled]="!into()" (click)="merge(one)">Make them one</button>
        </div>
      }
    </p-dialog>
    <p-dialog
      closeAriaLabel="Close"
      [header]="looked()?.name + ' is shown in'"
      [modal]="true"
      [visible]="looked() !== null"
      (visibleChange)="looked.set(null)"
      [style]="{ width: '760px' }"
    >
      @if (looked(); as one) {
        <p>
          <b>{{ one.answer.items }}</b> {{ one.answer.items === 1 ? 'item' : 'items' }}. Where copies stand is said beside each;
          handing them on is not kept here yet.
        </p>
        <ul class="shown" tabindex="0" aria-label="Where they are shown">
          @for (item of one.answer.shown; track item.itemId) {
            <li>
              <a [routerLink]="['/intake', item.intakeId]">{{ item.intakeNumber }}</a>
              <code>{{ item.filedAs ?? item.path }}</code>
              <span class="quiet">{{ item.places.join(', ') || 'not filed' }}</span>
            </li>
          }
        </ul>
      }
    </p-dialog>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
    }
    .plain {
      min-height: 24px;
      padding: 0 2px;
      border: 0;
      background: none;
      color: var(--reed);
      font: inherit;
      text-align: start;
      cursor: pointer;
      text-decoration: underline;
      text-underline-offset: 2px;
    }
    .does {
      text-align: end;
    }
    .does .plain {
      margin-left: 10px;
      color: var(--quiet);
    }
    .retired {
      color: var(--quiet);
    }
    .marked td:nth-child(2) {
      color: var(--trouble);
      font-weight: 600;
    }
    .merge {
      display: grid;
      gap: 12px;
      width: 360px;
    }
    .shown {
      max-height: 56vh;
      overflow-y: auto;
    }
    .shown li {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 12px;
      align-items: baseline;
      padding: 6px 0;
      border-bottom: 1px solid var(--line);
      overflow-wrap: anywhere;
    }
  `,
})
export class HouseList {
  private readonly session = inject(SessionService);
  protected readonly today = () => this.session.today();
  readonly list = input.required<Exclude<HouseListName, 'habits'>>();
  readonly sought = input('');
  private readonly service = inject(CreditService);
  private readonly messages = inject(MessageService);
  protected readonly kind = computed(() => LIST_KINDS[this.list()]);
  protected readonly all = toSignal(toObservable(this.list).pipe(switchMap((list) => this.service.list(list)))) as () =>
    readonly Entry[] | undefined;
  readonly adding = signal(false);
  protected readonly correcting = signal<Entry | null>(null);
  protected readonly merging = signal<Entry | null>(null);
  protected readonly into = signal<Entry | null>(null);
  protected readonly looked = signal<{ name: string; answer: ShownAnswer } | null>(null);

  protected readonly rows = computed(() => {
    const words = foldText(this.sought()).split(' ');
    const { columns } = this.kind();
    return [...(this.all() ?? [])].filter((entry) => {
      const text = foldText(columns.map(({ of }) => of(entry, this.today())).join(' '));
      return words.every((word) => text.includes(word));
    });
  });
  protected readonly others = computed(() =>
    [...(this.all() ?? [])].filter(({ id, retired }) => id !== this.merging()?.id && !retired),
  );

  protected close(): void {
    this.adding.set(false);
    this.correcting.set(null);
  }

  protected saved(words: string): void {
    this.close();
    this.messages.add({ severity: 'success', summary: words, life: 6000 });
  }

  protected retire(entry: Entry): void {
    const asked = this.service.correct(this.list(), entry.id, { retired: !entry.retired, revision: entry.revision });
    asked.subscribe({ error: (error: unknown) => this.warn(error) });
  }

  protected merge(entry: Entry): void {
    const into = this.into();
    if (!into) return;
    this.service.merge(this.list(), entry.id, into.id).subscribe({
      next: ({ items }) => {
        this.merging.set(null);
        this.into.set(null);
        this.saved(`${entry.name} is ${into.name} now: ${items} items.`);
      },
      error: (error: unknown) => this.warn(error),
    });
  }

  protected look(entry: Entry): void {
    this.service.whereShown(entry.id).subscribe({
      next: (answer) => this.looked.set({ name: entry.name, answer }),
      error: (error: unknown) => this.warn(error),
    });
  }

  private warn(error: unknown): void {
    this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 });
  }
}
