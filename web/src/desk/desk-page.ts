import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import type { Desk, IntakeSummary, Progress } from '@tally/contract';
import { formatDuration } from '@tally/core/logbook';
import { InputTextModule } from 'primeng/inputtext';
import { auditTime, catchError, of, startWith, switchMap, timer } from 'rxjs';
import { DeskService } from '../api/desk.service';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { HouseTimePipe } from '../shared/amounts';
import { CardTile } from './card-tile';
import { Expected } from './expected';
import { PlacesNow } from './places-now';

interface Lane {
  readonly name: string;
  readonly says: string;
  readonly cards: readonly IntakeSummary[];
  readonly empty: string;
}

/** The first screen: what lies in which tray, and what to do next. */
@Component({
  selector: 'ts-desk',
  imports: [CardTile, Expected, PlacesNow, FormsModule, InputTextModule, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>Desk</h1>
        <span class="quiet">{{ now() | houseTime: 'long' }}</span>
        <form role="search" (ngSubmit)="find()">
          <label class="visually-hidden" for="find">Find an intake by any word</label>
          <i class="pi pi-search" aria-hidden="true"></i>
          <input pInputText id="find" name="words" placeholder="Find anything" [(ngModel)]="words" />
          <kbd aria-hidden="true">/</kbd>
        </form>
      </header>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <div class="columns">
        <div class="lanes">
          @for (lane of lanes(); track lane.name) {
            <section [attr.aria-label]="lane.name">
              <h2>
                {{ lane.name }} <span class="quiet">{{ lane.says }}</span>
              </h2>
              <div class="shelf">
                @for (card of lane.cards; track card.id) {
                  <ts-card-tile [intake]="card" [progress]="progress().get(card.id)" />
                } @empty {
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
          <ts-expected [assignments]="desk()?.expected ?? []" />
          <ts-places-now [places]="desk()?.places ?? []" />
        </aside>
      </div>
    </div>
  `,
  styles: `
    form {
      position: relative;
      margin-left: auto;
      width: 280px;
      align-self: center;
    }
    form .pi {
      position: absolute;
      left: 12px;
      top: 11px;
      color: var(--quiet);
    }
    form input {
      width: 100%;
      padding-left: 36px;
    }
    form kbd {
      position: absolute;
      right: 8px;
      top: 7px;
      border: 1px solid var(--line);
      border-radius: 4px;
      padding: 0 7px;
      color: var(--quiet);
      font: 13px var(--font-mono);
    }
    .columns {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 304px;
      gap: 20px;
    }
    section {
      border-top: 1px solid var(--strong-line);
      padding: 10px 0 18px;
    }
    section h2 .quiet {
      font-family: var(--font-text);
      font-weight: 400;
      margin-left: 6px;
    }
    .shelf {
      display: flex;
      flex-wrap: wrap;
      gap: 12px;
      padding-top: 10px;
      min-height: 96px;
    }
    @media (max-width: 900px) {
      .columns {
        grid-template-columns: minmax(0, 1fr);
      }
    }
  `,
  host: { '(document:keydown./)': 'focusFind($event)' },
})
export class DeskPage {
  private readonly service = inject(DeskService);
  private readonly live = inject(LiveService);
  private readonly router = inject(Router);
  private readonly session = inject(SessionService);

  protected readonly desk = signal<Desk | null>(null);
  protected readonly problem = signal('');
  protected readonly progress = signal<ReadonlyMap<number, Progress>>(new Map());
  protected readonly now = signal(this.session.now());
  protected words = '';

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
    return [
      {
        name: 'In',
        says: said(desk.in.length, 'handed in, not begun'),
        cards: desk.in,
        empty: 'Put a card into a reader: it shows here within two seconds.',
      },
      {
        name: 'On the desk',
        says: deskSays || said(desk.onTheDesk.length, 'begun'),
        cards: desk.onTheDesk,
        empty: 'Open a card from the tray above to say whose it is.',
      },
      {
        name: 'To give back',
        says: tallied ? said(tallied, 'tallied in every place') : '',
        cards: desk.toGiveBack,
        empty: 'Cards whose copies all tally come here.',
      },
    ];
  });

  constructor() {
    const destroyed = inject(DestroyRef);
    this.live
      .whenever('desk', 'people', 'intake')
      .pipe(
        auditTime(120),
        startWith(undefined),
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

  protected find(): void {
    void this.router.navigate(['/logbook'], { queryParams: { words: this.words } });
  }

  protected focusFind(event: Event): void {
    if (event.target instanceof HTMLInputElement) return;
    event.preventDefault();
    document.getElementById('find')?.focus();
  }
}

const said = (n: number, words: string) => (n ? `${n} ${n === 1 ? 'card' : 'cards'} ${words}` : '');
