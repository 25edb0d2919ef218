import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { Location } from '@angular/common';
import { Router } from '@angular/router';
import type { ItemView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { IntakesService } from '../api/intakes.service';
import { Acts } from '../sheet/acts';
import { AsideDialog } from './aside-dialog';
import { BelongDialog } from './belong-dialog';
import { ClearDialog } from './clear-dialog';
import { ClockDialog } from './clock-dialog';
import { Closer } from '../closer/closer';
import type { Clause } from './credit-clauses';
import { CreditDialog } from './credit-dialog';
import { Drawer } from './drawer';
import { Foot } from './foot';
import { PullDialog } from './pull-dialog';
import { pullingOfView } from '../shared/pull-lamp';
import { GiveBackDialog } from './give-back-dialog';
import { IntakeStore } from './intake-store';
import { SheetSource } from '../sheet/sheet-source';
import { KEYS } from './keys';
import { Presence } from './presence';
import { Legend } from '../sheet/legend';
import { Sheet } from '../sheet/sheet';
import { Slip } from './slip';
import type { Tile } from '../sheet/tiles';
import { undoable } from '../shared/undo-toast';
import { NotThere } from '../shell/not-there';
import { Scans } from '../shell/scans';
import { View } from '../sheet/view';
import { ViewBar } from '../sheet/view-bar';

const LEGEND = 'tally-legend';

/** State of the step of the history that a closer look is. */
const CLOSER = { closer: true } as const;

/** One intake, from the card in the reader to proven copies: slip above, sheet and consequences, stick below. */
@Component({
  selector: 'ts-intake-view',
  imports: [
    Legend,
    NotThere,
    AsideDialog,
    GiveBackDialog,
    PullDialog,
    Slip,
    ViewBar,
    Sheet,
    Drawer,
    Foot,
    Closer,
    BelongDialog,
    CreditDialog,
    ClearDialog,
    ClockDialog,
    DialogModule,
    ButtonModule,
  ],
  providers: [Presence, IntakeStore, { provide: SheetSource, useExisting: IntakeStore }, View, Acts],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (store.notThere()) {
      <ts-not-there class="whole" what="There is no such intake" />
    }
    <ts-slip (clocks)="clocks.set(true)" (pull)="pull()" (ask)="belonging.set($event)" />
    <div class="middle">
      <div class="work">
        <ts-view-bar
          (ask)="belonging.set($event)"
          (credit)="crediting.set($event)"
          (remove)="clearing.set({ items: $event })"
          (aside)="aside.set($event)"
          (legend)="showLegend(!legend())"
          (keys)="help.set(true)"
        />
        @if (legend()) {
          <ts-legend (known)="showLegend(false)" />
        }
        <ts-sheet (look)="lookAt($event)" (ask)="belonging.set($event)" />
      </div>
      <ts-drawer />
    </div>
    <ts-foot
      (giveBack)="store.intake()?.handedIn ? giveBack() : givingBack.set(true)"
      (clear)="clearing.set({ items: undefined })"
      (aside)="aside.set($event)"
    />
    @if (pulling()) {
      <ts-pull-dialog (done)="pulling.set(false)" (accept)="pulling.set(false); store.letGo(true)" />
    }
    @if (givingBack()) {
      <ts-give-back-dialog
        (done)="givingBack.set(false)"
        (accept)="giveBack()"
        (clear)="givingBack.set(false); clearing.set({ items: undefined })"
      />
    }
    @if (aside(); as these) {
      <ts-aside-dialog [items]="these" (done)="aside.set(null)" />
    }
    @if (clearing(); as these) {
      <ts-clear-dialog [items]="these.items" (done)="clearing.set(null)" />
    }
    @if (closer()) {
      <ts-closer (closed)="closeCloser()" (credit)="crediting.set($event)" (aside)="aside.set($event)" />
    }
    @if (belonging(); as tiles) {
      <ts-belong-dialog [tiles]="tiles" (done)="belonging.set(null)" />
    }
    @if (crediting(); as tiles) {
      <ts-credit-dialog [tiles]="tiles" (done)="crediting.set(null)" />
    }
    @if (clocks()) {
      <ts-clock-dialog (done)="clocks.set(false)" />
    }
    <p-dialog
      header="The drive changed while you looked"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="changed()"
      (visibleChange)="store.changes.set(null)"
      [style]="{ width: '640px' }"
    >
      <p>Somebody filed in between. Nothing has been written yet. This is what differs now:</p>
      <ul class="changes" tabindex="0" aria-label="What differs">
        @for (change of (store.changes() ?? []).slice(0, 12); track change.from) {
          <li>
            <code>{{ change.from }}</code><br /><s>{{ change.shown ?? 'not filed' }}</s>
            <code>{{ change.now ?? 'not filed' }}</code>
          </li>
        }
      </ul>
      @if ((store.changes()?.length ?? 0) > 12) {
        <p class="quiet">and {{ store.changes()!.length - 12 }} more</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="store.changes.set(null)">Look again</button>
        <button pButton type="button" (click)="store.file()">File {{ store.counts().taken }} as it is now</button>
      </ng-template>
    </p-dialog>
    <p-dialog header="Keys" closeAriaLabel="Close" [modal]="true" [(visible)]="help" [style]="{ width: '860px' }">
      <div class="keys">
        @for (group of keys; track group.title) {
          <section>
            <h3>{{ group.title }}</h3>
            <dl>
              @for (key of group.keys; track key[0]) {
                <dt>
                  <kbd>{{ key[0] }}</kbd>
                </dt>
                <dd>{{ key[1] }}</dd>
              }
            </dl>
          </section>
        }
      </div>
    </p-dialog>
  `,
  styles: `
    .whole {
      position: absolute;
      inset: 0 0 0 76px;
      z-index: 3;
      background: var(--paper);
    }
    :host {
      display: grid;
      grid-template-rows: auto minmax(0, 1fr) auto;
      height: 100vh;
    }
    .middle {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 322px;
      min-height: 0;
    }
    .work > ts-sheet {
      grid-row: 3;
    }
    .work {
      display: grid;
      grid-template-rows: auto auto minmax(0, 1fr);
      min-height: 0;
      min-width: 0;
    }
    .changes {
      max-height: 46vh;
      overflow-y: auto;
    }
    .changes li {
      padding: 6px 0;
      border-bottom: 1px solid var(--line);
      overflow-wrap: anywhere;
    }
    .keys {
      display: grid;
      grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
      gap: 16px 24px;
    }
    h3 {
      font-size: 15px;
      margin-bottom: 8px;
    }
    dl {
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
    @media (max-width: 1000px) {
      .middle {
        grid-template-columns: minmax(0, 1fr) 232px;
      }
    }
    /* A small window, or a large type: one column that is scrolled, with the foot always in reach. */
    @media (max-width: 760px), (max-height: 560px) {
      :host {
        display: block;
        height: auto;
        min-height: 100vh;
      }
      .middle {
        display: block;
      }
      .work > ts-sheet {
        height: max(320px, 64vh);
      }
      ts-drawer {
        border: 0;
        border-top: 1px solid var(--line);
      }
      ts-foot {
        position: sticky;
        bottom: 0;
        z-index: 6;
      }
    }
  `,
  host: { '(document:keydown)': 'key($event)' },
})
export class IntakeView {
  protected readonly store = inject(IntakeStore);
  private readonly presence = inject(Presence);
  private readonly view = inject(View);
  private readonly acts = inject(Acts);
  private readonly router = inject(Router);
  private readonly scans = inject(Scans);
  private readonly location = inject(Location);
  private readonly messages = inject(MessageService);
  private readonly service = inject(IntakesService);
  readonly id = input.required<number>();

  private readonly sheet = viewChild.required(Sheet);
  private readonly bar = viewChild.required(ViewBar);
  private readonly slip = viewChild.required(Slip);
  private readonly closerView = viewChild(Closer);
  protected readonly closer = signal(false);
  protected readonly help = signal(false);
  protected readonly clocks = signal(false);
  protected readonly clearing = signal<{ readonly items: readonly number[] | undefined } | null>(null);
  protected readonly belonging = signal<readonly Tile[] | null>(null);
  /** Items whose credit is looked at. */
  protected readonly crediting = signal<readonly Tile[] | null>(null);
  protected readonly aside = signal<readonly ItemView[] | null>(null);
  protected readonly givingBack = signal(false);
  protected readonly keys = KEYS;
  protected readonly changed = computed(() => this.store.changes() !== null);

  constructor() {
    effect(() => {
      const id = this.id();
      untracked(() => {
        this.store.open(id);
        this.presence.follow(id);
      });
    });
    // A card without a label that lies open here: what is scanned now is its tape.
    const take = (label: string) => {
      const intake = this.store.intake();
      if (intake?.card.label !== null) return false;
      this.store.say({ cardLabel: label });
      return true;
    };
    this.scans.taker.set(take);
    const stop = this.location.subscribe(() => {
      if (this.closer() && !this.isCloserStep()) this.closed();
    });
    inject(DestroyRef).onDestroy(() => stop.unsubscribe());
    inject(DestroyRef).onDestroy(() => this.scans.taker.update((taker) => (taker === take ? null : taker)));
  }

  protected lookAt(index: number): void {
    this.view.focus.set(index);
    this.openCloser();
  }

  protected giveBack(): void {
    const { id } = this.store;
    const intake = this.store.intake();
    const says = intake?.handedIn ? `Intake ${intake.number} is done.` : `${intake?.card.label ?? 'The card'} is given back.`;
    this.givingBack.set(false);
    this.store.giveBack(() => {
      void this.router.navigateByUrl('/desk');
      const undo = () => this.service.notGivenBack(id);
      this.messages.add(undoable(says, { words: 'No, it is still here', undo }));
    });
  }

  /** Lets the card go; while something on it waits, that is asked first. */
  protected pull(): void {
    const intake = this.store.intake();
    if (!intake?.present || !intake.reader?.letsGo) return;
    if (pullingOfView(intake).waits) this.pulling.set(true);
    else this.store.letGo(false);
  }

  protected readonly pulling = signal(false);

  protected key(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    // Keys belong to what is on top: what is under a dialog hears none of them.
    if (this.covered()) return;
    const typing = target.closest('input, textarea, select, .p-select, .p-slider, .p-popover, .p-dialog') !== null;
    const onButton = target.closest('button, a, summary') !== null && (event.key === ' ' || event.key === 'Enter');
    if (typing || onButton || event.ctrlKey || event.metaKey || event.altKey) return;
    if (this.act(event)) event.preventDefault();
  }

  /** @returns whether the key meant anything here. */
  private act(event: KeyboardEvent): boolean {
    const closer = this.closerView();
    if (closer?.act(event)) return true;
    const does = this.everywhere(closer, event.shiftKey)[event.key] ?? (closer ? undefined : this.onTheSheet()[event.key]);
    does?.();
    return does !== undefined;
  }

  private everywhere(closer: Closer | undefined, shift: boolean): Readonly<Record<string, () => void>> {
    const { view, acts } = this;
    const subject = closer ? closer.subject() : view.subject();
    const step = (steps: number) => () => this.move(view.focus() + steps, shift && !closer);
    const row = (rows: 1 | -1) => () => this.move(this.sheet().neighbour(view.focus(), rows), shift && !closer);
    return {
      ArrowRight: step(1),
      ArrowLeft: step(-1),
      ArrowDown: closer ? step(1) : row(1),
      ArrowUp: closer ? step(-1) : row(-1),
      ' ': () => acts.take(subject, !subject.some(({ lead }) => lead.taken)),
      Enter: () => view.focused() && this.openCloser(),
      Escape: () => (closer ? this.closeCloser() : view.chooseNone()),
      s: () => acts.verdict(subject, 'select'),
      r: () => acts.verdict(subject, 'reshoot'),
      h: () => acts.verdict(subject, 'hold'),
      t: () => acts.turn(subject, 1),
      T: () => acts.turn(subject, 3),
      d: () => this.describe(),
      b: () => this.belonging.set(subject.length ? subject : null),
      e: () => this.credit(closer, 'credit'),
      o: () => this.crediting.set(subject.length ? subject : null),
      c: () => this.clocks.set(true),
      g: () => this.pull(),
      u: () => acts.undo(),
      U: () => acts.redo(),
      '?': () => this.help.set(true),
    };
  }

  private onTheSheet(): Readonly<Record<string, () => void>> {
    const { view, acts } = this;
    const focused = view.focused();
    const all = this.store.tiles();
    return {
      a: () => acts.take(all, true),
      n: () => acts.take(all, false),
      v: () => acts.reverse(view.chosen().size ? view.subject() : all),
      x: () => focused && view.choose([focused], 'turn'),
      m: () => this.credit(undefined, 'terms'),
      k: () => this.credit(undefined, 'words'),
      l: () => this.credit(undefined, 'location'),
      y: () => this.slip().clauses()?.open('habit'),
      w: () => view.choose(view.runs().find(({ items }) => items.includes(focused!))?.items ?? [], 'only'),
      '/': () => this.bar().find(),
    };
  }

  /** What the marks mean is shown until this browser's people know it. */
  protected readonly legend = signal(localStorage.getItem(LEGEND) === null);

  protected showLegend(shown: boolean): void {
    this.legend.set(shown);
    if (shown) localStorage.removeItem(LEGEND);
    else localStorage.setItem(LEGEND, 'known');
  }

  private readonly covered = computed(
    () =>
      this.help() ||
      this.changed() ||
      this.clocks() ||
      this.givingBack() ||
      this.pulling() ||
      [this.clearing(), this.belonging(), this.aside(), this.crediting()].some((what) => what !== null),
  );

  /** Of what is looked at closer or chosen; else of the slip. */
  private credit(closer: Closer | undefined, clause: Clause): void {
    if (closer) this.crediting.set(closer.subject());
    else if (this.view.chosen().size) this.crediting.set(this.view.subject());
    else this.slip().clauses()?.open(clause);
  }

  private describe(): void {
    if (this.view.focused()) this.openCloser();
    setTimeout(() => this.closerView()?.describe());
  }

  /** The browser's *back* closes it: it has a step of its own in the history. */
  private openCloser(): void {
    if (this.closer()) return;
    this.closer.set(true);
    this.location.go(this.location.path(true), '', CLOSER);
  }

  protected closeCloser(): void {
    if (this.isCloserStep()) this.location.back();
    else this.closed();
  }

  /** Whoever was in it is on the sheet again, never at a button that a key would press. */
  private closed(): void {
    this.closer.set(false);
    setTimeout(() => this.sheet().takeFocus());
  }

  private isCloserStep(): boolean {
    return (this.location.getState() as Partial<typeof CLOSER> | null)?.closer === true;
  }

  /** Moves to a tile; with Shift everything on the way is chosen. */
  private move(index: number, choosing: boolean): void {
    if (!choosing) this.sheet().setAnchor(Math.max(0, Math.min(this.view.tiles().length - 1, index)));
    this.view.go(index);
    if (choosing) this.sheet().chooseTo(this.view.focus());
  }
}
