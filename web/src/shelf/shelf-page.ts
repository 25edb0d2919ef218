import { Location } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked, viewChild } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import { DialogModule } from 'primeng/dialog';
import { debounceTime, distinctUntilChanged, Subject } from 'rxjs';
import { ShelfService } from '../api/shelf.service';
import { Closer } from '../closer/closer';
import { Acts } from '../sheet/acts';
import { Sheet } from '../sheet/sheet';
import { SheetSource } from '../sheet/sheet-source';
import { membersOf, type Tile } from '../sheet/tiles';
import { View } from '../sheet/view';
import { AlikeDialog } from './alike-dialog';
import { BundleDialog } from './bundle-dialog';
import { FetchDialog } from './fetch-dialog';
import { KeepDialog } from './keep-dialog';
import { SHELF_KEYS } from './keys';
import { MadeOf } from './made-of';
import { QuestionLine } from './question-line';
import { SayDialog } from './say-dialog';
import { type Meant, meantOf, ShelfFoot } from './shelf-foot';
import { ShelfList } from './shelf-list';
import { ShelfStore } from './shelf-store';
import { WhereDialog } from './where-dialog';
import { YearRail } from './year-rail';
import { May } from '../shared/may';

/** So long after the last letter what is typed is asked for. */
const TYPING_MS = 140;
const CLOSER = { closer: true } as const;

