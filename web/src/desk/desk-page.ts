import { ChangeDetectionStrategy, Component, computed, DestroyRef, ElementRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import { CdkDrag, CdkDropList, CdkDropListGroup, type CdkDragDrop } from '@angular/cdk/drag-drop';
import type { Desk, HandedIn, IntakeSummary, Progress, Thing, Tray } from '@tally/contract';
import { formatDuration } from '@tally/core/logbook';
import { daysForgotten } from '@tally/core/trays';
import { MessageService } from 'primeng/api';
import { InputTextModule } from 'primeng/inputtext';
import { catchError, of, switchMap, tap, throttleTime, timer, type Observable } from 'rxjs';
import { LendingService } from '../api/lending.service';
import { DeskService } from '../api/desk.service';
import { IntakesService } from '../api/intakes.service';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { HouseTimePipe } from '../shared/amounts';
import { FindBox } from '../shared/find-box';
import { undoable } from '../shared/undo-toast';
import { LabelScans } from '../shell/label-scans';
import { CardTile } from './card-tile';
import { Expected } from './expected';
import { FreshOnShelf } from './fresh-on-shelf';
import { HandInLink } from './hand-in-link';
import { HandedInTile } from './handed-in-tile';
import { ButtonModule } from 'primeng/button';
import { LabelsDialog } from './labels-dialog';
import { LentTile } from './lent-tile';
import { byNeed } from './next';
import { PlacesNow } from './places-now';
import { May } from '../shared/may';

interface Lane {
  readonly name: string;
  readonly tray: Tray;
  readonly says: string;
  readonly trouble: string;
  readonly handedIn: readonly HandedIn[];
  readonly cards: readonly IntakeSummary[];
  readonly lent: readonly Thing[];
  readonly empty: string;
  /** More than a row of tiles: a line each. */
  readonly asLines: boolean;
}

/** As many tiles stand in a row on an ordinary screen. */
const A_ROW = 4;

/** Keys that move the card that has the focus. */
const TRAY_KEYS: Readonly<Record<string, Tray>> = { i: 'in', d: 'on the desk', g: 'to give back', o: 'out' };
/** More of what is lent is on the lending list. */
const MOST_LENT = 6;

/** The first screen: what lies in which tray, and what to do next. */
@Component({
  selector: 'ts-desk',
  imports: [
    May,
    RouterLink,
    CdkDrag,
    CdkDropList,
    CdkDropListGroup,
    CardTile,
    HandedInTile,
    LentTile,
    Expected,
    FreshOnShelf,
    PlacesNow,
    HandInLink,
    LabelsDialog,
    ButtonModule,
    FormsModule,
    InputTextModule,
    FindBox,
    HouseTimePipe,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>Desk</h1>
        <span class="quiet">{{ now() | houseTime: 'long' }}</span>
        <button pButton type="button" class="p-button-outlined labels" (click)="printing.set(true)">Labels</button>
        <ts-hand-in-link tsMay="invite" />
        <form class="label" (ngSubmit)="typedLabel()">
          <input
            pInputText
            class="mono"
            name="label"
            maxlength="200"
            autocomplete="off"
            placeholder="Tape label"
            aria-label="Label on the tape of a card: what a scan of it does"
            [ngModel]="label()"
            (ngModelChange)="label.set($event)"
          />
        </form>
        <ts-find-box label="Find what is filed by any word" placeholder="Find anything" (sought)="find($event)" />
      </header>
      @if (printing()) {
        <ts-labels-dialog (done)="printing.set(false)" />
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <div class="columns">
        <div class="lanes" cdkDropListGroup>
          @for (lane of lanes(); track lane.name) {
            <section [attr.aria-label]="lane.name">
              <h2>
                {{ lane.name }} <span class="quiet">{{ lane.says }}</span>
                @if (lane.trouble) {
                  <span class="trouble"> · {{ lane.trouble }}</span>
                }
                @if (lane.tray === 'out') {
                  <a routerLink="/lending" class="list">Lending list</a>
                }
              </h2>
              <div
                class="shelf"
                [class.lines]="lane.asLines"
                cdkDropList
                [cdkDropListSortingDisabled]="true"
                (cdkDropListDropped)="dropped($event, lane.tray)"
              >
                @for (card of lane.handedIn; track card.cardId) {
                  <ts-handed-in-tile
                    cdkDrag
                    (cdkDragStarted)="hold()"
                    (cdkDragEnded)="letGo()"
                    [cdkDragData]="card.cardId"
                    [card]="card"
                    [line]="lane.asLines"
                    (keydown)="key($event, card.cardId)"
                  />
                }
                @for (card of lane.cards; track card.id) {
                  <ts-card-tile
                    cdkDrag
                    (cdkDragStarted)="hold()"
                    (cdkDragEnded)="letGo()"
                    [cdkDragData]="card.card.id"
                    [intake]="card"
                    [progress]="progress().get(card.id)"
                    [line]="lane.asLines"
                    (keydown)="key($event, card.card.id)"
                  />
                }
                @for (thing of lane.lent; track thing.loan!.id) {
                  <ts-lent-tile
                    cdkDrag
                    (cdkDragStarted)="hold()"
                    (cdkDragEnded)="letGo()"
                    [cdkDragData]="thing.id"
                    [cdkDragDisabled]="thing.kind !== 'card'"
                    [thing]="thing"
                    [line]="lane.asLines"
                    (keydown)="thing.kind === 'card' && key($event, thing.id)"
                    (back)="back(thing)"
                  />
                }
                @if (!lane.handedIn.length && !lane.cards.length && !lane.lent.length) {
                  <p class="empty">{{ lane.empty }}</p>
                }
              </div>
            </section>
          } @empty {
            @for (shelf of [1, 2, 3]; track shelf) {
              <div class="skeleton" style="height: 180px; margin-bottom: 16px"></div>
            }
          }
        </div>
        <aside>
          <ts-fresh-on-shelf />
          <ts-expected [assignments]="desk()?.expected ?? []" />
          <ts-places-now [places]="desk()?.places ?? []" [backups]="desk()?.backups" [rebuilding]="desk()?.rebuilding ?? false" />
          <p class="quiet hint">
            A card is moved by dragging it to its tray, by scanning its label, or by a key: <kbd>I</kbd> in, <kbd>D</kbd> on the
            desk, <kbd>G</kbd> to give back, <kbd>O</kbd> out.
          </p>
        </aside>
      </div>
    </div>
  `,
  styles: `
    .labels {
      margin-left: auto;
      align-self: center;
    }
    ts-hand-in-link {
      align-self: center;
    }
    .label input {
      width: 176px;
    }
    .label {
      align-self: center;
    }
    ts-find-box {
      width: 220px;
      align-self: center;
    }
    .columns {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 304px;
      gap: 20px;
    }
    section {
      border-top: 1px solid var(--strong-line);
      padding: 0 0 12px;
    }
    section h2 {
      position: sticky;
      top: 0;
      z-index: 2;
      padding: 8px 0 4px;
      background: var(--paper);
    }
    .shelf {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(192px, 1fr));
      gap: 10px;
      padding-top: 8px;
      min-height: 44px;
    }
    .shelf.lines {
      grid-template-columns: minmax(0, 1fr);
      gap: 0;
    }
    .shelf .empty {
      grid-column: 1 / -1;
    }
    .trouble {
      color: var(--trouble);
      font: 600 13px var(--font-text);
    }
    .shelf:not(:has(ts-card-tile, ts-handed-in-tile, ts-lent-tile)) {
      min-height: 48px;
    }
    .list {
      float: right;
      font: 15px var(--font-text);
    }
    .hint {
      border-top: 1px solid var(--strong-line);
      padding-top: 12px;
    }
    kbd {
      border: 1px solid var(--line);
      border-radius: 4px;
      padding: 0 5px;
      font: 13px var(--font-mono);
    }
    /* No tray grows or shrinks under a card that is carried over it. */
    .cdk-drag-placeholder {
      display: none;
    }
    .cdk-drop-list-dragging {
      background: var(--straw);
    }
    @media (max-width: 900px) {
      .columns {
        grid-template-columns: minmax(0, 1fr);
      }
    }
  `,
})
export class DeskPage {
  private readonly service = inject(DeskService);
  private readonly live = inject(LiveService);
  private readonly router = inject(Router);
  private readonly session = inject(SessionService);
  private readonly lending = inject(LendingService);
  private readonly intakes = inject(IntakesService);
  private readonly scans = inject(LabelScans);
  protected readonly label = signal('');
  private readonly messages = inject(MessageService);

  protected readonly desk = signal<Desk | null>(null);
  protected readonly problem = signal('');
  protected readonly printing = signal(false);
  protected readonly progress = signal<ReadonlyMap<number, Progress>>(new Map());
  protected readonly now = signal(this.session.now());

  protected readonly lanes = computed<Lane[]>(() => {
    const desk = this.desk();
    if (!desk) return [];
    const filing = desk.onTheDesk.filter((intake) => intake.state === 'filing');
    const rates = filing.flatMap((intake) => this.progress().get(intake.id) ?? []);
    const longest = Math.max(0, ...rates.map((rate) => rate.msLeft ?? 0));
    const filingSays = filing.length ? `${filing.length} being filed${longest ? `, ${formatDuration(longest)} left` : ''}` : '';
    const trouble = desk.onTheDesk.filter((intake) => intake.state === 'needs attention').length;
    const deskSays = [filingSays, trouble ? `${trouble} ${trouble === 1 ? 'needs' : 'need'} attention` : '']
      .filter(Boolean)
      .join(' · ');
    const tallied = desk.toGiveBack.filter((intake) => intake.state === 'tallied').length;
    const forgotten =
      desk.handedIn.filter(({ days }) => days > 0).length + desk.in.filter((intake) => this.lain(intake) > 0).length;
    const overdue = desk.out.filter(({ loan }) => loan?.standing === 'overdue').length;
    const none = { trouble: '', handedIn: [], lent: [], cards: [] };
    const lanes: Omit<Lane, 'asLines'>[] = [
      {
        ...none,
        name: 'In',
        tray: 'in',
        says: said(desk.in.length + desk.handedIn.length, 'handed in, not begun'),
        trouble: forgotten ? `${forgotten} forgotten` : '',
        handedIn: desk.handedIn,
        cards: byNeed(desk.in),
        empty: 'Put a card into a reader: it shows here within two seconds.',
      },
      {
        ...none,
        name: 'On the desk',
        tray: 'on the desk',
        says: deskSays || said(desk.onTheDesk.length, 'begun'),
        cards: byNeed(desk.onTheDesk),
        empty: 'Open a card from the tray above to say whose it is.',
      },
      {
        ...none,
        name: 'To give back',
        tray: 'to give back',
        says: tallied ? said(tallied, 'tallied') : '',
        cards: byNeed(desk.toGiveBack),
        empty: 'Cards whose copies all tally come here.',
      },
      {
        ...none,
        name: 'Out',
        tray: 'out',
        says:
          desk.out.length > MOST_LENT
            ? `${desk.out.length} lent, ${desk.out.length - MOST_LENT} more on the list`
            : said(desk.out.length, 'lent', 'thing'),
        trouble: overdue ? `${overdue} overdue` : '',
        lent: desk.out.slice(0, MOST_LENT),
        empty: 'Nothing of the house is lent.',
      },
    ];
    return lanes.map((lane) => ({ ...lane, asLines: lane.cards.length + lane.handedIn.length > A_ROW }));
  });

  constructor() {
    const destroyed = inject(DestroyRef);
    this.live
      .whenever('desk', 'people', 'intake')
      .pipe(
        throttleTime(150, undefined, { leading: true, trailing: true }),
        switchMap(() => this.service.desk().pipe(catchError((error: unknown) => of(wordsFor(error))))),
        takeUntilDestroyed(destroyed),
      )
      .subscribe((answer) => {
        this.problem.set(typeof answer === 'string' ? answer : '');
        if (typeof answer !== 'string') this.desk.set(answer);
      });
    this.live.events.pipe(takeUntilDestroyed(destroyed)).subscribe((event) => {
      if (event.type === 'progress') this.progress.update((all) => new Map(all).set(event.progress.intakeId, event.progress));
    });
    timer(0, 10_000)
      .pipe(takeUntilDestroyed(destroyed))
      .subscribe(() => this.now.set(this.session.now()));
  }

  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);

  /** While a card is carried, the trays stay where they are. */
  protected hold(): void {
    for (const shelf of this.shelves()) shelf.style.minHeight = `${shelf.offsetHeight}px`;
  }

  protected letGo(): void {
    for (const shelf of this.shelves()) shelf.style.minHeight = '';
  }

  private shelves(): HTMLElement[] {
    return [...this.host.nativeElement.querySelectorAll<HTMLElement>('.shelf')];
  }

  protected dropped({ previousContainer, container, item }: CdkDragDrop<unknown, unknown, number>, to: Tray): void {
    if (previousContainer !== container) this.move(item.data, to);
  }

  protected key(event: KeyboardEvent, cardId: number): void {
    const to = TRAY_KEYS[event.key.toLowerCase()];
    if (!to || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    this.move(cardId, to);
  }

  /** Cards that come back are handed in; other things are just here again. */
  protected back(thing: Thing): void {
    this.heard(this.lending.back([thing], false));
  }

  /** A label that somebody types does what a scan of it does. */
  protected typedLabel(): void {
    const label = this.label().trim();
    if (label) this.scans.scanned(label);
    this.label.set('');
  }

  private move(cardId: number, to: Tray): void {
    const card = to === 'out' ? this.desk()?.toGiveBack.find((intake) => intake.card.id === cardId) : undefined;
    this.heard(this.lending.move(cardId, to).pipe(tap(() => card && this.givenBack(card))));
  }

  /** Said with what still lies on it, and with a moment to take it back. */
  private givenBack({ id, card, clearedAt, present }: IntakeSummary): void {
    const name = card.label ?? card.volume;
    const pull = present ? ' Pull it out of the reader.' : '';
    const holds = clearedAt === null ? ' It was not cleared: it still holds its files.' : '';
    const undo = () => this.intakes.notGivenBack(id);
    this.messages.add(undoable(`${name} is given back.${pull}${holds}`, { words: 'No, it is still here', undo }));
  }

  /** A refusal is told; what came of the rest shows on the desk by itself. */
  private heard(asked: Observable<void>): void {
    asked.subscribe({
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 }),
    });
  }

  private lain(intake: IntakeSummary): number {
    return daysForgotten(new Date(intake.receivedAt), this.session.now());
  }

  protected find(words: string): void {
    void this.router.navigate(['/shelf'], { queryParams: { q: words } });
  }
}

const said = (n: number, words: string, what = 'card') => (n ? `${n} ${n === 1 ? what : `${what}s`} ${words}` : '');
