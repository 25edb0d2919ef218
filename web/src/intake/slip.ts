import { ChangeDetectionStrategy, Component, computed, inject, output, viewChild } from '@angular/core';
import { RouterLink } from '@angular/router';
import { PopoverModule } from 'primeng/popover';
import type { ItemView } from '@tally/contract';
import { partNames } from '@tally/core/logbook';
import { shiftInWords } from '@tally/core/capture';
import { filedFolders } from '@tally/core/plan';
import { cardInWords } from '@tally/core/reader';
import { toSignal } from '@angular/core/rxjs-interop';
import { PeopleService } from '../api/people.service';
import { SessionService } from '../api/session.service';
import { BytesPipe } from '../shared/amounts';
import { focusBack } from '../shared/focus-back';
import { PullLamp, pullingOfView } from '../shared/pull-lamp';
import { AssignmentPicker } from './assignment-picker';
import { CreditClauses } from './credit-clauses';
import { ContributorPicker } from './contributor-picker';
import { membersOf, type Tile } from '../sheet/tiles';
import { View } from '../sheet/view';
import { IntakeStore } from './intake-store';
import { LabelPicker } from './label-picker';
import { filedPlacements, newFolders, plannedPlacements } from './placements';
import { Presence } from './presence';

/** The slip: one sentence with words to fill in, and under it what the card comes to. */
@Component({
  selector: 'ts-slip',
  imports: [PopoverModule, RouterLink, BytesPipe, PullLamp, CreditClauses, ContributorPicker, AssignmentPicker, LabelPicker],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (store.intake(); as intake) {
      <h1>
        Card
        <button #labelWord type="button" class="word tape" (click)="label.toggle($event)">
          {{ intake.card.label ?? 'no label' }}
        </button>
        <p-popover #label ariaLabel="Label on the tape" (onHide)="back(labelWord, label)"
          ><ts-label-picker (done)="label.hide()"
        /></p-popover>
        from
        <button
          #whoWord
          type="button"
          class="word"
          [class.blank]="open() && !intake.contributor"
          [disabled]="!open()"
          (click)="who.toggle($event)"
        >
          {{ saysWho() }}</button><p-popover #who ariaLabel="Who took these" (onHide)="back(whoWord, who)"
          ><ts-contributor-picker (done)="who.hide()" /></p-popover
        >, shot for
        <button
          #whatWord
          type="button"
          class="word"
          [class.blank]="open() && !intake.assignment"
          [disabled]="!open()"
          (click)="what.toggle($event)"
        >
          {{ saysWhat() }}</button><p-popover #what ariaLabel="What they were shot for" (onHide)="back(whatWord, what)"
          ><ts-assignment-picker (done)="what.hide()" /></p-popover
        >{{ parts() }}, {{ verb() }}
        @for (folder of folders(); track folder.path) {
          <span class="path">
            @for (part of folder.parts; track $index; let end = $last) {
              <span [class.leaf]="end">{{ part }}</span>
              @if (!end) {
                <span class="slash">/</span><wbr />
              }
            }
            @if (folder.isNew) {
              <span class="new">new</span>
            }
          </span>
        } @empty {
          @if (!many()) {
            <span class="quiet nowhere">{{ nowhere() }}</span>
          }
        }
        @if (many(); as words) {
          <span>{{ words }}</span>
        }
        <ts-credit-clauses />
      </h1>
      <p class="facts">
        <span
          ><b>{{ counts().taken + counts().promised }}</b> {{ filedWords() }},
          {{ counts().takenBytes + counts().promisedBytes | bytes }}</span
        >
        @if (counts().already && !before()) {
          <span
            ><b>{{ counts().already }}</b> already filed</span
          >
        }
        @if (counts().left) {
          <span
            ><b>{{ counts().left }}</b> left, still on the card</span
          >
        }
        @if (counts().gone) {
          <span
            ><b>{{ counts().gone }}</b> left, and gone with the clearing</span
          >
        }
        @if (counts().out) {
          <span
            ><b>{{ counts().out }}</b> left; on the card when it was given back</span
          >
        }
        @if (intake.unshown) {
          <button type="button" class="plain trouble" (click)="alone('what must not be shown', unshown())">
            {{ intake.unshown }} must not be shown
          </button>
        }
        @if (counts().aside) {
          <span class="attention"
            ><b>{{ counts().aside }}</b> set aside</span
          >
        }
        @if (others(); as words) {
          <span class="attention" role="status">{{ words }} open too</span>
        }
        @if (before(); as words) {
          <a [routerLink]="['/logbook', words.intakeId]">{{ words.text }}</a>
        }
        @if (store.bodies().length) {
          <button type="button" class="plain" (click)="clocks.emit()">
            {{ store.bodies().length > 1 ? store.bodies().length + ' cameras' : intake.camera }}, clock
          </button>
        }
        @if (remembered(); as words) {
          <button type="button" class="plain attention" (click)="clocks.emit()">{{ words }}</button>
        }
        @if (foreign().length) {
          <button type="button" class="plain attention" (click)="lookAtForeign()">
            {{ foreign().length }} taken with somebody else’s camera: whose are they?
          </button>
        }
        @if (counts().twins) {
          <button type="button" class="plain" (click)="alone('what is twice on this card', twins())">
            {{ counts().twins }} twice on this card
          </button>
        }
        @if (counts().namesakes) {
          <button type="button" class="plain" (click)="alone('namesakes of what is filed', namesakes())">
            {{ counts().namesakes }} with a name that was filed before, but other pictures
          </button>
        }
        @if (intake.read < intake.items && intake.present) {
          <span>reading {{ intake.read }} of {{ intake.items }}</span>
        }
        @if (doubtful().length) {
          <button type="button" class="plain attention" (click)="alone('doubtful dates', doubtful())">
            {{ doubtful().length }} with a doubtful date: look before filing
          </button>
        }
        @if (unset()) {
          <button type="button" class="plain attention" (click)="clocks.emit()">put the camera’s clock right</button>
        }
        @if (counts().odd) {
          <button type="button" class="plain attention" (click)="alone('what is odd', odd())">
            {{ counts().odd }} with something odd
          </button>
        }
        @for (one of card()?.attention ?? []; track one) {
          <span class="attention">{{ one }}</span>
        }
        @if (card()?.says; as words) {
          <span>{{ words }}</span>
        }
        <ts-pull-lamp [intake]="intake" />
        @if (canLetGo()) {
          <button type="button" class="plain" [disabled]="store.lettingGo()" (click)="pull.emit()">
            {{ store.lettingGo() ? 'letting it go…' : 'Let it go' }}
          </button>
        }
        @if (!intake.present && intake.state === 'open' && intake.letGo !== 'done') {
          <span class="attention">The card is not in the reader</span>
        }
        <a [routerLink]="['/logbook', intake.id]" class="record">Intake {{ intake.number }}</a>
      </p>
      @if (intake.note) {
        <p class="attention" role="alert">{{ intake.note }}</p>
      }
    } @else if (store.problem()) {
      <p class="attention" role="alert">{{ store.problem() }}</p>
    } @else {
      <div class="skeleton" style="height: 64px"></div>
    }
  `,
  styles: `
    :host {
      display: block;
      padding: 16px 24px 12px;
      border-bottom: 1px solid var(--line);
    }
    h1 {
      font-size: 24px;
      font-weight: 460;
      line-height: 1.45;
      /* Two lines, said or not: the sheet begins at one height. */
      min-height: 2.9em;
    }
    @media (max-width: 760px), (max-height: 560px) {
      h1 {
        font-size: 18px;
        min-height: 0;
      }
      .path {
        font-size: 15px;
      }
    }
    .word {
      border: 0;
      border-bottom: 2px dotted var(--reed);
      background: none;
      padding: 0 1px;
      color: var(--reed);
      font: inherit;
      font-weight: 620;
      cursor: pointer;
      line-height: 1.25;
    }
    .word:disabled {
      border-color: transparent;
      color: var(--ink);
      cursor: default;
    }
    .word.tape {
      font-family: var(--font-mono);
      border-bottom-style: dotted;
    }
    .word.blank {
      background: var(--straw);
      color: var(--ochre);
      border-color: var(--ochre);
      padding: 0 8px;
      border-radius: 4px 4px 0 0;
    }
    .path {
      font-family: var(--font-mono);
      font-size: 20px;
    }
    .path > span {
      white-space: nowrap;
    }
    .slash {
      color: var(--quiet);
      padding: 0 3px;
    }
    .leaf {
      font-weight: 640;
    }
    .new {
      display: inline-block;
      margin-left: 6px;
      padding: 0 7px;
      border-radius: 4px;
      background: var(--reed-soft);
      color: var(--reed);
      font: 600 13px/20px var(--font-text);
      vertical-align: 2px;
    }
    .nowhere {
      font-size: 18px;
    }
    .facts {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 20px;
      align-items: center;
      margin-top: 6px;
      color: var(--quiet);
      font-size: 13px;
    }
    .facts b {
      color: var(--ink);
    }
    .facts .attention {
      padding: 2px 10px;
    }
    .facts .plain {
      border: 0;
      border-bottom: 1px dotted currentColor;
      background: none;
      padding: 0;
      min-height: 24px;
      color: var(--reed);
      font: inherit;
      cursor: pointer;
    }
    .facts .plain.attention {
      padding: 2px 10px;
      border: 0;
      background: var(--straw);
      color: var(--ochre);
    }
    .facts .plain.trouble {
      color: var(--trouble);
      font-weight: 600;
    }
    .record {
      margin-left: auto;
    }
  `,
})
export class Slip {
  protected readonly store = inject(IntakeStore);
  /** Asked for as long as it can be said; afterwards as it was filed. */
  protected readonly saysWho = computed(() => this.said('contributor') ?? (this.open() ? 'whom?' : 'nobody named'));
  protected readonly saysWhat = computed(() => this.said('assignment') ?? (this.open() ? 'what?' : 'nothing said'));

  private said(what: 'contributor' | 'assignment'): string | null {
    const intake = this.store.intake();
    if (!intake) return null;
    const own = what === 'contributor' ? intake.contributor?.name : intake.assignment?.title;
    return own ?? (this.open() ? null : partNames(intake, what).join(' and ') || null);
  }

  private readonly presence = inject(Presence, { optional: true });
  readonly clocks = output();
  readonly pull = output();
  readonly clauses = viewChild(CreditClauses);
  protected readonly back = focusBack;
  private readonly people = inject(PeopleService);
  // Whoever opens a word and types at once finds the lists there.
  protected readonly lists = [toSignal(this.people.contributors)];
  /** What the system says of the card, as long as it is in a reader. */
  protected readonly card = computed(() => {
    const intake = this.store.intake();
    return intake?.present && intake.reader ? cardInWords(intake.reader) : null;
  });
  protected readonly canLetGo = computed(() => {
    const intake = this.store.intake();
    if (!intake?.present || !intake.reader?.letsGo) return false;
    const { standing, waits } = pullingOfView(intake);
    return standing === 'let it go' || waits;
  });
  /** Somebody wants to say whose these are. */
  readonly ask = output<readonly Tile[]>();

  /** Who else has it open; empty when nobody has. */
  protected readonly others = computed(() => {
    const names = this.presence?.others() ?? [];
    return names.length ? `${names.join(' and ')} ${names.length > 1 ? 'have' : 'has'} it` : '';
  });

  /** What of the card belongs elsewhere than the slip's contributor and assignment, in words. */
  protected readonly parts = computed(() => {
    const counts = new Map<string, number>();
    for (const { assignment, contributor, taken, filedAs } of this.store.settled()) {
      if (!(assignment ?? contributor) || (!taken && !filedAs)) continue;
      const words = [assignment && `for ${assignment.title}`, contributor && `by ${contributor.name}`].filter(Boolean).join(' ');
      counts.set(words, (counts.get(words) ?? 0) + 1);
    }
    const parts = [...counts].map(([words, n]) => `${n} ${words}`);
    return parts.map((part, i) => `${i === parts.length - 1 ? ' and' : ','} ${part}`).join('');
  });

  /** A card that was read before: how much of it was filed when, and what is new. */
  protected readonly before = computed(() => {
    const material = this.store.settled();
    const known = material.flatMap((item) => (item.alreadyFiled && !item.filedAs ? [item.alreadyFiled] : []));
    const filed = known.filter(({ confirmed }) => confirmed);
    const at = filed.map((one) => one.at).filter((day) => day !== null);
    if (!filed.length || !at.length) return null;
    const newest = at.reduce((a, b) => (a > b ? a : b));
    const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', timeZone: this.zone() }).format(
      new Date(newest),
    );
    const fresh = material.length - known.length;
    const comparing = known.length > filed.length ? `, ${known.length - filed.length} being compared` : '';
    const text = `${filed.length} of ${material.length} were filed on ${day}${comparing}; ${fresh} ${fresh === 1 ? 'is' : 'are'} new`;
    return { intakeId: filed.find((one) => one.at === newest)!.intakeId, text };
  });

  /** What of it stands on the drive, and what is on its way. */
  protected readonly filedWords = computed(() => {
    const { taken, filed, promised } = this.counts();
    if (!promised) return 'taken';
    if (promised === filed) return taken ? `: ${filed} filed, ${taken} taken` : 'filed';
    return this.store.intake()?.state === 'filing' ? 'filed or being filed' : `: ${filed} filed, ${promised - filed} not`;
  });

  protected readonly foreign = computed(() => {
    const bodies = this.store.foreignBodies();
    return this.store.settled().filter((item) => item.serial && bodies.has(item.serial) && !item.contributor && !item.filedAs);
  });

  private readonly view = inject(View);
  /** What the plan doubts: the same that the drawer speaks of. */
  protected readonly doubtful = computed(() => {
    const doubted = new Set(this.store.plan()?.doubts.map(({ itemId }) => itemId));
    return this.store.settled().filter(({ id }) => doubted.has(id));
  });
  /** Is there a camera whose clock was never set? */
  protected readonly unset = computed(
    () => this.open() && this.doubtful().some(({ captured }) => captured.doubt === 'camera epoch'),
  );
  protected readonly twins = computed(() => this.store.settled().filter((item) => item.twinOf));
  protected readonly namesakes = computed(() => this.store.settled().filter((item) => item.namesake && !item.filedAs));
  protected readonly unshown = computed(() =>
    this.store.settled().filter((item) => item.credit?.pictured.some(({ consent }) => consent === 'no')),
  );
  protected readonly odd = computed(() => this.store.settled().filter((item) => item.remark ?? item.problem));

  protected alone(words: string, items: readonly ItemView[]): void {
    this.view.showAlone(words, items);
  }

  /** Shows them, and asks whose they are. */
  protected lookAtForeign(): void {
    const ids = new Set(this.foreign().map(({ id }) => id));
    this.alone('what somebody else’s camera took', this.foreign());
    const tiles = this.store.tiles().filter((tile) => membersOf(tile).some(({ id }) => ids.has(id)));
    this.view.choose(tiles, 'only');
    this.ask.emit(tiles);
  }

  /** A correction that was found for one of these cameras before, and is not applied here. */
  protected readonly remembered = computed(() => {
    const body = this.store.bodies().find(({ remembered, shiftSeconds }) => remembered && shiftSeconds === 0);
    if (!body || !this.open()) return null;
    return `${body.model}: its clock was off before (${shiftInWords(body.remembered!.seconds)})`;
  });

  private readonly zone = inject(SessionService).zone;
  protected readonly counts = this.store.counts;
  protected readonly open = computed(() => this.store.intake()?.state === 'open');
  protected readonly verb = computed(() => (this.open() || this.store.intake()?.state === 'filing' ? 'goes to' : 'went to'));

  private readonly all = computed(() => {
    const planned = plannedPlacements(this.store.plan());
    return filedFolders(planned.length ? planned : filedPlacements(this.store.items()), newFolders(this.store.plan()));
  });

  protected readonly folders = computed(() =>
    (this.all().length > 1 ? [] : this.all()).map((folder) => ({ ...folder, parts: folder.path.split('/') })),
  );
  /** The drawer shows them; the sentence says how many. */
  protected readonly many = computed(() => {
    const all = this.all();
    const fresh = all.filter(({ isNew }) => isNew).length;
    return all.length > 1 ? `${all.length} folders${fresh ? `, ${fresh} new` : ''}` : '';
  });

  protected readonly nowhere = computed(() => {
    const missing = this.store.plan()?.missing ?? [];
    if (missing.length) return '… say who and what, and the folders show here';
    const { already, taken } = this.counts();
    if (already && !taken) return 'nowhere: everything on it is already filed';
    return 'nowhere yet: nothing is taken';
  });
}
