import { CdkTrapFocus } from '@angular/cdk/a11y';
import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  ElementRef,
  inject,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { ItemView } from '@tally/contract';
import { doubtInWords, isoCaptureTime, shiftInWords } from '@tally/core/capture';
import { cameraName } from '@tally/core/card';
import { clipInWords } from '@tally/core/footage';
import { standingInWords } from '@tally/core/life';
import { sharpnessBar } from '@tally/core/looks';
import { InputTextModule } from 'primeng/inputtext';
import { catchError, debounceTime, of, switchMap } from 'rxjs';
import { IntakesService } from '../api/intakes.service';
import { embeddedInWords } from '@tally/core/credit';
import { positionInWords } from '@tally/core/location';
import { SessionService } from '../api/session.service';
import { creditOfItem } from '../sheet/credit-of-item';
import { BytesPipe } from '../shared/amounts';
import { Acts } from '../sheet/acts';
import { SheetSource } from '../sheet/sheet-source';
import { NextPictures } from './next-pictures';
import { Pane, type Point } from './pane';
import { Picture } from '../sheet/picture';
import { Player } from './player';
import { canBeSetAside, isChangeable, nameOf, objectOf, partsOf, type Tile } from '../sheet/tiles';
import { View } from '../sheet/view';
import { Written } from './written';
import { May } from '../shared/may';

/** So many of an object's files are named; a series may have thousands. */
const PARTS_SHOWN = 40;

/** What a file is to the one that is shown. */
const roleInWords = ({ objectRole, part, parts }: ItemView): string =>
  part !== null && objectRole === 'part' ? `Part ${part} of ${parts}` : ROLE_WORDS[objectRole];
const ROLE_WORDS: Readonly<Record<ItemView['objectRole'], string>> = {
  ...{ leader: 'File', part: 'Part', raw: 'Raw', sound: 'Sound', sidecar: 'Sidecar', proxy: 'Small version' },
  ...{ thumbnail: 'Thumbnail', index: 'Index', edit: 'Edit' },
};
const STRIP = 11;

interface Fact {
  readonly name: string;
  readonly value: string;
}

