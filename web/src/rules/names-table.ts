import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { keptTogether } from '@tally/core/plan';
import { CountPipe } from '../shared/amounts';
import { Draft } from './draft';
import type { TriedName } from './trying';

interface KeptLine extends TriedName {
  readonly tree: string;
  readonly files: number;
  readonly open: boolean;
}
type Line = TriedName | KeptLine;

/** Old names beside new ones, as many as there are; with another revision, what each would be called under that. */
@Component({
  selector: 'ts-names-table',
  imports: [ScrollingModule, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row head" aria-hidden="true">
      <span>on the card</span>
      @if (compares()) {
        <span>under revision {{ draft.comparedWith() }}</span>
      }
      <span>under this rule</span>
    </div>
    <cdk-virtual-scroll-viewport itemSize="28" tabindex="0" role="region" [attr.aria-label]="label()">
      <div
        *cdkVirtualFor="let one of lines(); trackBy: byId; let index = index"
        class="row"
        [class.tree]="'tree' in one"
        [class.here]="!('tree' in one) && one.itemId === draft.shownItem()"
        [class.changed]="compares() && !('tree' in one) && one.other !== one.to"
        (click)="show(one)"
      >
        @if ('tree' in one) {
          <button type="button" class="plain" [attr.aria-expanded]="one.open" (click)="open(one.tree)">
            <i class="pi" [class.pi-chevron-right]="!one.open" [class.pi-chevron-down]="one.open" aria-hidden="true"></i>
            {{ one.from || 'The card' }}, {{ one.files | count: 'file' }} as on the card
          </button>
        } @else {
          <span class="old" [title]="one.from">{{ leaf(one.from) }}</span>
        }
        @if (compares() && !('tree' in one)) {
          <span class="path other" [title]="one.other ?? ''"
            ><i>{{ folder(one.other ?? '') }}</i
            ><b>{{ leaf(one.other ?? 'no name') }}</b></span
          >
        }
        <span class="path" [title]="one.to"
          ><i>{{ folder(one.to) }}</i
          ><b>{{ leaf(one.to) }}</b></span
        >
      </div>
    </cdk-virtual-scroll-viewport>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    cdk-virtual-scroll-viewport {
      flex: 1;
      min-height: 0;
    }
    ::ng-deep .cdk-virtual-scroll-content-wrapper {
      width: 100%;
    }
    .row {
      display: flex;
      gap: 14px;
      height: 28px;
      align-items: center;
      border-bottom: 1px solid var(--line);
      font: 13px var(--font-mono);
      cursor: default;
    }
    .tree button {
      flex: 2;
      min-width: 0;
      overflow: hidden;
      text-align: left;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .head {
      color: var(--quiet);
      font-family: var(--font-text);
      flex: none;
    }
    .row span {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      flex: 3;
      min-width: 0;
    }
    .row span:first-child {
      flex: 1;
      color: var(--quiet);
    }
    .row .path {
      display: flex;
    }
    .path i {
      flex: 0 1 auto;
      font-style: normal;
      color: var(--quiet);
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .path b {
      flex: 0 0 auto;
      max-width: 100%;
      font-weight: 400;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .other b {
      color: var(--quiet);
    }
    .changed .path:last-child b {
      font-weight: 640;
    }
    .here {
      background: var(--reed-soft);
    }
  `,
})
export class NamesTable {
  protected readonly draft = inject(Draft);
  readonly names = input.required<readonly TriedName[]>();
  protected readonly compares = computed(() => this.draft.tried()?.compared ?? false);
  protected readonly label = computed(() => `Old and new names of ${this.names().length} items`);
  private readonly opened = signal<ReadonlySet<string>>(new Set());
  /** What is kept as on the card is one line that opens. */
  protected readonly lines = computed((): Line[] => {
    const { trees, named } = keptTogether(this.names());
    const opened = this.opened();
    return [
      ...trees.flatMap(({ base, root, placed }): Line[] => {
        const open = opened.has(base);
        const line = { ...{ tree: base, from: root, to: `${base}/`, other: null, files: placed.length, open }, itemId: -1 };
        return [line, ...(open ? placed : [])];
      }),
      ...named,
    ];
  });
  protected readonly byId = (_index: number, one: Line) => ('tree' in one ? one.tree : one.itemId);
  protected show(one: Line): void {
    if (!('tree' in one)) this.draft.shownItem.set(one.itemId);
  }
  protected open(tree: string): void {
    const opened = new Set(this.opened());
    if (!opened.delete(tree)) opened.add(tree);
    this.opened.set(opened);
  }
  protected leaf(path: string): string {
    return path.slice(path.lastIndexOf('/') + 1);
  }
  protected folder(path: string): string {
    return path.slice(0, path.lastIndexOf('/') + 1);
  }
}
