import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import type { ItemView } from '@tally/contract';
import { toSignal } from '@angular/core/rxjs-interop';
import { doubtInWords } from '@tally/core/capture';
import { writingOf } from '@tally/core/fields';
import { filedFolders, keptTogether } from '@tally/core/plan';
import { standingInWords, standingOfItem } from '@tally/core/life';
import { catchError, of } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { BundleClause } from './bundle-clause';
import { BytesPipe, CountPipe } from '../shared/amounts';
import { FolderTree } from '../shared/folder-tree';
import { SessionService } from '../api/session.service';
import { View } from '../sheet/view';
import { IntakeStore } from './intake-store';
import { filedPlacements, newFolders, plannedPlacements } from './placements';

const ROWS = 250;
const DAY = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'long' });

/** What the drive will look like: the folders as a tree, then every old name beside its new one. */
@Component({
  selector: 'ts-drawer',
  imports: [BytesPipe, CountPipe, FolderTree, BundleClause],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="upper" tabindex="0" role="group" aria-label="Folders">
      <header>
        <h2>{{ title() }}</h2>
        @if (plan()?.folders?.length) {
          <span class="quiet">{{ tree().length | count: 'folder' }}, {{ newFolders() }} new</span>
        }
      </header>
      <ts-bundle-clause />
      @for (obstacle of plan()?.obstacles ?? []; track obstacle) {
        <p class="attention" role="alert">{{ obstacle }}</p>
      }
      @if (plan()?.missing?.length) {
        <p class="empty">
          Say {{ plan()!.missing.includes('contributor') ? 'who took these' : '' }}{{ plan()!.missing.length > 1 ? ' and ' : ''
          }}{{ plan()!.missing.includes('assignment') ? 'what they were shot for' : '' }} above: then every folder and every name
          shows here.
        </p>
      }
      @if (tree().length) {
        <ts-folder-tree class="tree" [folders]="tree()" [beside]="beside()" />
      }
      @if (room().length) {
        <dl class="room" aria-label="Free space">
          @for (one of room(); track one.name) {
            <dt>{{ one.name }}</dt>
            <dd>{{ one.freeBytes | bytes }} free, {{ one.afterBytes | bytes }} after</dd>
          }
        </dl>
      }
      @if (doubts().length) {
        <div class="attention doubts">
          <b>{{ doubts().length | count: 'date' }} to look at.</b>
          @for (one of doubts().slice(0, 4); track $index) {
            <p>
              <button type="button" (click)="view.showAlone(one.words, one.items)">
                {{ one.words }}: {{ one.items.length | count: 'item' }}
              </button>
            </p>
          }
        </div>
      }
      @for (one of otherDays(); track $index) {
        <p class="quiet">
          <button type="button" class="plain" (click)="view.showAlone(one.words, one.items)">{{ one.words }}</button>
        </p>
      }
      @if (unsaid(); as n) {
        <p class="attention">{{ n | count: 'item' }} with something that nobody says: the house's word stands there.</p>
      }
      @if (clashes().length) {
        <div class="attention">
          <b>{{ clashes().length | count: 'name' }} not as the rule says.</b>
          @for (clash of clashes().slice(0, 4); track clash.itemId) {
            @if (clash.with === 'every system') {
              <p>
                <code>{{ clash.wanted }}</code> cannot stand so on every system: filed as <code>{{ clash.given }}</code>
              </p>
            } @else {
              <p>
                <code>{{ clash.wanted }}</code> stands on {{ clash.with }}: filed as <code>{{ clash.given }}</code>
              </p>
            }
          }
          @if (clashes().length > 4) {
            <p>and {{ clashes().length - 4 }} more, marked below</p>
          }
        </div>
      }
    </div>
    <div class="names" tabindex="0" role="group" aria-label="Names">
      @for (tree of parted().trees; track tree.base) {
        <details class="kept">
          <summary>
            <b>{{ tree.root || 'The card' }}</b> as on the card, {{ tree.placed.length | count: 'file' }}
          </summary>
          <ul>
            @for (one of tree.placed.slice(0, rows); track one.from) {
              <li [title]="one.to">{{ tree.root ? one.from.slice(tree.root.length + 1) : one.from }}</li>
            }
          </ul>
          @if (tree.placed.length > rows) {
            <p class="quiet">and {{ tree.placed.length - rows }} more</p>
          }
        </details>
      }
      @if (names().length) {
        <table>
          <caption class="visually-hidden">
            Old and new names
          </caption>
          <colgroup>
            <col class="old" />
            <col />
          </colgroup>
          <thead class="visually-hidden">
            <tr>
              <th scope="col">On the card</th>
              <th scope="col">On the drive</th>
            </tr>
          </thead>
          <tbody>
            @for (row of names(); track row.from) {
              <tr [class.clash]="row.clash">
                <td [title]="row.from">{{ row.old }}</td>
                <td [title]="row.to">
                  {{ row.name }}
                  @if (row.beside) {
                    <span class="beside" [title]="'Its credit stands beside it: ' + row.name + '.xmp'">+ .xmp</span>
                  }
                </td>
              </tr>
            }
          </tbody>
        </table>
        @if (more() > 0) {
          <p class="quiet">and {{ more() }} more</p>
        }
      }
      @if (left().length) {
        <details>
          <summary>{{ left().length | count: 'item' }} not filed</summary>
          <ul class="left">
            @for (item of left().slice(0, 200); track item.id) {
              <li>
                <code>{{ item.path }}</code> <span class="quiet">{{ words(item) }}</span>
              </li>
            }
          </ul>
        </details>
      }
    </div>
  `,
  styles: `
    .room {
      display: grid;
      grid-template-columns: auto 1fr;
      gap: 2px 12px;
      margin: 0 0 14px;
      font-size: 13px;
      color: var(--quiet);
    }
    .room dd {
      margin: 0;
      text-align: right;
    }
    /* The tree stays where it is while one looks through the names. */
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
      border-left: 1px solid var(--line);
      background: var(--sheet);
    }
    .upper {
      flex: none;
      max-height: 55%;
      overflow-y: auto;
      padding: 12px 18px 8px;
      border-bottom: 1px solid var(--line);
    }
    .names {
      flex: 1;
      min-height: 0;
      overflow-y: auto;
      padding: 0 18px 24px;
    }
    @media (max-width: 760px), (max-height: 560px) {
      .upper {
        max-height: none;
      }
    }
    header {
      display: flex;
      justify-content: space-between;
      align-items: baseline;
      gap: 8px;
      margin-bottom: 8px;
    }
    header h2 {
      font-size: 15px;
    }
    .doubts button {
      border: 0;
      border-bottom: 1px dotted currentColor;
      padding: 0;
      min-height: 24px;
      background: none;
      color: inherit;
      font: inherit;
      text-align: left;
      cursor: pointer;
    }
    .tree {
      display: block;
      margin: 8px 0 14px;
    }
    table {
      width: 100%;
      border-collapse: collapse;
      table-layout: fixed;
      font: 13px var(--font-mono);
      margin-top: 10px;
    }
    td {
      padding: 4px 4px 3px 0;
      border-bottom: 1px solid var(--line);
      overflow-wrap: anywhere;
      vertical-align: top;
    }
    .old {
      width: 38%;
    }
    .beside {
      color: var(--quiet);
      white-space: nowrap;
    }
    /* On a narrow screen the new name stands under the old one: neither breaks in its extension. */
    @media (max-width: 1000px) {
      table,
      tbody,
      tr {
        display: block;
      }
      td {
        display: block;
        border: 0;
        padding: 1px 0;
      }
      td:first-child {
        border-top: 1px solid var(--line);
      }
    }
    td:first-child {
      color: var(--quiet);
    }
    .clash td:last-child {
      background: var(--straw);
      color: var(--ochre);
    }
    .kept li {
      padding: 2px 0;
      font: 13px var(--font-mono);
      overflow-wrap: anywhere;
    }
    details {
      margin-top: 12px;
    }
    summary {
      cursor: pointer;
      min-height: 28px;
    }
    .left li {
      padding: 3px 0;
      font-size: 13px;
      overflow-wrap: anywhere;
    }
  `,
  host: { role: 'region', 'aria-label': 'What the drive will look like' },
})
export class Drawer {
  private readonly store = inject(IntakeStore);
  private readonly session = inject(SessionService);
  protected readonly view = inject(View);
  protected readonly plan = this.store.plan;
  protected readonly newFolders = computed(() => this.tree().filter((folder) => folder.isNew).length);
  protected readonly clashes = computed(() => this.plan()?.clashes ?? []);
  protected readonly unsaid = computed(() => new Set(this.plan()?.unsaid.map(({ itemId }) => itemId)).size);
  /** Doubtful dates, those for the same reason together. */
  protected readonly doubts = computed(() => {
    const reasons = new Map<string, { id: number }[]>();
    for (const { doubt, itemId: id } of this.plan()?.doubts ?? []) reasons.set(doubt, [...(reasons.get(doubt) ?? []), { id }]);
    return [...reasons].map(([doubt, items]) => ({ words: doubtInWords(doubt), items }));
  });
  /** Items that are filed under another day than that on which they were taken. */
  protected readonly otherDays = computed(() =>
    (this.plan()?.otherDays ?? []).map(({ day, because, itemIds }) => ({
      items: itemIds.map((id) => ({ id })),
      words: `${itemIds.length} filed under ${DAY.format(Date.parse(day))}: ${
        because === 'the day begins later' ? `the day begins at ${this.session.dayBegins()}` : because
      }`,
    })),
  );
  /** What does not stand on the drive by this intake, and what is true of it now. */
  protected readonly left = computed(() => {
    const card = this.card();
    return this.store.settled().filter((item) => !['filed', 'being filed', 'taken'].includes(standingOfItem(item, card)));
  });
  private readonly card = computed(() => this.store.intake() ?? { tray: 'on the desk' as const });
  protected readonly room = computed(() => (this.plan()?.placements.length ? this.plan()!.room : []));
  private readonly filed = computed(() =>
    this.store.settled().filter((item) => item.filedAs && standingOfItem(item, this.card()) !== 'not filed'),
  );
  protected readonly title = computed(() => (this.filed().length ? 'On the drive' : 'On the drive, after filing'));

  private readonly placements = computed(() => {
    const filed = filedPlacements(this.filed());
    return filed.length ? filed : plannedPlacements(this.plan());
  });

  protected readonly names = computed(() => {
    const clashed = new Set(this.clashes().map((clash) => clash.itemId));
    const leaf = (path: string) => path.slice(path.lastIndexOf('/') + 1);
    return this.parted()
      .named.slice(0, ROWS)
      .map(({ itemId, from, to }) => ({
        ...{ from, to, old: leaf(from), name: leaf(to), clash: clashed.has(itemId) },
        beside: this.hasSidecar(itemId, from),
      }));
  });
  protected readonly more = computed(() => this.parted().named.length - ROWS);
  protected readonly rows = ROWS;
  /** What is kept as on the card is one line that opens; the rest have names of the house. */
  protected readonly parted = computed(() => keptTogether(this.placements()));

  /** The folders that are filed into. */
  protected readonly tree = computed(() => filedFolders(this.placements(), newFolders(this.plan())));
  private readonly house = toSignal(inject(CreditService).house.pipe(catchError(() => of(null))), { initialValue: null });
  private readonly byId = computed(() => new Map(this.store.settled().map((item) => [item.id, item])));

  /** Will its credit stand in a sidecar beside it? (A JPEG that cannot carry it gets one too: that is seen when it is filed.) */
  private hasSidecar(itemId: number, name: string): boolean {
    const [item, house] = [this.byId().get(itemId), this.house()];
    if (!item || !house) return false;
    return writingOf({ kind: item.kind, role: item.role, name, keptWhole: false }, house.writing) === 'beside';
  }

  protected words(item: ItemView): string {
    return standingInWords(item, this.card());
  }

  /** A few folders that stand beside them. */
  protected readonly beside = computed(() => {
    const parents = new Set(this.tree().map(({ path }) => parentOf(path)));
    const known = (this.plan()?.beside ?? []).filter((path) => parents.has(parentOf(path)) && !/\.[a-z0-9]{2,6}$/i.test(path));
    return known.slice(-4);
  });
}

const parentOf = (path: string) => path.slice(0, Math.max(0, path.lastIndexOf('/')));
