import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import type { FoundItem } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import type { Meant as MeantItems } from '../api/shelf.service';
import { BytesPipe, CountPipe } from '../shared/amounts';
import { Acts } from '../sheet/acts';
import { membersOf, type Tile } from '../sheet/tiles';
import { View } from '../sheet/view';
import { ShelfStore } from './shelf-store';
import { May } from '../shared/may';

/** What something is to be done with, and how many that are. */
export interface Meant {
  readonly what: MeantItems;
  readonly count: number;
}

export function meantOf(tiles: readonly Tile[]): Meant {
  const itemIds = tiles.flatMap(membersOf).map(({ id }) => id);
  return { what: { itemIds }, count: itemIds.length };
}

/** What is chosen, and what can be done with it; without a choice, with everything that is found. */
@Component({
  selector: 'ts-shelf-foot',
  imports: [May, ButtonModule, CountPipe, BytesPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p role="status">
      @if (chosen().length) {
        <b>{{ meant().count | count: 'item' }} chosen</b> <span class="quiet">{{ chosenBytes() | bytes }}</span>
        <button type="button" class="plain" (click)="view.chooseNone()">choose none</button>
      } @else if (focused(); as one) {
        <code>{{ one.filedAs }}</code>
        @if (one.away; as places) {
          <span class="attention">away: it stands on {{ places.join(' and ') || 'no place' }}</span>
        }
      }
    </p>
    <span class="acts">
      @if (acts.undoWords(); as words) {
        <button type="button" class="plain" [title]="'Undo: ' + words" (click)="acts.undo()">Undo</button>
      }
      @if (chosen().length) {
        <button type="button" class="plain" tsMay="file" (click)="acts.verdict(chosen(), 'select')">Select</button>
        <button type="button" class="plain" tsMay="file" (click)="acts.verdict(chosen(), 'reshoot')">Reshoot</button>
        <button type="button" class="plain" tsMay="file" (click)="acts.verdict(chosen(), 'hold')">Hold</button>
        <button type="button" class="plain" tsMay="file" (click)="say.emit(ids())">Credit and words</button>
      } @else if (focused(); as one) {
        <button type="button" class="plain" (click)="alike.emit(one.id)">Alike</button>
        <button type="button" class="plain" (click)="where.emit(one.id)">Where is it</button>
      }
      @if (meant().count) {
        <button pButton type="button" tsMay="arrange" class="p-button-outlined" (click)="bundle.emit(meant())">
          {{ chosen().length ? 'Into a bundle' : 'All ' + meant().count.toLocaleString() + ' into a bundle' }}
        </button>
        <button pButton type="button" tsMay="fetch" (click)="fetch.emit(meant())">
          Fetch {{ meant().count.toLocaleString() }}
        </button>
      }
    </span>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 8px 20px;
      align-items: center;
      min-height: 60px;
      padding: 8px 20px;
      border-top: 1px solid var(--strong-line);
      background: var(--sheet);
    }
    p {
      flex: 1 1 300px;
      display: flex;
      flex-wrap: wrap;
      gap: 4px 12px;
      align-items: center;
      min-width: 0;
    }
    code {
      font-size: 13px;
      overflow-wrap: anywhere;
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      gap: 8px 14px;
      align-items: center;
    }
  `,
})
export class ShelfFoot {
  private readonly store = inject(ShelfStore);
  protected readonly view = inject(View);
  protected readonly acts = inject(Acts);
  readonly fetch = output<Meant>();
  readonly bundle = output<Meant>();
  readonly say = output<readonly number[]>();
  readonly where = output<number>();
  readonly alike = output<number>();

  protected readonly chosen = computed<readonly Tile[]>(() => (this.view.chosen().size ? this.view.subject() : []));
  protected readonly focused = computed(() => this.view.focused()?.lead as FoundItem | undefined);
  protected readonly ids = computed(() =>
    this.chosen()
      .flatMap(membersOf)
      .map(({ id }) => id),
  );
  protected readonly chosenBytes = computed(() =>
    this.chosen()
      .flatMap(membersOf)
      .reduce((sum, { bytes }) => sum + bytes, 0),
  );
  protected readonly meant = computed<Meant>(() =>
    this.chosen().length
      ? meantOf(this.chosen())
      : { what: { question: this.store.question()?.text ?? '' }, count: this.store.total() ?? 0 },
  );
}
