import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

export interface TreeFolder {
  readonly path: string;
  readonly isNew: boolean;
  readonly items: number;
  /** Below it stand the card's own folders and names. */
  readonly asOnCard?: boolean;
}

/** Folders as a tree with their parents, new ones marked, and a few that stand beside them. */
@Component({
  selector: 'ts-folder-tree',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul aria-label="Folders on the shared drive">
      @for (branch of shown(); track branch.path) {
        <li [style.padding-left.px]="branch.depth * 16" [class.new]="branch.isNew" [class.target]="branch.items > 0">
          <i class="pi" [class.pi-folder]="!branch.items" [class.pi-folder-open]="branch.items > 0" aria-hidden="true"></i>
          <span class="mono">{{ branch.name }}</span>
          @if (branch.isNew) {
            <b>new</b>
          }
          @if (branch.asOnCard) {
            <span class="quiet">as on the card</span>
          }
          @if (branch.items) {
            <span class="n">{{ branch.items }}</span>
          }
        </li>
      }
    </ul>
    @if (more() > 0) {
      <p class="quiet">and {{ more() }} more folders</p>
    }
  `,
  styles: `
    ul {
      font-size: 13px;
    }
    li {
      display: flex;
      gap: 7px;
      align-items: baseline;
      min-height: 24px;
    }
    .mono {
      overflow-wrap: anywhere;
    }
    .pi {
      font-size: 13px;
      color: var(--quiet);
    }
    b,
    .new.target .mono {
      color: var(--reed);
    }
    .target .mono {
      font-weight: 640;
    }
    .n {
      margin-left: auto;
    }
  `,
})
export class FolderTree {
  readonly folders = input.required<readonly TreeFolder[]>();
  readonly beside = input<readonly string[]>([]);
  readonly limit = input(400);

  private readonly branches = computed(() => {
    const targets = new Map(this.folders().map((folder) => [folder.path, folder]));
    const shown = new Set<string>();
    for (const path of [...targets.keys(), ...this.beside()]) {
      const parts = path.split('/');
      parts.forEach((_, index) => shown.add(parts.slice(0, index + 1).join('/')));
    }
    return [...shown]
      .filter(Boolean)
      .sort()
      .map((path) => ({
        path,
        depth: path.split('/').length - 1,
        name: path.slice(path.lastIndexOf('/') + 1),
        isNew: targets.get(path)?.isNew ?? false,
        items: targets.get(path)?.items ?? 0,
        asOnCard: targets.get(path)?.asOnCard ?? false,
      }));
  });
  protected readonly shown = computed(() => this.branches().slice(0, this.limit()));
  protected readonly more = computed(() => this.branches().length - this.limit());
}
