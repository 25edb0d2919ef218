import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, output, viewChild } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { SliderModule } from 'primeng/slider';
import type { ItemView } from '@tally/contract';
import type { Fineness } from '@tally/core/card';
import { BytesPipe, CountPipe } from '../shared/amounts';
import { May } from '../shared/may';
import { Acts } from './acts';
import { SheetSource } from './sheet-source';
import { canBeSetAside, membersOf, type Tile } from './tiles';
import { ORDERS, SHOWS, View } from './view';

/** Above the sheet: how it is looked at; once something is chosen, what to do with that. */
@Component({
  selector: 'ts-view-bar',
  imports: [May, FormsModule, SelectModule, SliderModule, InputTextModule, BytesPipe, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (view.chosen().size) {
      <b>{{ view.subject().length | count: 'item' }} chosen</b>
      <span class="quiet">{{ chosenBytes() | bytes }}</span>
      @if (!removable()) {
        <button type="button" (click)="acts.take(view.subject(), true)">Take</button>
        <button type="button" (click)="acts.take(view.subject(), false)">Leave</button>
      }
      <button type="button" (click)="ask.emit(view.subject())">Belong to…</button>
      <button type="button" (click)="credit.emit(view.subject())">Credit… <kbd>E</kbd></button>
      <button type="button" (click)="acts.verdict(view.subject(), 'select')">Select</button>
      <button type="button" (click)="acts.verdict(view.subject(), 'reshoot')">Reshoot</button>
      <button type="button" (click)="acts.verdict(view.subject(), 'hold')">Hold</button>
      @if (puttable(); as items) {
        <button type="button" (click)="aside.emit(items)">Set aside…</button>
      }
      @if (removable(); as ids) {
        <button type="button" tsMay="clear" (click)="remove.emit(ids)">Remove from the card…</button>
      }
      <button type="button" class="end" (click)="view.chooseNone()" aria-label="Choose none" title="Choose none">
        <i class="pi pi-times" aria-hidden="true"></i>
      </button>
    } @else {
      <p-select
        size="small"
        [options]="orders"
        [ngModel]="view.order()"
        (ngModelChange)="view.order.set($event)"
        ariaLabel="Order of the sheet"
        appendTo="body"
      >
        <ng-template #selectedItem let-one>by {{ one }}</ng-template>
      </p-select>
      <p-select
        size="small"
        [options]="shows()"
        optionLabel="words"
        optionValue="key"
        [ngModel]="shownKey()"
        (ngModelChange)="showOnly($event)"
        ariaLabel="What is shown"
        appendTo="body"
        scrollHeight="420px"
      />
      @if (view.only(); as only) {
        <button type="button" class="only" (click)="view.only.set(null)">
          only {{ only.words }} <i class="pi pi-times" aria-hidden="true"></i
          ><span class="visually-hidden">: show everything</span>
        </button>
      }
      @if (view.order() === 'time') {
        <p-slider
          class="fine"
          [min]="-3"
          [max]="3"
          [step]="1"
          [ngModel]="view.fineness()"
          (ngModelChange)="view.fineness.set(fine($event))"
          ariaLabel="Few runs to many"
        />
        <span class="quiet">{{ view.runs().length | count: 'run' }}</span>
      }
      <input
        #find
        pInputText
        pSize="small"
        class="find"
        type="search"
        placeholder="Find a name  /"
        aria-label="Find a name on this card"
        [ngModel]="view.words()"
        (ngModelChange)="view.words.set($event)"
        (keydown.escape)="view.words.set(''); find.blur()"
      />
      @if (acts.undoWords(); as words) {
        <button type="button" (click)="acts.undo()" [title]="'Undo: ' + words">
          <i class="pi pi-undo" aria-hidden="true"></i> Undo {{ words }}
        </button>
      }
      @if (acts.redoWords(); as words) {
        <button type="button" (click)="acts.redo()" [attr.aria-label]="'Do again: ' + words" [title]="'Do again: ' + words">
          <i class="pi pi-refresh" aria-hidden="true"></i>
        </button>
      }
      <button type="button" class="end" (click)="legend.emit()">Marks</button>
      <button type="button" class="keys" (click)="keys.emit()">Keys <kbd>?</kbd></button>
    }
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 8px;
      min-height: 44px;
      padding: 4px 14px 4px 20px;
      border-bottom: 1px solid var(--line);
      flex-wrap: wrap;
      white-space: nowrap;
    }
    button {
      min-height: 28px;
      border: 1px solid var(--line);
      border-radius: 6px;
      padding: 0 10px;
      background: var(--sheet);
      color: var(--reed);
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
    .end {
      margin-left: auto;
    }
    .end,
    .keys {
      border-color: transparent;
      background: none;
    }
    .only {
      background: var(--straw);
      color: var(--ochre);
      border-color: transparent;
    }
    kbd {
      font: 600 12px var(--font-mono);
    }
    .fine {
      width: 86px;
      flex: none;
    }
    .find {
      width: 124px;
    }
  `,
})
export class ViewBar {
  protected readonly view = inject(View);
  protected readonly acts = inject(Acts);
  private readonly store = inject(SheetSource);
  /** Somebody wants to say whose these are and what is in them. */
  readonly credit = output<readonly Tile[]>();
  readonly ask = output<readonly Tile[]>();
  readonly keys = output();
  /** What the marks mean. */
  readonly legend = output();
  /** Ids of items that are to go from the card, companions too. */
  readonly remove = output<readonly number[]>();
  /** Items that are to be gone on without. */
  readonly aside = output<readonly ItemView[]>();
  private readonly findBox = viewChild<ElementRef<HTMLInputElement>>('find');

  protected readonly orders = [...ORDERS];
  /** What was chosen, when all of it stands on the drive and its card is here. */
  protected readonly removable = computed(() => {
    const intake = this.store.intake();
    const chosen = this.view.subject();
    const here = intake?.present === true && intake.state !== 'filing' && intake.clearedAt === null;
    const stands = chosen.every(({ lead }) => lead.filedAs !== null || lead.alreadyFiled?.confirmed === true);
    return here && stands ? chosen.flatMap((tile) => membersOf(tile).map(({ id }) => id)) : null;
  });

  /** What was chosen, when none of it stands on the drive: the intake can go on without it. */
  protected readonly puttable = computed(() => {
    const intake = this.store.intake();
    const items = this.view.subject().flatMap(membersOf);
    const free = intake !== null && intake.state !== 'filing' && intake.tray !== 'out';
    return free && items.length && items.every(canBeSetAside) ? items : null;
  });

  protected readonly shows = computed(() => {
    const tiles = this.store.settledTiles();
    const fitting = SHOWS.map(({ name, fits }) => ({ name, n: tiles.filter((tile) => fits(tile)).length }));
    // Where there is no raw, a JPEG alone is just a picture.
    const raws = tiles.some((tile) => membersOf(tile).some(({ kind }) => kind === 'raw'));
    const kinds = fitting.filter(({ name, n }) => (n > 0 && (raws || name !== 'JPEG alone')) || name === this.view.show());
    const cameras = this.view.cameras().length > 1 ? this.view.cameras() : [];
    return [
      ...kinds.map(({ name, n }) => ({ key: name, words: `${name}, ${n}` })),
      ...cameras.map((camera) => ({ key: `camera ${camera}`, words: `only ${camera}` })),
    ];
  });
  protected readonly shownKey = computed(() => {
    const camera = this.view.camera();
    return camera ? `camera ${camera}` : this.view.show();
  });
  protected readonly chosenBytes = computed(() =>
    this.view
      .subject()
      .flatMap(membersOf)
      .reduce((sum, item) => sum + item.bytes, 0),
  );

  protected showOnly(key: string): void {
    const camera = /^camera (.*)$/.exec(key)?.[1] ?? null;
    this.view.camera.set(camera);
    this.view.show.set(camera ? 'everything' : key);
    this.view.focus.set(0);
  }

  protected fine(value: number): Fineness {
    return Math.max(-3, Math.min(3, Math.round(value))) as Fineness;
  }

  find(): void {
    this.findBox()?.nativeElement.focus();
  }
}
