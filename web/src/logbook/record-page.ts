import { ChangeDetectionStrategy, Component, computed, inject, input, numberAttribute, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { EventView, IntakeCredit, KeptReceipt, IntakeSummary, ItemView } from '@tally/contract';
import { KINDS } from '@tally/core/card';
import { notToBeShown } from '@tally/core/credit';
import { type ItemStanding, standingInWords, standingOfItem } from '@tally/core/life';
import { partNames } from '@tally/core/logbook';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { TableModule } from 'primeng/table';
import { auditTime, catchError, EMPTY, forkJoin, map, of, repeat, startWith, switchMap, timer, type Observable } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { IntakesService } from '../api/intakes.service';
import { SessionService } from '../api/session.service';
import { creditOfItem, type ItemCredit } from '../sheet/credit-of-item';
import { LiveService, ofIntake } from '../api/live.service';
import { isNotFound, wordsFor } from '../api/problem';
import { BytesPipe, HouseTimePipe } from '../shared/amounts';
import { CopyMark } from '../shared/copy-mark';
import { StateMark } from '../shared/state-mark';
import { RestoreDialog } from './restore-dialog';
import { Picture } from '../sheet/picture';
import { NotThere } from '../shell/not-there';
import { Stick } from '../stick/stick';
import { May } from '../shared/may';

const NOT_THERE = 'not there';
const FOLLOW_MS = 2000;

interface Whole {
  readonly intake: IntakeSummary;
  readonly items: readonly ItemView[];
  readonly events: readonly EventView[];
  readonly receipts: readonly KeptReceipt[];
  readonly credit: IntakeCredit;
}

/** One intake as it stands in the log: who, what, every item with its copies, and all that happened. */
@Component({
  selector: 'ts-record',
  imports: [
    May,
    NotThere,
    Picture,
    DialogModule,
    RouterLink,
    TableModule,
    ButtonModule,
    Stick,
    StateMark,
    CopyMark,
    RestoreDialog,
    BytesPipe,
    HouseTimePipe,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      @if (whole(); as record) {
        @let intake = record.intake;
        <header class="page-head">
          <h1 class="mono">{{ intake.number }}</h1>
          <ts-state [state]="intake.state" />
          <a pButton tsMay="see the desk" class="p-button-outlined" [routerLink]="['/intake', intake.id]">Open the intake</a>
          @if (intake.filed) {
            <a pButton class="p-button-outlined" routerLink="/shelf" [queryParams]="{ q: 'intake:' + intake.number }"
              >On the shelf</a
            >
          }
          <a
            pButton
            tsMay="fetch"
            class="p-button-outlined"
            [href]="'/api/intakes/' + intake.id + '/receipt.pdf'"
            target="_blank"
            rel="noopener"
            ><i class="pi pi-print" aria-hidden="true"></i> Receipt</a
          >
          @if (intake.filed) {
            <button pButton type="button" tsMay="clear" class="p-button-outlined" (click)="restoring.set(true)">Restore…</button>
          }
        </header>
        @if (intake.note) {
          <p class="attention" role="alert">{{ intake.note }}</p>
        }
        @if (intake.unshown) {
          <p class="trouble" role="alert">
            {{ intake.unshown }} {{ intake.unshown === 1 ? 'item shows' : 'items show' }} somebody who must not be shown.
          </p>
        }
        @if (record.credit.following; as n) {
          <p class="quiet" role="status">
            {{ n }} {{ n === 1 ? 'record' : 'records' }} beside the files still to be written anew.
          </p>
        }
        @if (record.credit.behind.length) {
          <p class="attention" role="status">
            {{ behindWords(record) }}
          </p>
        }
        @if (restoring()) {
          <ts-restore-dialog [intake]="intake" (done)="restoring.set(false)" />
        }
        <ts-stick [runs]="intake.stick" [behind]="record.credit.behind" />
        <p-dialog
          [header]="looking() ? leaf(looking()!.path) : ''"
          closeAriaLabel="Close"
          [modal]="true"
          [dismissableMask]="true"
          [visible]="looking() !== null"
          (visibleChange)="looking.set(null)"
          [style]="{ width: 'min(960px, 94vw)' }"
        >
          @if (looking(); as item) {
            <img class="closer" [src]="'/api/items/' + item.id + '/picture/closer'" [alt]="item.path" />
            <p class="path mono">{{ where(item) }}</p>
            @if (item.description) {
              <p>{{ item.description }}</p>
            }
            <p>{{ creditWords(item, record) }}</p>
            @if (never(item); as words) {
              <p class="trouble">{{ words }}</p>
            }
          }
        </p-dialog>
        <dl>
          <div>
            <dt>Contributor</dt>
            <dd>{{ names(intake, 'contributor') || 'not said' }}</dd>
          </div>
          <div>
            <dt>Assignment</dt>
            <dd>{{ names(intake, 'assignment') || 'not said' }}</dd>
          </div>
          <div>
            <dt>Card</dt>
            <dd>
              <span class="tape">{{ intake.card.label ?? 'no label' }}</span> {{ intake.card.volume }}
            </dd>
          </div>
          <div>
            <dt>Received</dt>
            <dd>
              {{ intake.receivedAt | houseTime }}{{ intake.receivedBy === intake.station ? '' : ' by ' + intake.receivedBy }}
            </dd>
          </div>
          <div>
            <dt>Station</dt>
            <dd>{{ intake.station }}</dd>
          </div>
          <div>
            <dt>Credit and terms</dt>
            <dd>{{ creditWords(null, record) }}</dd>
          </div>
          <div>
            <dt>Camera</dt>
            <dd>{{ intake.camera ?? 'not known' }}</dd>
          </div>
          <div>
            <dt>On the card</dt>
            <dd>{{ kinds() }}</dd>
          </div>
          <div>
            <dt>First to last</dt>
            <dd class="mono">{{ intake.first ?? '—' }} … {{ intake.last ?? '—' }}</dd>
          </div>
        </dl>
        <div class="columns">
          <section aria-label="Items">
            <h2>
              Items
              <span class="quiet">{{ fates() }}</span>
            </h2>
            <p-table
              [value]="items()"
              [virtualScroll]="items().length > 200"
              [virtualScrollItemSize]="36"
              [scrollable]="true"
              [scrollHeight]="items().length > 200 ? '520px' : ''"
              [tableStyle]="{ 'table-layout': 'fixed' }"
            >
              <ng-template #header>
                <tr>
                  <th scope="col" style="width: 62px"><span class="visually-hidden">Picture</span></th>
                  <th scope="col" style="width: 20%">On the card</th>
                  <th scope="col">On the drive</th>
                  @if (isSplit()) {
                    <th scope="col" style="width: 22%">By, for</th>
                  }
                  <th scope="col" style="width: 84px" class="right">Size</th>
                  <th scope="col" style="width: 196px">Copies</th>
                </tr>
              </ng-template>
              <ng-template #body let-item>
                <tr>
                  <td class="picture"><ts-picture [item]="item" /></td>
                  <td class="mono" [title]="item.path">
                    <button type="button" class="plain" (click)="looking.set(item)">{{ leaf(item.path) }}</button>
                  </td>
                  <td class="mono" [title]="where(item)">
                    @if (stands(item) === 'filed') {
                      {{ leaf(item.filedAs) }}
                    } @else {
                      <span class="quiet">{{ where(item) }}</span>
                    }
                    @if (never(item); as words) {
                      <span class="trouble" [title]="words">not to be shown</span>
                    }
                  </td>
                  @if (isSplit()) {
                    <td [title]="belongs(item, intake)">{{ belongs(item, intake) }}</td>
                  }
                  <td class="right">{{ item.bytes | bytes }}</td>
                  <td>
                    @for (copy of item.copies; track copy.place) {
                      <ts-copy [state]="copy.state" [place]="copy.place" [problem]="copy.problem" />
                    }
                  </td>
                </tr>
              </ng-template>
              <ng-template #emptymessage
                ><tr>
                  <td [attr.colspan]="isSplit() ? 6 : 5" class="empty">There was nothing to file on this card.</td>
                </tr></ng-template
              >
            </p-table>
          </section>
          <section aria-label="What happened">
            <details tsMay="file" class="correct">
              <summary>Correct …</summary>
              <p>
                What is said of an item (select, hold, a description), the label of the card and what happens when it is put in
                again are corrected in <a [routerLink]="['/intake', intake.id]">the intake</a>, at any time.
              </p>
              <p>
                Whose it is, what it was shot for and the clock of a camera stand in the names: they are corrected there until the
                first item is filed. After that, names and folders on the drive are not changed yet; credit, words, location and
                who is shown are changed in the intake (E) at any time.
              </p>
              <p>A name or an assignment that is spelt wrongly is corrected under <a routerLink="/people">People</a>.</p>
            </details>
            <h2>What happened</h2>
            <ol>
              @for (event of record.events; track event.id) {
                <li>
                  <time class="quiet" [attr.datetime]="event.at"
                    >{{ event.at | houseTime: 'short' }}{{ event.who ? ' · ' + event.who : '' }}</time
                  ><span>{{ event.text }}</span>
                </li>
              }
            </ol>
            @if (record.receipts.length) {
              <h2>Receipts that were made</h2>
              <ul>
                @for (receipt of record.receipts; track receipt.name) {
                  <li>
                    <a
                      tsMay="fetch"
                      [href]="'/api/intakes/' + intake.id + '/receipts/' + receipt.name"
                      target="_blank"
                      rel="noopener"
                      >{{ receipt.at.replace('T', ' ') }}, {{ receipt.paper }}</a
                    >
                  </li>
                }
              </ul>
            }
          </section>
        </div>
      } @else if (notThere()) {
        <ts-not-there what="There is no such intake" />
      } @else if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
        <a routerLink="/logbook">To the logbook</a>
      } @else {
        <div class="skeleton" style="height: 320px"></div>
      }
    </div>
  `,
  styles: `
    .page-head a,
    .page-head button {
      align-self: center;
      text-decoration: none;
    }
    .page-head a:first-of-type {
      margin-left: auto;
    }
    .trouble {
      color: var(--trouble);
      font-weight: 600;
      font-family: var(--font-text);
    }
    ts-stick {
      height: 44px;
    }
    dl {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
      gap: 12px 20px;
      padding: 16px 0 20px;
    }
    dt {
      color: var(--quiet);
      font-size: 13px;
    }
    dd {
      overflow-wrap: anywhere;
    }
    .columns {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 330px;
      gap: 24px;
    }
    section {
      border-top: 1px solid var(--strong-line);
      padding-top: 10px;
    }
    td.mono {
      font-size: 13px;
    }
    td.mono .plain {
      border: 0;
      padding: 0;
      min-height: 24px;
      max-width: 100%;
      overflow: hidden;
      text-overflow: ellipsis;
      background: none;
      color: var(--reed);
      font: inherit;
      cursor: pointer;
    }
    td.picture {
      padding: 1px 8px 1px 0;
    }
    .picture ts-picture {
      width: 50px;
      height: 33px;
    }
    .closer {
      display: block;
      max-width: 100%;
      max-height: 66vh;
      margin: 0 auto;
    }
    .path {
      margin-top: 10px;
      overflow-wrap: anywhere;
    }
    .correct {
      margin-bottom: 14px;
    }
    .correct summary {
      cursor: pointer;
      color: var(--reed);
      font-weight: 600;
      min-height: 28px;
    }
    .correct p {
      padding: 4px 0;
      font-size: 13px;
    }
    li {
      display: grid;
      padding: 8px 0;
      border-bottom: 1px solid var(--line);
      overflow-wrap: anywhere;
    }
    ol + h2 {
      margin-top: 20px;
    }
    @media (max-width: 1000px) {
      .columns {
        grid-template-columns: minmax(0, 1fr);
      }
    }
  `,
})
export class RecordPage {
  readonly id = input.required({ transform: numberAttribute });
  private readonly service = inject(IntakesService);
  private readonly crediting = inject(CreditService);
  private readonly session = inject(SessionService);
  private readonly live = inject(LiveService);
  protected readonly restoring = signal(false);

  private readonly answer = toSignal(toObservable(this.id).pipe(switchMap((id) => this.follow(id))));
  protected readonly whole = computed(() => {
    const answer = this.answer();
    return typeof answer === 'object' ? answer : null;
  });
  protected readonly problem = computed(() => {
    const answer = this.answer();
    return typeof answer === 'string' ? answer : '';
  });
  protected readonly notThere = computed(() => this.problem() === NOT_THERE);
  protected readonly items = computed(() => [...(this.whole()?.items ?? [])]);
  protected readonly looking = signal<ItemView | null>(null);
  /** Do items belong to somebody or something else than the slip says? */
  protected readonly isSplit = computed(() => this.items().some(({ contributor, assignment }) => contributor ?? assignment));
  /** How many stand where, in words that are true now. */
  protected readonly fates = computed(() => {
    const counts = new Map<string, number>();
    const say = (words: string) => counts.set(words, (counts.get(words) ?? 0) + 1);
    for (const item of this.items()) say(item.setAside ? 'of the camera itself' : this.stands(item));
    return [...counts].map(([words, n]) => `${n} ${words}`).join(', ');
  });
  protected readonly kinds = computed(() => {
    const { byKind = {} } = this.whole()?.intake ?? {};
    const bytes = new BytesPipe();
    return (
      KINDS.flatMap((kind) =>
        byKind[kind] ? [`${byKind[kind].items} ${kind} (${bytes.transform(byKind[kind].bytes)})`] : [],
      ).join(', ') || 'nothing'
    );
  });

  protected leaf(path: string): string {
    return path.slice(path.lastIndexOf('/') + 1);
  }

  protected where(item: ItemView): string {
    if (item.setAside) return `of the camera itself: ${item.setAside}`;
    if (this.stands(item) === 'filed') return item.filedAs!;
    const known = item.alreadyFiled ? ` (${item.alreadyFiled.intakeNumber})` : '';
    return `${standingInWords(item, this.card())}${known}`;
  }

  protected stands(item: ItemView): ItemStanding {
    return standingOfItem(item, this.card());
  }

  protected names(intake: IntakeSummary, what: 'contributor' | 'assignment'): string {
    return partNames(intake, what).join(', ');
  }

  /** Whose an item is and what it was shot for: as it says itself, else as the slip does. */
  protected belongs(item: ItemView, slip: IntakeSummary): string {
    return [(item.contributor ?? slip.contributor)?.name, (item.assignment ?? slip.assignment)?.title].filter(Boolean).join(', ');
  }

  /** Credit and terms of an item, of the slip without one: in a line. */
  protected creditWords(item: ItemView | null, { intake, credit }: Whole): string {
    const says: ItemCredit = creditOfItem(item, intake, credit, this.session.today());
    return [
      says.creditLine,
      says.standing.words,
      says.words.map(({ text }) => text).join(', '),
      says.location?.name,
      item?.credit?.pictured.map(({ name }) => name).join(', '),
    ]
      .filter(Boolean)
      .join(' · ');
  }

  /** Places that lag behind in what their files say. */
  protected behindWords({ credit }: Whole): string {
    const names = credit.behind.map(({ name }) => name);
    return `${names.join(' and ')} ${names.length === 1 ? 'lags' : 'lag'} behind in credit: the copies there tally, and follow when the place is here.`;
  }

  protected never({ credit }: ItemView): string | null {
    return notToBeShown(credit?.pictured ?? []);
  }

  private card(): Pick<IntakeSummary, 'tray'> {
    return this.whole()?.intake ?? { tray: 'on the desk' };
  }

  private follow(id: number): Observable<Whole | string> {
    return this.live.events.pipe(
      ofIntake(id),
      auditTime(500),
      startWith(null),
      switchMap(() =>
        forkJoin({
          intake: this.service.one(id),
          items: this.service.items(id, 0).pipe(map(({ items }) => items)),
          events: this.service.events(id),
          receipts: this.service.receipts(id),
          credit: this.crediting.ofIntake(id),
        }).pipe(
          // As long as records beside the files are still to be written, somebody may be waiting for them.
          repeat({ delay: () => (this.whole()?.credit.following ? timer(FOLLOW_MS) : EMPTY) }),
          catchError((error: unknown) => of(isNotFound(error) ? NOT_THERE : wordsFor(error))),
        ),
      ),
    );
  }
}
