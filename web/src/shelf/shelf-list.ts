import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { type FoundItem, LIST_COLUMNS } from '@tally/contract';
import type { ListOrder } from '@tally/core/find';
import { formatBytes, formatDuration } from '@tally/core/logbook';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { MultiSelectModule } from 'primeng/multiselect';
import { TableModule, type TableLazyLoadEvent } from 'primeng/table';
import { auditTime, catchError, EMPTY, map, Subject, switchMap } from 'rxjs';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { OrderButton, orderedBy, type Ordered } from '../shared/order-button';
import { May } from '../shared/may';

type ListColumn = (typeof LIST_COLUMNS)[number];

const PAGE = 100;
const KEPT = 'tally-shelf-columns';
const FIRST: readonly ListColumn[] = ['name', 'taken', 'contributor', 'assignment', 'kind', 'camera', 'bytes', 'folder'];

/** What orders a list by a column. */
const ORDERS: Partial<Record<ListColumn, ListOrder>> = {
  ...{
    name: 'name',
    taken: 'taken',
    bytes: 'bytes',
    contributor: 'contributor',
    camera: 'camera',
    folder: 'folder',
    filed: 'filed',
  },
};

const WIDTHS: Partial<Record<ListColumn, string>> = {
  ...{ name: '250px', taken: '184px', folder: '280px', 'on card': '250px', description: '260px', words: '200px' },
  ...{
    contributor: '140px',
    assignment: '170px',
    camera: '130px',
    terms: '200px',
    location: '150px',
    bytes: '90px',
    kind: '74px',
  },
};

/** What a cell says. */
const CELLS: Readonly<Record<ListColumn, (item: FoundItem) => string>> = {
  name: ({ filedAs, path }) => (filedAs ?? path).split('/').at(-1)!,
  taken: ({ captured }) => captured.local.slice(0, 19).replace('T', ' '),
  contributor: ({ contributor }) => contributor?.name ?? '',
  assignment: ({ assignment }) => assignment?.title ?? '',
  kind: ({ kind }) => kind,
  camera: ({ camera }) => camera,
  folder: ({ filedAs }) => (filedAs ?? '').split('/').slice(0, -1).join('/'),
  'on card': ({ path }) => path,
  bytes: ({ bytes }) => formatBytes(bytes),
  width: ({ width }) => String(width ?? ''),
  height: ({ height }) => String(height ?? ''),
  length: ({ durationMs }) => (durationMs === null ? '' : formatDuration(durationMs)),
  location: ({ location }) => location ?? '',
  words: ({ words }) => words.join(', '),
  description: ({ description }) => description,
  verdict: ({ verdict }) => verdict ?? '',
  terms: ({ terms }) => terms.words,
  intake: ({ intake }) => intake.number,
  filed: ({ filedOn }) => filedOn,
  copies: ({ copies }) => String(copies.filter(({ state }) => state === 'tallied').length),
};

function keptColumns(): ListColumn[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? 'null');
    const columns = Array.isArray(kept) ? kept.filter((one): one is ListColumn => LIST_COLUMNS.includes(one as ListColumn)) : [];
    return columns.length ? columns : [...FIRST];
  } catch {
    return [...FIRST];
  }
}

