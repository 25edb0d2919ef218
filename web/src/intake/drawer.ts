import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { CountPipe } from '../shared/amounts';
import { IntakeStore } from './intake-store';

interface Branch {
  readonly depth: number;
  readonly name: string;
  readonly isNew: boolean;
  readonly isTarget: boolean;
  readonly items: number;
}

const ROWS = 250;

/** What the drive will look like: the folders as a tree, then every old name beside its new one. */
@Component({
  selector: 'ts-drawer',
  imports: [CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <h2>{{ title() }}</h2>
      @if (plan()?.folders?.length) {
        <span class="quiet">{{ plan()!.folders.length | count: 'folder' }}, {{ newFolders() }} new</span>
      }
    </header>
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
      <ul class="tree" aria-label="Folders on the shared drive">
        @for (branch of tree(); track $index) {
          <li [style.padding-left.px]="branch.depth * 16" [class.new]="branch.isNew" [class.target]="branch.isTarget">
            <i class="pi" [class.pi-folder]="!branch.isTarget" [class.pi-folder-open]="branch.isTarget" aria-hidden="true"></i>
            <span class="mono">{{ branch.name }}</span>
            @if (branch.isNew) {
              <b>new</b>
            }
            @if (branch.items) {
              <span class="n">{{ branch.items }}</span>
            }
          </li>
        }
      </ul>
    }
    @if (clashes().length) {
      <div class="attention">
        <b>{{ clashes().length | count: 'name' }} taken already.</b>
        @for (clash of clashes().slice(0, 4); track clash.itemId) {
          <p>
            <code>{{ clash.wanted }}</code> stands on {{ clash.with }}: filed as <code>{{ clash.given }}</code>
          </p>
        }
        @if (clashes().length > 4) {
          <p>and {{ clashes().length - 4 }} more, marked below</p>
        }
      </div>
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
              <td [title]="row.to">{{ row.name }}</td>
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
        <summary>{{ left().length | count: 'item' }} left on the card</summary>
        <ul class="left">
          @for (item of left().slice(0, 200); track item.itemId) {
            <li>
              <code>{{ item.from }}</code> <span class="quiet">{{ item.reason }}</span>
            </li>
          }
        </ul>
      </details>
    }
  `,
  styles: `
    :host {
      display: block;
      overflow-y: auto;
      padding: 12px 18px 24px;
      border-left: 1px solid var(--line);
      background: var(--sheet);
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
    .tree {
      margin: 8px 0 14px;
      font-size: 13px;
    }
    .tree li {
      display: flex;
      gap: 7px;
      align-items: baseline;
      min-height: 24px;
    }
    .tree .mono {
      overflow-wrap: anywhere;
    }
    .tree .pi {
      font-size: 13px;
      color: var(--quiet);
    }
    .tree b,
    .tree .new.target .mono {
      color: var(--reed);
    }
    .tree .target .mono {
      font-weight: 640;
    }
    .n {
      margin-left: auto;
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
    td:first-child {
      color: var(--quiet);
    }
    .clash td:last-child {
      background: var(--straw);
      color: var(--ochre);
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
  host: { tabindex: '0', role: 'region', 'aria-label': 'What the drive will look like' },
})
export class Drawer {
  private readonly store = inject(IntakeStore);
  protected readonly plan = this.store.plan;
  protected readonly newFolders = computed(() => this.plan()?.folders.filter((folder) => folder.isNew).length ?? 0);
  protected readonly clashes = computed(() => this.plan()?.clashes ?? []);
  protected readonly left = computed(() => this.plan()?.left.filter((item) => !item.reason.startsWith('set aside')) ?? []);
  private readonly filed = computed(() => this.store.items().filter((item) => item.filedAs));
  protected readonly title = computed(() => (this.filed().length ? 'On the drive' : 'On the drive, after filing'));

  private readonly placements = computed(() => {
    const planned = (this.plan()?.placements ?? []).map((p) => ({
      itemId: p.itemId,
      from: p.from,
      to: p.folder ? `${p.folder}/${p.name}` : p.name,
    }));
    const filed = this.filed().map((item) => ({ itemId: item.id, from: item.path, to: item.filedAs! }));
    return filed.length ? filed : planned;
  });

  protected readonly names = computed(() => {
    const clashed = new Set(this.clashes().map((clash) => clash.itemId));
    const leaf = (path: string) => path.slice(path.lastIndexOf('/') + 1);
    return this.placements()
      .slice(0, ROWS)
      .map(({ itemId, from, to }) => ({ from, to, old: leaf(from), name: leaf(to), clash: clashed.has(itemId) }));
  });
  protected readonly more = computed(() => this.placements().length - ROWS);

  /** The target folders with their parents, and a few that stand beside them. */
  protected readonly tree = computed<Branch[]>(() => {
    const counts = new Map<string, number>();
    for (const { to } of this.placements()) {
      const folder = to.slice(0, Math.max(0, to.lastIndexOf('/')));
      counts.set(folder, (counts.get(folder) ?? 0) + 1);
    }
    const isNew = new Set(
      this.plan()
        ?.folders.filter((folder) => folder.isNew)
        .map((folder) => folder.path),
    );
    const shown = new Set<string>();
    for (const folder of counts.keys()) {
      const parts = folder.split('/');
      parts.forEach((_, index) => shown.add(parts.slice(0, index + 1).join('/')));
    }
    const known = new Set(this.plan()?.beside ?? []);
    const parents = new Set([...counts.keys()].map((folder) => folder.slice(0, Math.max(0, folder.lastIndexOf('/')))));
    const beside = [...known].filter(
      (folder) => parents.has(folder.slice(0, Math.max(0, folder.lastIndexOf('/')))) && !/\.[a-z0-9]{2,4}$/i.test(folder),
    );
    for (const folder of beside.slice(-4)) shown.add(folder);
    return [...shown]
      .filter(Boolean)
      .sort()
      .map((path) => {
        const items = counts.get(path) ?? 0;
        return {
          depth: path.split('/').length - 1,
          name: path.slice(path.lastIndexOf('/') + 1),
          isNew: isNew.has(path),
          isTarget: items > 0,
          items,
        };
      });
  });
}