/** One picture, or up to four side by side, filling the window, with what is known of it and what comes next. */
@Component({
  selector: 'ts-closer',
  imports: [May, Picture, Pane, Player, BytesPipe, FormsModule, InputTextModule, Written],
  providers: [NextPictures],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (view.focused(); as one) {
      <header>
        <code>{{ one.lead.path }}</code>
        <span class="quiet">{{ view.focus() + 1 }} of {{ view.tiles().length }}</span>
        @if (group(); as frames) {
          <span class="quiet">one of {{ frames.ids.length }} similar frames</span>
        }
        <span class="tools">
          @for (n of [1, 2, 3, 4]; track n) {
            <button
              type="button"
              [attr.aria-pressed]="across() === n"
              [attr.aria-label]="n + ' side by side'"
              (click)="across.set(n)"
            >
              {{ n }}
            </button>
          }
          <button type="button" [attr.aria-pressed]="zoomed()" (click)="zoomed.set(!zoomed())">Every pixel <kbd>Z</kbd></button>
          <button type="button" [attr.aria-pressed]="info()" (click)="info.set(!info())">Information <kbd>I</kbd></button>
          <button type="button" (click)="closed.emit()" aria-label="Back to the sheet">
            <i class="pi pi-times" aria-hidden="true"></i>
          </button>
        </span>
      </header>
      <div class="stage" [attr.data-across]="shown().length">
        @for (tile of shown(); track $index) {
          <figure [class.here]="shown().length > 1 && tile === one">
            @if (isPlayed(tile.lead)) {
              <ts-player [item]="tile.lead" [parts]="partsOf(tile)" (used)="acts.judge([tile], $event, 'part of use')" />
            } @else {
              <ts-pane
                [item]="tile.lead"
                [away]="!store.intake()?.present && tile.lead.filedAs === null"
                [zoomed]="zoomed()"
                [at]="at()"
                (clicked)="click(tile, $event)"
                (moved)="at.set($event)"
              />
            }
            @if (shown().length > 1) {
              <figcaption>
                <span class="state">{{ stateOf(tile) }}</span>
                <code>{{ nameOfTile(tile) }}</code>
                @if (tile.lead.sharpness !== null) {
                  <span class="bar" [class.best]="isSharpest(tile)"><i [style.width.%]="bar(tile.lead) * 100"></i></span>
                }
                @if (isSharpest(tile)) {
                  <b>sharpest</b>
                }
              </figcaption>
            }
          </figure>
        }
        @if (info()) {
          <div class="info" tabindex="0" role="group" aria-label="Information">
            <dl>
              @for (row of facts(); track row.name) {
                <dt>{{ row.name }}</dt>
                <dd>{{ row.value }}</dd>
              }
            </dl>
            @if (session.may('see persons')) {
              <ts-written [itemId]="one.lead.id" />
            }
          </div>
        }
      </div>
      <footer>
        <div class="acts" role="group" aria-label="What to do with it">
          <button type="button" aria-label="Back" [disabled]="view.focus() === 0" (click)="view.go(view.focus() - 1)">
            <i class="pi pi-arrow-left" aria-hidden="true"></i>
          </button>
          @if (canTake(one)) {
            <button type="button" class="take" [attr.aria-pressed]="one.lead.taken" (click)="acts.take([one], !one.lead.taken)">
              {{ one.lead.taken ? 'Leave it' : 'Take it' }} <kbd>Space</kbd>
            </button>
          }
          @for (verdict of verdicts; track verdict.name) {
            <button
              type="button"
              tsMay="file"
              [attr.aria-pressed]="one.lead.verdict === verdict.name"
              (click)="acts.verdict([one], verdict.name)"
            >
              {{ verdict.name }} <kbd>{{ verdict.key }}</kbd>
            </button>
          }
          <button type="button" tsMay="file" (click)="credit.emit([one])">Credit <kbd>E</kbd></button>
          @if (store.isShelf) {
            <button type="button" (click)="alike.emit(one)">Alike <kbd>A</kbd></button>
            <button type="button" (click)="where.emit(one)">Where is it <kbd>W</kbd></button>
          }
          @if (canBeSetAside(one.lead) && canTake(one)) {
            <button type="button" (click)="aside.emit([one.lead])">Set aside…</button>
          }
          @if (one.lead.filedAs; as path) {
            <button type="button" (click)="copyPath(path)"><i class="pi pi-copy" aria-hidden="true"></i> Copy path</button>
            @if (isFiled(one)) {
              <a tsMay="fetch" [href]="'/api/items/' + one.lead.id + '/file'" [attr.download]="leaf(path)"
                ><i class="pi pi-download" aria-hidden="true"></i> Fetch</a
              >
              <a
                tsMay="fetch"
                [href]="'/api/items/' + one.lead.id + '/original'"
                [attr.download]="leaf(path)"
                title="Without the credit that was put into it"
                >As on the card</a
              >
            }
          }
          <button
            type="button"
            aria-label="On"
            [disabled]="view.focus() >= view.tiles().length - 1"
            (click)="view.go(view.focus() + 1)"
          >
            <i class="pi pi-arrow-right" aria-hidden="true"></i>
          </button>
        </div>
        <strong class="state">{{ stateOf(one) }}</strong>
        @if (one.lead.sharpness !== null) {
          <span class="quiet sharpness"
            >sharpness
            <span class="bar" [class.best]="isSharpest(one)"><i [style.width.%]="bar(one.lead) * 100"></i></span>
            {{ isSharpest(one) ? 'sharpest of these' : '' }}</span
          >
        }
        <span
          >{{ time(one.lead) }} <span class="quiet">by {{ one.lead.captured.source }}</span></span
        >
        <span>{{ camera(one) }}</span>
        @if (one.lead.width) {
          <span>{{ one.lead.width }} × {{ one.lead.height }}</span>
        }
        <span>{{ one.lead.bytes | bytes }}</span>
        @if (goesTo(); as path) {
          <code>{{ path }}</code>
        }
        @if (odd(); as why) {
          <span class="attention">{{ why }}</span>
        }
        @if (shelfTerms(); as terms) {
          <span [class.trouble]="terms.mark === 'no'" [class.attention]="terms.mark === 'ask'">{{ terms.words }}</span>
        }
        @if (says(); as credit) {
          <span class="credit">{{ credit.creditLine }} · {{ credit.standing.words }}</span>
          @if (credit.consent; as consent) {
            <span [class.trouble]="consent.consent === 'no'" [class.attention]="consent.consent === 'ask'">{{
              consent.words
            }}</span>
          }
        }
        <input
          #description
          pInputText
          pSize="small"
          class="describe"
          maxlength="500"
          placeholder="Describe it  D"
          aria-label="Description"
          [readonly]="!session.may('file')"
          [ngModel]="one.lead.description"
          (change)="say($any($event.target).value)"
          (keydown.enter)="description.blur()"
          (keydown.escape)="description.blur()"
        />
      </footer>
      <div class="strip">
        @for (next of strip(); track next.tile.lead.id) {
          <button
            type="button"
            tabindex="-1"
            [class.here]="next.index === view.focus()"
            [class.left]="!store.isShelf && !next.tile.lead.taken"
            [attr.aria-label]="nameOfTile(next.tile)"
            (click)="view.focus.set(next.index)"
          >
            <ts-picture [item]="next.tile.lead" />
          </button>
        }
      </div>
    }
  `,
  styleUrl: './closer.css',
  hostDirectives: [CdkTrapFocus],
  host: { role: 'dialog', 'aria-modal': 'true', 'aria-label': 'Look closer', tabindex: '-1' },
})
export class Closer {
  protected readonly store = inject(SheetSource);
  protected readonly view = inject(View);
  protected readonly acts = inject(Acts);
  private readonly service = inject(IntakesService);
  private readonly next = inject(NextPictures);
  protected readonly session = inject(SessionService);
  readonly closed = output();
  /** Somebody wants to say whose it is and who is in it. */
  readonly credit = output<readonly Tile[]>();
  /** Somebody wants to see what is like it, and where it is. */
  readonly alike = output<Tile>();
  readonly where = output<Tile>();
  /** Somebody wants to go on without these. */
  readonly aside = output<readonly ItemView[]>();

  protected readonly across = signal(1);
  protected readonly zoomed = signal(false);
  protected readonly at = signal<Point>({ x: 0.5, y: 0.5 });
  protected readonly info = signal(false);
  private readonly box = viewChild<ElementRef<HTMLInputElement>>('description');
  private readonly player = viewChild(Player);

  protected readonly group = computed(() => this.view.similar().get(this.view.focused()?.lead.id ?? 0));

  /** What is side by side: similar frames where there are some, else what comes next. The focused one is among them. */
  protected readonly shown = computed<readonly Tile[]>(() => {
    const focused = this.view.focused();
    if (!focused) return [];
    if (this.across() === 1) return [focused];
    const group = this.group();
    const pool = group ? this.view.tiles().filter(({ lead }) => group.ids.includes(lead.id)) : this.view.tiles();
    const at = pool.indexOf(focused);
    const from = Math.max(0, Math.min(at, pool.length - this.across()));
    return pool.slice(from, from + this.across());
  });

  protected readonly strip = computed(() => {
    const tiles = this.view.tiles();
    const from = Math.max(0, Math.min(this.view.focus() - 3, tiles.length - STRIP));
    return tiles.slice(from, from + STRIP).map((tile, i) => ({ tile, index: from + i }));
  });

  protected readonly goesTo = computed(() => {
    const lead = this.view.focused()?.lead;
    const placement = this.store.plan()?.placements.find((candidate) => candidate.itemId === lead?.id);
    return lead?.filedAs ?? lead?.alreadyFiled?.path ?? (placement ? `${placement.folder}/${placement.name}` : null);
  });

  protected readonly odd = computed(() => {
    const lead = this.view.focused()?.lead;
    if (!lead) return null;
    if (lead.twinOf) return `the same bytes as ${lead.twinOf}`;
    if (lead.namesake) return `another picture had this name: ${lead.namesake}`;
    return lead.problem ?? lead.remark ?? (lead.captured.doubt && doubtInWords(lead.captured.doubt));
  });

  /** What may be done with it, where it is on the shelf. */
  protected readonly shelfTerms = computed(() => {
    const lead = this.view.focused()?.lead;
    return lead ? this.store.termsOf(lead) : null;
  });

  protected readonly says = computed(() => {
    const [lead, intake, context] = [this.view.focused()?.lead, this.store.intake(), this.store.credit()];
    return lead && intake && context ? creditOfItem(lead, intake, context, this.session.today()) : null;
  });

  private readonly written = toSignal(
    toObservable(
      computed(() => (this.info() && this.session.may('see persons') ? (this.view.focused()?.lead.id ?? null) : null)),
    ).pipe(
      debounceTime(150),
      switchMap((id) => (id === null ? of<Fact[]>([]) : this.service.details(id).pipe(catchError(() => of<Fact[]>([]))))),
    ),
    { initialValue: [] as Fact[] },
  );

  protected readonly facts = computed(() => {
    const lead = this.view.focused()?.lead;
    if (!lead) return [];
    const { captured } = lead;
    const own = [
      ['File', nameOf(lead)],
      ['Captured', this.time(lead)],
      [
        'Camera’s clock',
        captured.shiftSeconds ? `${captured.camera.replace('T', ' ')}, moved ${shiftInWords(captured.shiftSeconds)}` : '',
      ],
      ['As written', captured.original],
      ['Camera', cameraName(lead)],
      ['Serial number', lead.serial ?? ''],
    ] as const;
    const others = objectOf(this.view.focused()!)
      .filter((item) => item !== lead)
      .slice(0, PARTS_SHOWN)
      .map((item) => ({ name: roleInWords(item), value: `${nameOf(item)}${item.setAside ? ` (${item.setAside})` : ''}` }));
    return [
      ...own.filter(([, value]) => value).map(([name, value]) => ({ name, value })),
      ...(lead.clip ? clipInWords(lead.clip) : []),
      ...(lead.embedded ? embeddedInWords(lead.embedded) : []),
      ...this.creditFacts(),
      ...others,
      ...this.written(),
    ];
  });

  private creditFacts(): Fact[] {
    const credit = this.says();
    if (!credit) return [];
    const position = this.view.focused()?.lead.credit?.position;
    const rows = [
      ['Credit', credit.creditLine],
      ['Copyright', credit.copyrightNotice],
      ['Terms', [credit.standing.words, credit.terms?.sentence, credit.terms?.web].filter(Boolean).join(' · ')],
      ['Words', credit.words.map(({ text }) => text).join(', ')],
      ['Location', credit.location?.name ?? ''],
      ['Position by the track', position ? positionInWords(position) : ''],
    ] as const;
    return rows.filter(([, value]) => value).map(([name, value]) => ({ name, value }));
  }

  constructor() {
    // Tab goes round in here. The dialog itself has the focus, so that keys speak to what is shown and to no button.
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    afterNextRender(() => host.focus({ preventScroll: true }));
    effect(() => this.next.prepare(this.view.tiles(), this.view.focus(), this.across()));
  }

  /** What a key is about here: what was chosen if the focused one is among it, else the focused one. */
  subject(): readonly Tile[] {
    const focused = this.view.focused();
    return focused ? [focused] : [];
  }

  describe(): void {
    this.box()?.nativeElement.focus();
  }

  /** Keys of the closer look. @returns whether it was one. */
  act(event: KeyboardEvent): boolean {
    if (this.player()?.act(event.key)) return true;
    switch (event.key) {
      case '1':
      case '2':
      case '3':
      case '4':
        this.across.set(Number(event.key));
        return true;
      case 'z':
        this.zoomed.update((zoomed) => !zoomed);
        return true;
      case 'i':
        this.info.update((info) => !info);
        return true;
      case 'j': {
        const best = this.group()?.sharpest;
        const index = this.view.tiles().findIndex(({ lead }) => lead.id === best);
        if (index >= 0) this.view.focus.set(index);
        return true;
      }
      default:
        return false;
    }
  }

  protected click(tile: Tile, point: Point): void {
    const index = this.view.tiles().indexOf(tile);
    const other = index !== this.view.focus();
    if (other) this.view.focus.set(index);
    if (this.zoomed() && other) return;
    this.at.set(point);
    this.zoomed.update((zoomed) => !zoomed);
  }

  protected say(description: string): void {
    const tile = this.view.focused();
    if (tile) this.acts.judge([tile], { description: description.trim() }, 'describe');
  }

  protected isPlayed({ kind }: ItemView): boolean {
    return kind === 'video' || kind === 'sound';
  }

  protected isSharpest(tile: Tile): boolean {
    return this.view.similar().get(tile.lead.id)?.sharpest === tile.lead.id;
  }

  protected bar(item: ItemView): number {
    return sharpnessBar(item.sharpness ?? 0);
  }

  protected stateOf({ lead }: Tile): string {
    const card = this.store.intake() ?? { tray: 'on the desk' as const };
    // The path stands beside it.
    return standingInWords(lead, card).replace(/ as .*$/, '');
  }

  protected canTake(tile: Tile): boolean {
    const intake = this.store.intake();
    return intake !== null && intake.state !== 'filing' && intake.tray !== 'out' && isChangeable(tile);
  }

  protected isFiled({ lead }: Tile): boolean {
    return lead.copies.some(({ state }) => state === 'tallied');
  }

  protected copyPath(path: string): void {
    void navigator.clipboard.writeText(path).then(
      () => this.store.warn(`${path} is copied.`),
      () => this.store.warn(`This browser does not let the path be copied: ${path}`),
    );
  }

  protected leaf(path: string): string {
    return path.slice(path.lastIndexOf('/') + 1);
  }

  protected readonly partsOf = partsOf;
  protected readonly canBeSetAside = canBeSetAside;
  protected readonly verdicts = [
    { name: 'select', key: 'S' },
    { name: 'reshoot', key: 'R' },
    { name: 'hold', key: 'H' },
  ] as const;

  protected camera({ lead }: Tile): string {
    return cameraName(lead);
  }

  protected nameOfTile(tile: Tile): string {
    return nameOf(tile.lead);
  }

  protected time(item: ItemView): string {
    return isoCaptureTime(item.captured).replace('T', ' ');
  }
}
