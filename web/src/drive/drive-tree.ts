import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal, untracked } from '@angular/core';
import type { StoodFolderView } from '@tally/contract';
import { DriveService } from '../api/drive.service';
import { SessionService } from '../api/session.service';
import { BytesPipe } from '../shared/amounts';
import { May } from '../shared/may';
import { Coverage } from './coverage-mark';
import { drag, draggedIn, type Dropped, isDragged } from './dragging';

interface Row {
  readonly folder: StoodFolderView;
  readonly depth: number;
  readonly open: boolean;
}

/** The tree of a place, level by level: each folder with its count, its size, its coverage and its marks. */
@Component({
  selector: 'ts-drive-tree',
  imports: [May, BytesPipe, Coverage],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="head quiet" aria-hidden="true">
      <span>folder</span><span>files</span><span>size</span><span>copies</span><span>marks</span>
    </div>
    <ul role="tree" aria-label="Folders of the place" (keydown)="keyed($event)">
      @for (row of rows(); track row.folder.path) {
        <li
          role="treeitem"
          [attr.aria-level]="row.depth + 1"
          [attr.aria-expanded]="row.folder.folders ? row.open : null"
          [attr.aria-selected]="row.folder.path === chosen()"
          [attr.data-path]="row.folder.path"
          [tabindex]="row.folder.path === chosen() ? 0 : -1"
          [class.chosen]="row.folder.path === chosen()"
          [class.over]="over() === row.folder.path"
          [attr.draggable]="row.folder.path !== '' && row.folder.known > 0 && session.may('mend')"
          (dragstart)="start($event, row)"
          (dragover)="held($event, row)"
          (dragleave)="over.set(null)"
          (drop)="dropOn($event, row)"
          (click)="choose(row)"
        >
          <span class="name" [style.padding-left.px]="row.depth * 12">
            @if (row.folder.folders) {
              <button
                type="button"
                tabindex="-1"
                [attr.aria-label]="(row.open ? 'Close ' : 'Open ') + nameOf(row.folder)"
                (click)="toggle(row); $event.stopPropagation()"
              >
                <i class="pi" [class.pi-angle-down]="row.open" [class.pi-angle-right]="!row.open" aria-hidden="true"></i>
              </button>
            } @else {
              <i class="gap"></i>
            }
            <span class="mono" [title]="row.folder.path">{{ nameOf(row.folder) }}</span>
          </span>
          <span class="n">{{ row.folder.files.toLocaleString() }}</span>
          <span class="n">{{ row.folder.bytes | bytes }}</span>
          <ts-coverage [copies]="row.folder.copies" [names]="places()" />
          <span class="marks">
            @if (row.folder.trouble) {
              <b class="trouble" [title]="row.folder.trouble + ' missing or changed'">× {{ row.folder.trouble }}</b>
            }
            @if (row.folder.strays) {
              <b [title]="row.folder.strays + ' strays'">○ {{ row.folder.strays }}</b>
            }
          </span>
        </li>
        @if (more().has(row.folder.path) && row.open) {
          <li
            class="more"
            aria-selected="false"
            role="treeitem"
            [attr.aria-level]="row.depth + 2"
            tabindex="0"
            (click)="loadMore(row.folder.path)"
            (keydown.enter)="loadMore(row.folder.path)"
          >
            more folders of {{ nameOf(row.folder) }}
          </li>
        }
      }
    </ul>
    @if (rows().length > 1) {
      <p class="quiet hint" tsMay="mend">Files or a folder that are dragged onto a folder are re-filed as what stands there.</p>
    }
    @if (!rows().length && looked()) {
      <p class="empty">It was not looked at yet. Check it, and what stands there is shown here.</p>
    }
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    .head,
    li:not(.more) {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 52px 66px 46px 68px;
      gap: 8px;
      align-items: center;
      min-height: 28px;
      padding-right: 6px;
    }
    .head {
      border-bottom: 1px solid var(--strong-line);
    }
    .head span:nth-child(2),
    .head span:nth-child(3) {
      text-align: right;
    }
    li:not(.more) {
      cursor: pointer;
      border-radius: 4px;
    }
    li:not(.more):hover {
      background: var(--reed-soft);
    }
    li.over {
      outline: 2px solid var(--reed);
      outline-offset: -2px;
    }
    li.chosen {
      background: var(--reed-soft);
      box-shadow: inset 3px 0 var(--reed);
    }
    .name {
      display: flex;
      gap: 4px;
      align-items: center;
      min-width: 0;
    }
    .name .mono {
      font-size: 13px;
      overflow-wrap: anywhere;
      padding: 4px 0;
    }
    .name button,
    .gap {
      flex: none;
      width: 24px;
      height: 24px;
    }
    .name button {
      border: 0;
      background: none;
      color: var(--quiet);
      cursor: pointer;
    }
    .n {
      text-align: right;
      font-size: 13px;
      font-variant-numeric: tabular-nums;
    }
    .marks {
      display: flex;
      gap: 8px;
      font-size: 13px;
    }
    .hint {
      margin-top: 10px;
      font-size: 13px;
    }
    .more {
      padding: 4px 0 4px 44px;
      color: var(--reed);
      font-weight: 600;
      cursor: pointer;
    }
  `,
})
export class DriveTree {
  readonly place = input.required<string>();
  /** Names of the places, in the order of the notches. */
  readonly places = input<readonly string[]>([]);
  readonly chosen = input('');
  /** Changes when the place was looked at again. */
  readonly stamp = input<unknown>(null);
  readonly choice = output<string>();
  /** Files or a folder were let go over a folder. */
  readonly dropped = output<Dropped>();
  protected readonly over = signal<string | null>(null);
  private readonly service = inject(DriveService);
  protected readonly session = inject(SessionService);

  private readonly root = signal<StoodFolderView | null>(null);
  private readonly levels = signal<ReadonlyMap<string, readonly StoodFolderView[]>>(new Map());
  protected readonly more = signal<ReadonlySet<string>>(new Set());
  private readonly open = signal<ReadonlySet<string>>(new Set(['']));
  protected readonly looked = signal(false);

  /** The chosen folder with its sums, as far as it is shown. */
  readonly chosenFolder = computed(() => this.rows().find(({ folder }) => folder.path === this.chosen())?.folder ?? null);
  protected readonly rows = computed<readonly Row[]>(() => {
    const rows: Row[] = [];
    const root = this.root();
    if (!root) return rows;
    const add = (folder: StoodFolderView, depth: number) => {
      const open = this.open().has(folder.path);
      rows.push({ folder, depth, open });
      if (open) for (const one of this.levels().get(folder.path) ?? []) add(one, depth + 1);
    };
    add(root, 0);
    return rows;
  });

  constructor() {
    effect(() => {
      this.place();
      this.levels.set(new Map());
      this.root.set(null);
      this.open.set(new Set(['', ...above(untracked(this.chosen))]));
    });
    effect(() => {
      this.place();
      this.stamp();
      for (const folder of untracked(this.open)) this.load(folder);
    });
    // Whoever comes with a folder in the address sees where it is.
    effect(() => {
      const wanted = above(this.chosen()).filter((path) => !untracked(this.open).has(path));
      if (!wanted.length) return;
      this.open.update((open) => new Set([...open, ...wanted]));
      wanted.forEach((path) => this.load(path));
    });
  }

  protected readonly nameOf = (folder: StoodFolderView) => (folder.path === '' ? 'the whole place' : folder.name);

  protected choose({ folder }: Row): void {
    this.choice.emit(folder.path);
  }

  protected start(event: DragEvent, { folder }: Row): void {
    drag(event, { folder: folder.path });
  }

  protected held(event: DragEvent, { folder }: Row): void {
    if (!isDragged(event)) return;
    event.preventDefault();
    this.over.set(folder.path);
  }

  protected dropOn(event: DragEvent, { folder }: Row): void {
    const what = draggedIn(event);
    this.over.set(null);
    if (!what) return;
    event.preventDefault();
    if (what.folder !== folder.path) this.dropped.emit({ what, onto: folder.path });
  }

  protected toggle({ folder, open }: Row): void {
    this.open.update((before) => {
      const after = new Set(before);
      if (open) after.delete(folder.path);
      else after.add(folder.path);
      return after;
    });
    if (!open) this.load(folder.path);
  }

  protected loadMore(folder: string): void {
    const last = this.levels().get(folder)?.at(-1)?.name ?? '';
    this.service.tree(this.place(), folder, last).subscribe(({ folders, more }) => {
      this.levels.update((levels) => new Map(levels).set(folder, [...(levels.get(folder) ?? []), ...folders]));
      this.hasMore(folder, more);
    });
  }

  /** Arrows walk the tree as trees are walked (WAI-ARIA Authoring Practices, tree view). */
  protected keyed(event: KeyboardEvent): void {
    const rows = this.rows();
    const at = rows.findIndex(({ folder }) => folder.path === this.chosen());
    const row = rows[at];
    if (!row) return;
    const go = (to: Row | undefined) => {
      if (!to) return;
      this.choice.emit(to.folder.path);
      const list = event.currentTarget as HTMLElement;
      queueMicrotask(() => list.querySelector<HTMLElement>(`[data-path="${CSS.escape(to.folder.path)}"]`)?.focus());
    };
    if (event.key === 'ArrowDown') go(rows[at + 1]);
    else if (event.key === 'ArrowUp') go(rows[at - 1]);
    else if (event.key === 'ArrowRight' && row.folder.folders) {
      if (row.open) go(rows[at + 1]);
      else this.toggle(row);
    } else if (event.key === 'ArrowLeft') {
      if (row.open && row.folder.path !== '') this.toggle(row);
      else
        go(
          rows
            .slice(0, at)
            .reverse()
            .find(({ depth }) => depth < row.depth),
        );
    } else return;
    event.preventDefault();
  }

  private load(folder: string): void {
    const place = this.place();
    this.service.tree(place, folder).subscribe((tree) => {
      if (place !== this.place()) return;
      this.looked.set(true);
      if (folder === '') this.root.set(tree.folder);
      this.levels.update((levels) => new Map(levels).set(folder, tree.folders));
      this.hasMore(folder, tree.more);
    });
  }

  private hasMore(folder: string, more: boolean): void {
    this.more.update((before) => {
      const after = new Set(before);
      if (more) after.add(folder);
      else after.delete(folder);
      return after;
    });
  }
}

/** The folders above a path, and the root. */
const above = (path: string): string[] => [
  '',
  ...path
    .split('/')
    .slice(0, -1)
    .map((_, index, parts) => parts.slice(0, index + 1).join('/')),
];
