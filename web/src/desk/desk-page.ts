import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Router } from '@angular/router';
import type { Desk, IntakeSummary, Progress } from '@tally/contract';
import { formatDuration } from '@tally/core/logbook';
import { catchError, of, switchMap, throttleTime, timer } from 'rxjs';
import { DeskService } from '../api/desk.service';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { HouseTimePipe } from '../shared/amounts';
import { FindBox } from '../shared/find-box';
import { CardTile } from './card-tile';
import { Expected } from './expected';
import { HandInLink } from './hand-in-link';
import { ButtonModule } from 'primeng/button';
import { LabelsDialog } from './labels-dialog';
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
  imports: [CardTile, Expected, PlacesNow, HandInLink, LabelsDialog, ButtonModule, FindBox, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>Desk</h1>
        <span class="quiet">{{ now() | houseTime: 'long' }}</span>
        <button pButton type="button" class="p-button-outlined labels" (click)="printing.set(true)">Labels</button>
        <ts-hand-in-link />
        <ts-find-box label="Find an intake by any word" placeholder="Find anything" (sought)="find($event)" />
      </header>
      @if (printing()) {
        <ts-labels-dialog (done)="printing.set(false)" />
      }
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
    .labels {
      margin-left: auto;
      align-self: center;
    }
    ts-hand-in-link {
      align-self: center;
    }
    ts-find-box {
      width: 280px;
      align-self: center;
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
})
export class DeskPage {
  private readonly service = inject(DeskService);
  private readonly live = inject(LiveService);
  private readonly router = inject(Router);
  private readonly session = inject(SessionService);

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
        says: tallied ? said(tallied, 'tallied') : '',
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

  protected find(words: string): void {
    void this.router.navigate(['/logbook'], { queryParams: { words } });
  }
}

const said = (n: number, words: string) => (n ? `${n} ${n === 1 ? 'card' : 'cards'} ${words}` : '');
