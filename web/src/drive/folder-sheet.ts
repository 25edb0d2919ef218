import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal, untracked } from '@angular/core';
import type { StoodFileView } from '@tally/contract';
import { FINDINGS, type FindingKind } from '@tally/core/drive';
import { kindOf } from '@tally/core/card';
import { DriveService } from '../api/drive.service';
import { SessionService } from '../api/session.service';
import { BytesPipe } from '../shared/amounts';
import { drag } from './dragging';

/** A folder as it stands: what is logged with its picture, what is not with its name. */
@Component({
  selector: 'ts-folder-sheet',
  imports: [BytesPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (files().length) {
      <ul class="tiles" role="listbox" aria-multiselectable="true" aria-label="Files in the folder">
        @for (file of files(); track file.name) {
          <li
            role="option"
            tabindex="0"
            [attr.aria-selected]="chosen().has(file.name)"
            [class.stray]="!file.item"
            [class.chosen]="chosen().has(file.name)"
            [attr.draggable]="file.item !== null && session.may('mend')"
            (dragstart)="start($event, file)"
            (click)="choose(file, $event)"
            (keydown.space)="choose(file, $event); $event.preventDefault()"
          >
            <div class="picture">
              @if (file.item?.pictured) {
                <img
                  [src]="'/api/items/' + file.item!.id + '/picture/sheet'"
                  [alt]="file.name"
                  loading="lazy"
                  draggable="false"
                />
              } @else {
                <span class="quiet">{{ kind(file) }}</span>
              }
            </div>
            <span class="mono name" [title]="file.name">{{ file.name }}</span>
            <span class="quiet state">
              @if (file.item) {
                {{ file.bytes | bytes }}, {{ file.item.intakeNumber }}
              } @else {
                ○ {{ file.twin ? 'twin of ' + file.twin : 'stray' }}, {{ file.bytes | bytes }}
              }
            </span>
            @for (found of file.findings; track $index) {
              <b class="found" [class.trouble]="isTrouble(found.kind)" [title]="found.what">{{ title(found.kind) }}</b>
            }
          </li>
        }
      </ul>
    } @else {
      <p class="empty">No files stand in this folder itself.</p>
    }
    @if (next() !== null) {
      <button type="button" class="plain" (click)="more()">Show more</button>
    }
  `,
  styles: `
    .tiles {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(160px, 1fr));
      gap: 10px;
    }
    li[role='option'] {
      display: grid;
      gap: 2px;
      align-content: start;
      padding: 4px;
      border: 1px solid transparent;
      border-radius: 6px;
      cursor: pointer;
    }
    li.chosen {
      border-color: var(--reed);
      background: var(--reed-soft);
    }
    .picture {
      height: 92px;
      display: grid;
      place-items: center;
      background: var(--line);
      border-radius: 4px;
      overflow: hidden;
    }
    .stray .picture {
      background: none;
      border: 1px dashed var(--quiet);
    }
    img {
      width: 100%;
      height: 100%;
      object-fit: cover;
    }
    .name {
      font-size: 13px;
      overflow-wrap: anywhere;
    }
    .state {
      overflow-wrap: anywhere;
    }
    .found {
      font-size: 13px;
    }
  `,
})
export class FolderSheet {
  readonly place = input.required<string>();
  readonly folder = input.required<string>();
  readonly stamp = input<unknown>(null);
  /** What is chosen, whenever that changes. */
  readonly choice = output<readonly StoodFileView[]>();
  private readonly service = inject(DriveService);
  protected readonly session = inject(SessionService);

  protected readonly files = signal<readonly StoodFileView[]>([]);
  protected readonly next = signal<string | null>(null);
  protected readonly chosen = signal<ReadonlySet<string>>(new Set());
  private readonly last = signal<string | null>(null);
  private readonly where = computed(() => ({ place: this.place(), folder: this.folder() }));

  constructor() {
    effect(() => {
      this.where();
      this.choose1(new Set());
    });
    effect(() => {
      const { place, folder } = this.where();
      this.stamp();
      this.service.folder(place, folder).subscribe(({ files, next }) => {
        if (this.place() !== place || this.folder() !== folder) return;
        this.files.set(files);
        this.next.set(next);
        const still = untracked(this.chosen);
        const kept = new Set(files.flatMap(({ name }) => (still.has(name) ? [name] : [])));
        if (kept.size !== still.size) this.choose1(kept);
      });
    });
  }

  protected readonly kind = (file: StoodFileView) => file.item?.kind ?? kindOf(file.name);
  protected readonly title = (kind: FindingKind) => FINDINGS[kind].title;
  protected readonly isTrouble = (kind: FindingKind) => FINDINGS[kind].trouble;

  protected choose(file: StoodFileView, event: Event): void {
    const { shiftKey } = event as MouseEvent | KeyboardEvent;
    const names = this.files().map(({ name }) => name);
    const from = this.last();
    const after = new Set(this.chosen());
    if (shiftKey && from !== null) {
      const [a, b] = [names.indexOf(from), names.indexOf(file.name)].sort((x, y) => x - y) as [number, number];
      for (const name of names.slice(a, b + 1)) after.add(name);
    } else if (after.has(file.name)) after.delete(file.name);
    else after.add(file.name);
    this.last.set(file.name);
    this.choose1(after);
  }

  /** Whoever takes one of the chosen takes all of them that are filed. */
  protected start(event: DragEvent, file: StoodFileView): void {
    const chosen = this.chosen();
    const taken = chosen.has(file.name) ? this.files().filter(({ name }) => chosen.has(name)) : [file];
    drag(event, { itemIds: taken.flatMap(({ item }) => item?.id ?? []) });
  }

  protected more(): void {
    const { place, folder } = this.where();
    this.service.folder(place, folder, this.next() ?? '').subscribe(({ files, next }) => {
      this.files.update((before) => [...before, ...files]);
      this.next.set(next);
    });
  }

  private choose1(names: ReadonlySet<string>): void {
    this.chosen.set(names);
    this.choice.emit(untracked(this.files).filter(({ name }) => names.has(name)));
  }
}