/** Everything that is filed: the question as a sentence, the years at the left, the pictures, what the answer is made of. */
@Component({
  selector: 'ts-shelf',
  imports: [
    May,
    RouterLink,
    QuestionLine,
    Sheet,
    YearRail,
    MadeOf,
    ShelfFoot,
    ShelfList,
    Closer,
    AlikeDialog,
    WhereDialog,
    FetchDialog,
    BundleDialog,
    KeepDialog,
    SayDialog,
    DialogModule,
  ],
  providers: [ShelfStore, { provide: SheetSource, useExisting: ShelfStore }, View, Acts],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h1 class="visually-hidden">Shelf</h1>
    <ts-question-line
      [question]="store.question()"
      [total]="store.total()"
      [bytes]="store.bytes()"
      (asking)="typing.next($event)"
      (accepted)="accept($event)"
      (without)="drop($event)"
    >
      <span class="how" role="group" aria-label="How it is shown">
        <button type="button" [attr.aria-pressed]="shown() !== 'list'" (click)="showAs(null)">
          <i class="pi pi-th-large" aria-hidden="true"></i> Sheet
        </button>
        <button type="button" [attr.aria-pressed]="shown() === 'list'" (click)="showAs('list')">
          <i class="pi pi-list" aria-hidden="true"></i> List
        </button>
        <button type="button" tsMay="arrange" [disabled]="!store.question()?.pieces?.length" (click)="keeping.set(true)">
          <i class="pi pi-bell" aria-hidden="true"></i> Keep
        </button>
        <button type="button" (click)="figures()"><i class="pi pi-chart-bar" aria-hidden="true"></i> Figures</button>
        <button type="button" aria-label="Keys" (click)="help.set(true)">?</button>
      </span>
    </ts-question-line>
    <div class="middle">
      @if (shown() === 'list') {
        <ts-shelf-list [question]="store.question()?.text ?? ''" (look)="lookAtId($event)" />
      } @else if (store.total() === 0 && !store.loading()) {
        <p class="empty nothing">
          {{
            store.question()?.pieces?.length
              ? 'Nothing that is filed answers this. Take a piece out of the question, or use fewer letters of a word.'
              : 'Nothing has been filed yet. What is filed of a card stands here.'
          }}
          @if (words(); as said) {
            <a routerLink="/logbook" [queryParams]="{ words: said }">Look for “{{ said }}” in the logbook</a>, where cards are
            that wait to be filed.
          }
        </p>
      } @else {
        <ts-sheet (look)="lookAt($event)" (near)="store.need($event)" (top)="month.set($event.lead.captured.local.slice(0, 7))">
          <ts-year-rail rail [months]="store.madeOf()?.months ?? []" [month]="month()" (go)="store.goTo($event)" />
        </ts-sheet>
      }
      <ts-made-of [made]="store.madeOf()" (add)="accept($event)" />
    </div>
    @if (store.problem()) {
      <p class="attention" role="alert">{{ store.problem() }}</p>
    }
    <ts-shelf-foot
      (fetch)="fetching.set($event)"
      (bundle)="bundling.set($event)"
      (say)="saying.set($event)"
      (where)="where.set($event)"
      (alike)="alike.set($event)"
    />
    @if (closer()) {
      <ts-closer
        (closed)="closeCloser()"
        (credit)="say($event)"
        (alike)="alike.set($event.lead.id)"
        (where)="where.set($event.lead.id)"
      />
    }
    @if (fetching(); as meant) {
      <ts-fetch-dialog [meant]="meant" (done)="fetching.set(null)" />
    }
    @if (bundling(); as meant) {
      <ts-bundle-dialog [meant]="meant" (done)="bundling.set(null)" />
    }
    @if (saying(); as ids) {
      <ts-say-dialog [itemIds]="ids" (done)="saying.set(null)" />
    }
    @if (where(); as id) {
      <ts-where-dialog [itemId]="id" (done)="where.set(null)" />
    }
    @if (alike(); as id) {
      <ts-alike-dialog [itemId]="id" (done)="alike.set(null)" />
    }
    @if (keeping()) {
      <ts-keep-dialog [question]="store.question()!" (done)="keeping.set(false)" />
    }
    <p-dialog header="Keys" closeAriaLabel="Close" [modal]="true" [(visible)]="help" [style]="{ width: '460px' }">
      <dl class="keys">
        @for (key of keys; track key[0]) {
          <dt>
            <kbd>{{ key[0] }}</kbd>
          </dt>
          <dd>{{ key[1] }}</dd>
        }
      </dl>
    </p-dialog>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-rows: auto minmax(0, 1fr) auto;
      height: 100vh;
    }
    .middle {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 272px;
      min-height: 0;
    }
    .how {
      display: inline-flex;
      gap: 4px;
      margin-left: auto;
    }
    .how button {
      display: inline-flex;
      gap: 6px;
      align-items: center;
      min-height: 32px;
      padding: 0 10px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: none;
      color: var(--ink);
      font: 13px var(--font-text);
      cursor: pointer;
    }
    .how button[aria-pressed='true'] {
      border-color: var(--reed);
      background: var(--reed-soft);
      font-weight: 600;
    }
    .how button:disabled {
      color: var(--quiet);
      cursor: default;
    }
    .nothing {
      padding: 40px 24px;
    }
    .keys {
      display: grid;
      grid-template-columns: 104px 1fr;
      gap: 6px;
    }
    kbd {
      border: 1px solid var(--line);
      border-radius: 4px;
      padding: 1px 8px;
      font: 13px var(--font-mono);
      white-space: nowrap;
    }
    @media (max-width: 900px) {
      .middle {
        grid-template-columns: minmax(0, 1fr);
      }
      ts-made-of {
        display: none;
      }
    }
    @media (max-height: 560px) {
      :host {
        display: block;
        height: auto;
        min-height: 100vh;
      }
      .middle {
        height: max(360px, 80vh);
      }
      ts-shelf-foot {
        position: sticky;
        bottom: 0;
        z-index: 6;
      }
    }
  `,
  host: { '(document:keydown)': 'key($event)' },
})
export class ShelfPage {
  protected readonly store = inject(ShelfStore);
  protected readonly view = inject(View);
  private readonly acts = inject(Acts);
  private readonly router = inject(Router);
  private readonly location = inject(Location);
  private readonly service = inject(ShelfService);

  // The page's address says what is asked.
  readonly q = input<string>();
  readonly shown = input<string>();
  /** The standing question that is looked at. */
  readonly standing = input<string>();

  private readonly sheet = viewChild(Sheet);
  private readonly line = viewChild.required(QuestionLine);
  private readonly closerView = viewChild(Closer);
  protected readonly closer = signal(false);
  protected readonly help = signal(false);
  protected readonly keeping = signal(false);
  protected readonly month = signal('');
  protected readonly fetching = signal<Meant | null>(null);
  protected readonly bundling = signal<Meant | null>(null);
  protected readonly saying = signal<readonly number[] | null>(null);
  protected readonly where = signal<number | null>(null);
  protected readonly alike = signal<number | null>(null);
  protected readonly typing = new Subject<string>();
  private readonly typed = signal('');
  protected readonly keys = SHELF_KEYS;
  private focused: number | null = null;

  /** The plain words that are asked for. */
  protected readonly words = computed(() =>
    (this.store.question()?.pieces ?? [])
      .filter(({ text }) => text.startsWith('word:'))
      .map(({ text }) => text.slice('word:'.length))
      .join(' '),
  );

  private readonly question = computed(() => [this.q() ?? '', this.typed().trim()].filter(Boolean).join(' '));

  constructor() {
    this.typing.pipe(debounceTime(TYPING_MS), takeUntilDestroyed()).subscribe((text) => this.typed.set(text));
    toObservable(this.question)
      .pipe(distinctUntilChanged(), takeUntilDestroyed())
      .subscribe((question) => {
        this.view.focus.set(0);
        this.view.chooseNone();
        this.store.ask(question);
      });
    effect(() => {
      const standing = Number(this.standing());
      // Whoever looks at what answers it has seen what is new.
      if (standing > 0) untracked(() => this.service.seen(standing).subscribe({ error: () => undefined })); // It may be gone: then nothing is new.
    });
    // What is added before it moves the index of what one is at.
    effect(() => {
      const tiles = this.view.tiles();
      untracked(() => {
        const index = tiles.findIndex(({ lead }) => lead.id === this.focused);
        this.view.focus.set(Math.max(0, index));
      });
    });
    effect(() => (this.focused = this.view.focused()?.lead.id ?? this.focused));
    this.location.subscribe(() => {
      if (this.closer() && !this.isCloserStep()) this.closed();
    });
  }

  /** Adds to the question. */
  protected accept(text: string): void {
    this.typed.set('');
    const { question } = this;
    void this.go({ q: `${this.q() ?? ''} ${text}`.trim(), standing: null }, question() === '');
  }

  /** Takes a piece out of the question. */
  protected drop(text: string): void {
    const rest = (this.store.question()?.pieces ?? []).map((piece) => piece.text).filter((one) => one !== text);
    this.typed.set('');
    void this.go({ q: rest.length ? rest.join(' ') : null, standing: null });
  }

  protected showAs(shown: string | null): void {
    void this.go({ shown });
  }

  protected figures(): void {
    void this.router.navigate(['/figures'], { queryParams: { q: this.q() ?? null } });
  }

  private go(queryParams: object, replaceUrl = false): Promise<boolean> {
    return this.router.navigate([], { queryParams, queryParamsHandling: 'merge', replaceUrl });
  }

  protected lookAt(index: number): void {
    this.view.focus.set(index);
    this.openCloser();
  }

  /** From the list: the sheet is behind it. */
  protected lookAtId({ id, place }: { id: number; place: number }): void {
    const index = this.view.tiles().findIndex((tile) => membersOf(tile).some((item) => item.id === id));
    if (index >= 0) this.lookAt(index);
    else {
      this.store.goTo(place);
      this.where.set(id);
    }
  }

  protected say(tiles: readonly Tile[]): void {
    const ids = tiles.flatMap(membersOf).map(({ id }) => id);
    if (ids.length) this.saying.set(ids);
  }

  protected key(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (this.covered()) return;
    const typing = target.closest('input, textarea, select, .p-select, .p-dialog, .p-popover') !== null;
    const onButton = target.closest('button, a, summary') !== null && (event.key === ' ' || event.key === 'Enter');
    if (typing || onButton || event.ctrlKey || event.metaKey || event.altKey) return;
    if (this.act(event)) event.preventDefault();
  }

  /** @returns whether the key meant anything here. */
  private act(event: KeyboardEvent): boolean {
    const closer = this.closerView();
    if (closer?.act(event)) return true;
    if (event.key === '/' && !closer) {
      this.line().focus();
      return true;
    }
    const sheet = this.sheet();
    if (!sheet) return false;
    const does = this.does(closer, sheet, event.shiftKey)[event.key];
    does?.();
    return does !== undefined;
  }

  private does(closer: Closer | undefined, sheet: Sheet, shift: boolean): Readonly<Record<string, () => void>> {
    const { view, acts } = this;
    const subject = closer ? closer.subject() : view.subject();
    const lead = subject[0]?.lead.id ?? null;
    const step = (steps: number) => () => this.move(sheet, view.focus() + steps, shift && !closer);
    const row = (rows: 1 | -1) => () => this.move(sheet, sheet.neighbour(view.focus(), rows), shift && !closer);
    const focused = view.focused();
    return {
      ArrowRight: step(1),
      ArrowLeft: step(-1),
      ArrowDown: closer ? step(1) : row(1),
      ArrowUp: closer ? step(-1) : row(-1),
      ' ': () => focused && view.choose([focused], 'turn'),
      x: () => focused && view.choose([focused], 'turn'),
      Enter: () => focused && this.openCloser(),
      Escape: () => (closer ? this.closeCloser() : view.chooseNone()),
      s: () => acts.verdict(subject, 'select'),
      r: () => acts.verdict(subject, 'reshoot'),
      h: () => acts.verdict(subject, 'hold'),
      t: () => acts.turn(subject, 1),
      T: () => acts.turn(subject, 3),
      e: () => this.say(subject),
      d: () => (closer ? closer.describe() : this.say(subject)),
      b: () => subject.length && this.bundling.set(meantOf(subject)),
      f: () => subject.length && this.fetching.set(meantOf(subject)),
      a: () => this.alike.set(lead),
      w: () => this.where.set(lead),
      u: () => acts.undo(),
      U: () => acts.redo(),
      '?': () => this.help.set(true),
    };
  }

  private readonly covered = computed(
    () =>
      this.help() ||
      this.keeping() ||
      [this.fetching(), this.bundling(), this.saying(), this.where(), this.alike()].some((what) => what !== null),
  );

  private move(sheet: Sheet, index: number, choosing: boolean): void {
    if (!choosing) sheet.setAnchor(Math.max(0, Math.min(this.view.tiles().length - 1, index)));
    this.view.go(index);
    if (choosing) sheet.chooseTo(this.view.focus());
    // Whoever walks on by keys needs what comes next before they see its end.
    if (index > this.view.tiles().length - 30) this.store.need('end');
    if (index < 10) this.store.need('start');
  }

  private openCloser(): void {
    if (this.closer()) return;
    this.closer.set(true);
    this.location.go(this.location.path(true), '', CLOSER);
  }

  protected closeCloser(): void {
    if (this.isCloserStep()) this.location.back();
    else this.closed();
  }

  private closed(): void {
    this.closer.set(false);
    setTimeout(() => this.sheet()?.takeFocus());
  }

  private isCloserStep(): boolean {
    return (this.location.getState() as Partial<typeof CLOSER> | null)?.closer === true;
  }
}
