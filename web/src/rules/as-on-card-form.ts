import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { structureNamed, TREE_STRUCTURES, type StructureName } from '@tally/core/card';
import { OWN_LINES_KINDS, type AsOnCard, type OwnLinesKind } from '@tally/core/rule';
import { CheckboxModule } from 'primeng/checkbox';
import { SelectModule } from 'primeng/select';
import { Draft } from './draft';
import { LineEditor } from './line-editor';

const KEEPINGS = [
  { value: 'whole', words: 'kept whole' },
  { value: 'rename', words: 'clips renamed' },
];
const SMALL = [
  { value: 'left', words: 'left on the card' },
  { value: 'kept', words: 'filed beside the clip' },
];
const KIND_WORDS: Readonly<Record<OwnLinesKind, string>> = {
  ...{ photo: 'photos', raw: 'raw', video: 'video', sound: 'sound', other: 'other files' },
};

/** What a house keeps as on the card, in a few words. */
export function keptInWords({ card, kinds, structures }: AsOnCard): string {
  if (card) return 'every card';
  const renamed = TREE_STRUCTURES.filter((name) => structures[name] === 'rename').length;
  const trees = TREE_STRUCTURES.length - renamed;
  const said = [
    trees ? `${trees === TREE_STRUCTURES.length ? 'all' : trees} structures that must stay whole` : '',
    ...kinds.map((kind) => KIND_WORDS[kind]),
  ].filter(Boolean);
  return said.join(', ') || 'nothing';
}

/** Which cards, structures and kinds stand on the drive as the camera wrote them, and where. */
@Component({
  selector: 'ts-as-on-card-form',
  imports: [FormsModule, SelectModule, CheckboxModule, LineEditor],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="check" for="whole-card"
      ><p-checkbox
        inputId="whole-card"
        [binary]="true"
        [ngModel]="kept().card"
        (ngModelChange)="draft.setAsOnCard({ card: $event })"
      />
      every card, with all its folders and names</label
    >
    @if (!kept().card) {
      <p class="quiet">or, whatever the lines say:</p>
      <div class="kinds">
        @for (kind of kinds; track kind) {
          <label class="check" [for]="'keep-' + kind"
            ><p-checkbox
              [inputId]="'keep-' + kind"
              [binary]="true"
              [ngModel]="kept().kinds.includes(kind)"
              (ngModelChange)="keepKind(kind, $event)"
            />
            {{ words[kind] }}</label
          >
        }
      </div>
      <ts-line-editor
        line="cardLine"
        title="Folder of what is kept"
        hint="below it everything as on the card"
        (focusin)="lineFocused.emit()"
      />
    }
    <ul>
      @for (one of structures(); track one.name) {
        <li>
          <span>
            <b>{{ one.title }}</b>
            <span class="quiet">{{ one.says }}</span>
            @if (one.keeping === 'rename' && !kept().card) {
              <span class="attention">Renamed, {{ one.cost }}.</span>
            }
          </span>
          <p-select
            size="small"
            appendTo="body"
            optionLabel="words"
            optionValue="value"
            [ariaLabel]="one.title"
            [options]="keepings"
            [disabled]="kept().card"
            [ngModel]="kept().card ? 'whole' : one.keeping"
            (ngModelChange)="keep(one.name, $event)"
          />
        </li>
      }
      <li>
        <span>
          <b>Small versions and thumbnails</b>
          <span class="quiet">What the camera made beside its clips. Nothing that a kept structure needs is left.</span>
        </span>
        <p-select
          size="small"
          appendTo="body"
          optionLabel="words"
          optionValue="value"
          ariaLabel="Small versions and thumbnails"
          [options]="small"
          [ngModel]="kept().smallVersions"
          (ngModelChange)="draft.setAsOnCard({ smallVersions: $event })"
        />
      </li>
    </ul>
  `,
  styles: `
    :host {
      display: block;
      padding: 4px 0 12px;
    }
    .check {
      display: flex;
      align-items: center;
      gap: 8px;
      min-height: 34px;
    }
    .kinds {
      display: flex;
      flex-wrap: wrap;
      gap: 0 18px;
    }
    p {
      margin: 4px 0;
    }
    ul {
      list-style: none;
      margin: 6px 0 0;
      padding: 0;
    }
    li {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 190px;
      gap: 14px;
      align-items: center;
      padding: 6px 0;
      border-top: 1px solid var(--line);
    }
    li span > * {
      display: block;
    }
    p-select {
      width: 100%;
    }
    @media (max-width: 700px) {
      li {
        grid-template-columns: 1fr;
        gap: 4px;
      }
    }
  `,
})
export class AsOnCardForm {
  protected readonly draft = inject(Draft);
  readonly lineFocused = output();
  protected readonly kinds = OWN_LINES_KINDS;
  protected readonly words = KIND_WORDS;
  protected readonly keepings = KEEPINGS;
  protected readonly small = SMALL;
  protected readonly kept = computed(() => this.draft.settings().asOnCard);
  protected readonly structures = computed(() =>
    TREE_STRUCTURES.map((name) => ({ ...structureNamed(name), name, keeping: this.kept().structures[name] ?? 'whole' })),
  );

  protected keepKind(kind: OwnLinesKind, keep: boolean): void {
    const { kinds } = this.kept();
    this.draft.setAsOnCard({ kinds: keep ? [...kinds, kind] : kinds.filter((one) => one !== kind) });
  }

  protected keep(name: StructureName, keeping: 'whole' | 'rename'): void {
    this.draft.setAsOnCard({ structures: { ...this.kept().structures, [name]: keeping } });
  }
}