/** What answers as rows: columns chosen, ordered, sorted, copied to a spreadsheet. */
@Component({
  selector: 'ts-shelf-list',
  imports: [May, FormsModule, TableModule, MultiSelectModule, ButtonModule, OrderButton],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar">
      <p-multiselect
        ariaLabel="Columns"
        placeholder="Columns"
        selectedItemsLabel="{0} columns"
        [maxSelectedLabels]="0"
        [options]="all"
        [filter]="false"
        [ngModel]="columns()"
        (ngModelChange)="choose($event)"
      />
      <button pButton type="button" tsMay="fetch" class="p-button-outlined" (click)="copy()">
        <i class="pi pi-copy" aria-hidden="true"></i> Copy for a spreadsheet
      </button>
      <a pButton tsMay="fetch" class="p-button-outlined" [href]="csv()" download="list.csv"
        ><i class="pi pi-download" aria-hidden="true"></i> CSV</a
      >
      @if (problem()) {
        <span class="attention" role="alert">{{ problem() }}</span>
      }
    </div>
    <div class="table">
      <p-table
        [value]="rows()"
        [columns]="shown()"
        [lazy]="true"
        [virtualScroll]="true"
        [virtualScrollItemSize]="36"
        [scrollable]="true"
        [reorderableColumns]="true"
        scrollHeight="flex"
        [tableStyle]="{ 'table-layout': 'fixed', width: width() }"
        (onLazyLoad)="need($event)"
        (onColReorder)="reordered($event.columns)"
      >
        <ng-template #header let-columns>
          <tr>
            @for (column of columns; track column.name) {
              <th scope="col" pReorderableColumn [style.width]="column.width" [attr.aria-sort]="sorted(column.order)">
                @if (column.order; as by) {
                  <ts-order-button [name]="column.name" [ordered]="sorted(by)" (ask)="sort(by)" />
                } @else {
                  {{ column.name }}
                }
              </th>
            }
          </tr>
        </ng-template>
        <ng-template #body let-item let-columns="columns" let-index="rowIndex">
          @if (item) {
            <tr>
              @for (column of columns; track column.name; let first = $first) {
                <td [class.mono]="column.mono" [title]="column.cell(item)">
                  @if (first) {
                    <button type="button" class="plain cell" (click)="look.emit({ id: item.id, place: index })">
                      {{ column.cell(item) || '—' }}
                    </button>
                  } @else {
                    {{ column.cell(item) }}
                  }
                </td>
              }
            </tr>
          } @else {
            <tr aria-hidden="true">
              <td [attr.colspan]="columns.length"><div class="skeleton" style="height: 16px"></div></td>
            </tr>
          }
        </ng-template>
        <ng-template #emptymessage>
          <tr>
            <td [attr.colspan]="shown().length" class="empty">Nothing that is filed answers this.</td>
          </tr>
        </ng-template>
      </p-table>
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
      min-width: 0;
      padding: 10px 0 0 20px;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      gap: 10px;
      align-items: center;
      padding-bottom: 8px;
    }
    .bar a {
      text-decoration: none;
    }
    .table {
      flex: 1;
      min-height: 0;
      border-top: 1px solid var(--strong-line);
    }
    th {
      text-transform: capitalize;
    }
    .cell {
      max-width: 100%;
      overflow: hidden;
      text-overflow: ellipsis;
      font: 13px var(--font-mono);
    }
  `,
})
export class ShelfList {
  readonly question = input.required<string>();
  /** Somebody wants to look at an item, and where it stands among all. */
  readonly look = output<{ readonly id: number; readonly place: number }>();

  private readonly service = inject(ShelfService);
  private readonly messages = inject(MessageService);
  protected readonly all = [...LIST_COLUMNS];
  protected readonly columns = signal<readonly ListColumn[]>(keptColumns());
  private readonly order = signal<ListOrder>('taken');
  private readonly descending = signal(true);
  protected readonly rows = signal<(FoundItem | null)[]>([]);
  protected readonly problem = signal('');
  private readonly asked = new Subject<number>();

  protected readonly shown = computed(() =>
    this.columns().map((name) => ({
      name,
      order: ORDERS[name] ?? null,
      width: WIDTHS[name] ?? '96px',
      cell: CELLS[name],
      mono: name === 'folder' || name === 'on card',
    })),
  );
  protected readonly width = computed(() => `${this.shown().reduce((sum, { width }) => sum + Number.parseInt(width, 10), 0)}px`);
  private readonly listed = computed(() => ({ order: this.order(), descending: this.descending() }));
  protected readonly csv = computed(() => this.service.listAddress('csv', this.question(), this.listed(), this.columns()));

  constructor() {
    this.asked
      .pipe(
        auditTime(30),
        switchMap((first) => {
          const from = Math.floor(first / PAGE) * PAGE;
          return this.service.page(this.question(), from, PAGE * 2, this.listed()).pipe(
            map((page) => ({ page, from })),
            catchError((error: unknown) => {
              this.problem.set(wordsFor(error));
              return EMPTY;
            }),
          );
        }),
        takeUntilDestroyed(),
      )
      .subscribe(({ page, from }) => {
        this.problem.set('');
        this.rows.update((rows) => {
          const next =
            rows.length === page.total ? [...rows] : Array.from({ length: page.total }, (_, index) => rows[index] ?? null);
          page.items.forEach((item, index) => (next[from + index] = item));
          return next;
        });
      });
    effect(() => {
      this.question();
      this.listed();
      untracked(() => {
        this.rows.set([]);
        this.asked.next(0);
      });
    });
  }

  protected need({ first, rows }: TableLazyLoadEvent): void {
    const have = this.rows();
    const last = Math.min((first ?? 0) + (rows ?? 40), have.length);
    for (let at = first ?? 0; at < last; at++) if (!have[at]) return this.asked.next(at);
  }

  protected choose(columns: readonly ListColumn[]): void {
    // What was there stays where somebody put it; what is new comes after.
    const before = this.columns().filter((column) => columns.includes(column));
    this.keep([...before, ...columns.filter((column) => !before.includes(column))]);
  }

  protected reordered(columns: readonly { readonly name: string }[] | undefined): void {
    if (columns) this.keep(columns.map(({ name }) => name as ListColumn));
  }

  private keep(columns: readonly ListColumn[]): void {
    this.columns.set(columns.length ? columns : [...FIRST]);
    localStorage.setItem(KEPT, JSON.stringify(this.columns()));
  }

  protected sort(by: ListOrder): void {
    const again = this.order() === by;
    this.descending.set(again ? !this.descending() : by === 'taken' || by === 'bytes' || by === 'filed');
    this.order.set(by);
  }

  protected sorted(by: ListOrder | null): Ordered {
    return orderedBy(by, this.order(), this.descending());
  }

  protected copy(): void {
    this.service.text(this.service.listAddress('tsv', this.question(), this.listed(), this.columns())).subscribe({
      next: (text) => {
        const lines = text.split('\n').length - 1;
        navigator.clipboard.writeText(text).then(
          () =>
            this.messages.add({
              severity: 'success',
              summary: `${lines} lines copied: paste them into a spreadsheet.`,
              life: 4_000,
            }),
          () =>
            this.messages.add({
              severity: 'error',
              summary: 'This browser does not allow copying here. Take the CSV instead.',
              life: 6_000,
            }),
        );
      },
      error: (error: unknown) => this.messages.add({ severity: 'error', summary: wordsFor(error), life: 6_000 }),
    });
  }
}
