import { CdkDrag, CdkDropList, type CdkDragDrop, moveItemInArray } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, effect, inject, input, signal, untracked } from '@angular/core';
import type { BundleView, FoundItem } from '@tally/contract';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { Picture } from '../sheet/picture';
import { NEWEST } from './shelf-store';

const SHOWN = 200;

/** The items of one bundle in its own order: dragged, or moved by the arrows of each. */
@Component({
  selector: 'ts-bundle-items',
  imports: [CdkDropList, CdkDrag, Picture],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem()) {
      <p class="attention" role="alert">{{ problem() }}</p>
    }
    <ol
      cdkDropList
      cdkDropListOrientation="mixed"
      [attr.aria-label]="'Order of ' + bundle().name"
      (cdkDropListDropped)="dropped($event)"
    >
      @for (item of items(); track item.id; let index = $index, last = $last) {
        <li cdkDrag>
          <ts-picture [item]="item" />
          <span class="acts">
            <button
              type="button"
              [disabled]="index === 0"
              [attr.aria-label]="'Forward: ' + name(item)"
              (click)="move(index, index - 1)"
            >
              <i class="pi pi-arrow-left" aria-hidden="true"></i>
            </button>
            <button type="button" [attr.aria-label]="'Take out: ' + name(item)" (click)="takeOut(item)">
              <i class="pi pi-times" aria-hidden="true"></i>
            </button>
            <button type="button" [disabled]="last" [attr.aria-label]="'Back: ' + name(item)" (click)="move(index, index + 1)">
              <i class="pi pi-arrow-right" aria-hidden="true"></i>
            </button>
          </span>
        </li>
      }
    </ol>
    @if (bundle().items > items().length) {
      <p class="quiet">The first {{ items().length }} of {{ bundle().items }} are shown here.</p>
    }
  `,
  styles: `
    :host {
      display: block;
      padding: 0 0 12px;
    }
    ol {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
    }
    li {
      width: 132px;
      border: 1px solid var(--line);
      background: var(--sheet);
      cursor: grab;
    }
    ts-picture {
      height: 88px;
    }
    .acts {
      display: flex;
      justify-content: space-between;
    }
    button {
      min-width: 32px;
      min-height: 26px;
      border: 0;
      background: none;
      color: var(--ink);
      cursor: pointer;
    }
    button:disabled {
      color: var(--line);
    }
  `,
})
export class BundleItems {
  readonly bundle = input.required<BundleView>();
  private readonly service = inject(ShelfService);
  protected readonly items = signal<readonly FoundItem[]>([]);
  protected readonly problem = signal('');

  constructor() {
    effect(() => {
      const { id } = this.bundle();
      untracked(() => this.load(id));
    });
  }

  protected name({ filedAs, path }: FoundItem): string {
    return (filedAs ?? path).split('/').at(-1)!;
  }

  protected dropped({ previousIndex, currentIndex }: CdkDragDrop<unknown>): void {
    this.move(previousIndex, currentIndex);
  }

  protected move(from: number, to: number): void {
    if (from === to) return;
    const items = [...this.items()];
    const moved = items[from]!;
    moveItemInArray(items, from, to);
    this.items.set(items);
    const before = items[items.indexOf(moved) + 1]?.id ?? null;
    this.service.move(this.bundle().id, [moved.id], before).subscribe({ error: (error: unknown) => this.failed(error) });
  }

  protected takeOut(item: FoundItem): void {
    this.items.update((items) => items.filter((one) => one !== item));
    this.service.takeOut(this.bundle().id, [item.id]).subscribe({ error: (error: unknown) => this.failed(error) });
  }

  private load(id: number): void {
    this.service.page(`bundle:${id}`, 0, SHOWN, NEWEST).subscribe({
      next: ({ items }) => this.items.set(items),
      error: (error: unknown) => this.failed(error),
    });
  }

  private failed(error: unknown): void {
    this.problem.set(wordsFor(error));
  }
}
