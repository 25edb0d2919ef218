import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import type { Thing, Tray } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { SelectButtonModule } from 'primeng/selectbutton';
import { TableModule } from 'primeng/table';
import { catchError, of, Subject, switchMap, merge, type Observable } from 'rxjs';
import { LendingService } from '../api/lending.service';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { FindBox } from '../shared/find-box';
import { LendDialog } from './lend-dialog';
import { loanWords } from '../shared/loan-words';
import { LoansDialog } from './loans-dialog';
import { ThingDialog } from './thing-dialog';

type Show = 'everything' | 'out' | 'overdue' | 'here';

/** What the house lends: cards, readers, cables, cameras; who has it, since when, and when it is due. */
@Component({
  selector: 'ts-lending',
  imports: [
    ...[FormsModule, RouterLink, TableModule, ButtonModule, SelectButtonModule, FindBox],
    ...[LendDialog, LoansDialog, ThingDialog, CountPipe, HouseTimePipe],
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>Lending list</h1>
        <span class="quiet" aria-live="polite">{{ says() }}</span>
        <span class="acts">
          <button pButton type="button" class="p-button-outlined" (click)="adding.set('')">New thing</button>
          <ts-find-box
            label="Find a thing or a person"
            placeholder="Find anything"
            [words]="sought()"
            (typed)="sought.set($event)"
          />
        </span>
      </header>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <div class="bar">
        <p-selectbutton
          ariaLabel="What is shown"
          [options]="shows"
          [allowEmpty]="false"
          [ngModel]="show()"
          (ngModelChange)="show.set($event)"
        />
        <span class="acts">
          @if (lent().length) {
            <button pButton type="button" (click)="back(false)">{{ lent().length | count: 'thing' }} back</button>
            @if (cardsLent()) {
              <button pButton type="button" class="p-button-outlined" (click)="back(true)">Back unused</button>
            }
          }
          <button pButton type="button" [disabled]="!here().length" (click)="lending.set(here())">
            {{ here().length ? 'Lend ' + (here().length | count: 'thing') : 'Lend' }}…
          </button>
        </span>
      </div>
      <div class="wide">
        <p-table
          [value]="shown()"
          dataKey="key"
          [(selection)]="chosen"
          sortMode="single"
          [tableStyle]="{ 'table-layout': 'fixed' }"
        >
          <ng-template #header>
            <tr>
              <th scope="col" style="width: 48px"><p-tableHeaderCheckbox ariaLabel="Choose all that are shown" /></th>
              <th scope="col" pSortableColumn="label" style="width: 120px">Label <p-sortIcon field="label" /></th>
              <th scope="col" pSortableColumn="kind" style="width: 19%">What <p-sortIcon field="kind" /></th>
              <th scope="col" pSortableColumn="who" style="width: 15%">With <p-sortIcon field="who" /></th>
              <th scope="col" pSortableColumn="since" style="width: 130px">Since <p-sortIcon field="since" /></th>
              <th scope="col" pSortableColumn="due" style="width: 124px">Due <p-sortIcon field="due" /></th>
              <th scope="col">Now</th>
              <th scope="col" style="width: 84px">Before</th>
              <th scope="col" style="width: 92px"><span class="visually-hidden">Lend, or take back</span></th>
            </tr>
          </ng-template>
          <ng-template #body let-one>
            <tr>
              <td><p-tableCheckbox [value]="one" [ariaLabel]="'Choose ' + one.label" /></td>
              <td>
                <span class="tape">{{ one.label }}</span>
              </td>
              <td [title]="one.what">{{ one.what }}</td>
              <td [title]="one.who">{{ one.who }}</td>
              <td>{{ one.thing.loan ? (one.thing.loan.since | houseTime: 'day') : '' }}</td>
              <td [class.trouble]="one.thing.loan?.standing === 'overdue'">
                {{
                  one.thing.loan
                    ? one.thing.loan.due
                      ? (one.thing.loan.due + 'T12:00:00Z' | houseTime: 'day')
                      : 'no day agreed'
                    : ''
                }}
              </td>
              <td [class.trouble]="one.thing.loan?.standing === 'overdue'" [title]="one.now">
                {{ one.now }}{{ one.thing.loan?.note ? ' · ' + one.thing.loan.note : '' }}
              </td>
              <td>
                <button type="button" class="plain" (click)="history.set(one.thing)">
                  {{ one.thing.times ? (one.thing.times | count: 'time') : 'never'
                  }}<span class="visually-hidden"> lent before: {{ one.label }}</span>
                </button>
              </td>
              <td>
                @if (one.thing.loan) {
                  <button type="button" class="plain" [attr.aria-label]="'Back: ' + one.label" (click)="backOne(one.thing)">
                    back
                  </button>
                } @else {
                  <button type="button" class="plain" [attr.aria-label]="'Lend: ' + one.label" (click)="lending.set([one.thing])">
                    lend…
                  </button>
                }
              </td>
            </tr>
          </ng-template>
          <ng-template #emptymessage>
            <tr>
              <td colspan="9" class="empty">
                {{
                  things()
                    ? 'Nothing here. New things are added with a label of their own; cards come here when they are lent.'
                    : 'Fetching the list'
                }}
              </td>
            </tr>
          </ng-template>
        </p-table>
      </div>
      <p class="quiet">
        A card that comes back is handed in: it lies on the <a routerLink="/desk">desk</a> in the tray “in” until it is read.
      </p>
    </div>
    @if (lending(); as things) {
      <ts-lend-dialog [things]="things" (done)="closed()" />
    }
    @if (history(); as thing) {
      <ts-loans-dialog [thing]="thing" (done)="history.set(null)" />
    }
    @if (adding() !== null) {
      <ts-thing-dialog [label]="adding()!" (done)="closed()" />
    }
  `,
  styles: `
    .acts {
      margin-left: auto;
      display: flex;
      gap: 12px;
      align-items: center;
    }
    .bar {
      display: flex;
      padding: 4px 0 12px;
      align-items: center;
    }
    /* On a narrow screen the table is scrolled, and nothing of it is lost. */
    .wide {
      overflow-x: auto;
    }
    .wide p-table {
      display: block;
      min-width: 860px;
    }
    .trouble {
      color: var(--trouble);
      font-weight: 600;
    }
  `,
})
export class LendingPage {
  private readonly service = inject(LendingService);
  private readonly messages = inject(MessageService);

  /** From the address: words to find, or the label of a thing to add. */
  readonly words = input<string>();
  readonly add = input<string>();

  protected readonly shows: Show[] = ['everything', 'out', 'overdue', 'here'];
  protected readonly show = signal<Show>('everything');
  protected readonly sought = signal('');
  protected readonly things = signal<Thing[] | null>(null);
  protected readonly problem = signal('');
  protected readonly lending = signal<readonly Thing[] | null>(null);
  protected readonly history = signal<Thing | null>(null);
  protected readonly adding = signal<string | null>(null);
  protected chosen: Row[] = [];
  private readonly again = new Subject<void>();

  protected readonly shown = computed(() => {
    const words = this.sought().toLowerCase().split(/\s+/).filter(Boolean);
    const rows = (this.things() ?? []).map(rowOf);
    return rows.filter((row) => this.fits(row.thing) && words.every((word) => row.words.includes(word)));
  });

  protected readonly says = computed(() => {
    const out = this.things()?.filter(({ loan }) => loan) ?? [];
    const overdue = out.filter(({ loan }) => loan?.standing === 'overdue').length;
    return `${out.length} of ${this.things()?.length ?? 0} out${overdue ? `, ${overdue} overdue` : ''}`;
  });

  constructor() {
    merge(inject(LiveService).whenever('desk', 'people'), this.again)
      .pipe(
        switchMap(() => this.service.things().pipe(catchError((error: unknown) => of(wordsFor(error))))),
        takeUntilDestroyed(),
      )
      .subscribe((answer) => {
        this.problem.set(typeof answer === 'string' ? answer : '');
        if (typeof answer === 'string') return;
        this.things.set(answer);
        const rows = new Map(answer.map((thing) => [keyOf(thing), thing]));
        this.chosen = this.chosen.flatMap(({ key }) => rows.get(key) ?? []).map(rowOf);
      });
    effect(() => {
      const [words, add] = [this.words(), this.add()];
      if (words) this.sought.set(words);
      if (add) this.adding.set(add);
    });
  }

  protected lent(): Thing[] {
    return this.chosen.map(({ thing }) => thing).filter(({ loan }) => loan !== null);
  }

  protected here(): Thing[] {
    return this.chosen.map(({ thing }) => thing).filter(({ loan }) => loan === null);
  }

  protected cardsLent(): boolean {
    return this.lent().some(({ kind }) => kind === 'card');
  }

  protected backOne(thing: Thing): void {
    this.heard(this.service.back([thing], false));
  }

  protected back(unused: boolean): void {
    this.heard(this.service.back(this.lent(), unused));
  }

  protected closed(): void {
    this.lending.set(null);
    this.adding.set(null);
    this.chosen = [];
    this.again.next();
  }

  private heard(asked: Observable<void>): void {
    asked.subscribe({
      next: () => this.closed(),
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 }),
    });
  }

  private fits({ loan }: Thing): boolean {
    switch (this.show()) {
      case 'everything':
        return true;
      case 'out':
        return loan !== null;
      case 'overdue':
        return loan?.standing === 'overdue';
      case 'here':
        return loan === null;
    }
  }
}

interface Row {
  readonly key: string;
  readonly thing: Thing;
  readonly label: string;
  readonly kind: string;
  readonly what: string;
  readonly who: string;
  readonly since: string;
  readonly due: string;
  readonly now: string;
  readonly words: string;
}

/** Where a card of the house lies, as people say it. */
const TRAY_WORDS: Readonly<Record<Tray, string>> = {
  in: 'handed in, waiting',
  'on the desk': 'on the desk',
  'to give back': 'waits to be given back',
  out: 'here',
};

const keyOf = ({ kind, id }: Thing) => `${kind} ${id}`;

function rowOf(thing: Thing): Row {
  const { label, kind, name, loan, tray } = thing;
  const now = loan ? loanWords(loan) : tray ? TRAY_WORDS[tray] : 'here';
  const row = {
    ...{ key: keyOf(thing), thing, kind, now },
    label: label ?? 'no label',
    what: name && kind !== 'card' ? `${kind}, ${name}` : name || kind,
    ...{ who: loan?.to.name ?? '', since: loan?.since ?? '', due: loan?.due ?? '9999' },
  };
  return { ...row, words: [row.label, row.what, kind, row.who, loan?.to.code, loan?.note, now].join(' ').toLowerCase() };
}
