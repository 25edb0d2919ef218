import { CdkDrag, CdkDropList } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { FIELD_WORDS, FIELDS, fieldText } from '@tally/core/rule';
import { Draft } from './draft';

/** Every field with the value it has for the chosen item; dragged into a line, or clicked to stand at its end. */
@Component({
  selector: 'ts-field-list',
  imports: [CdkDropList, CdkDrag],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>
      Fields <span class="quiet">as they are for {{ draft.context().original }}: drag one, or click</span>
    </h2>
    <ul
      cdkDropList
      cdkDropListOrientation="mixed"
      [cdkDropListConnectedTo]="['pieces-folderLine', 'pieces-fileLine', 'pieces-cardLine']"
      cdkDropListData="fields"
      [cdkDropListSortingDisabled]="true"
      [cdkDropListEnterPredicate]="never"
    >
      @for (text of texts; track text.source) {
        <li cdkDrag [cdkDragData]="text.source">
          <button
            type="button"
            class="piece text"
            [attr.aria-label]="text.name"
            [title]="text.name"
            (click)="chosen.emit(text.source)"
          >
            {{ text.source === ' ' ? '␣' : text.source }}
          </button>
        </li>
      }
      @for (field of fields(); track field.name) {
        <li cdkDrag [cdkDragData]="field.source">
          <button
            type="button"
            class="piece"
            [attr.aria-label]="field.words + ' ' + field.source + ' ' + (field.value || 'nobody says')"
            [title]="field.explanation"
            (click)="chosen.emit(field.source)"
          >
            <b>{{ field.words }}</b> <code>{{ field.source }}</code>
            <span [class.unsaid]="!field.value">{{ field.value || 'nobody says' }}</span>
          </button>
        </li>
      }
    </ul>
  `,
  styles: `
    h2 {
      font-size: 15px;
      margin-bottom: 6px;
    }
    h2 .quiet {
      font: 13px var(--font-text);
    }
    ul {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
    }
    .piece {
      min-height: 26px;
      padding: 0 6px;
    }
    span {
      color: var(--quiet);
      margin-left: 4px;
    }
    .piece b {
      font: 600 13px var(--font-text);
      margin-right: 6px;
    }
    code {
      color: var(--quiet);
      font-size: 12px;
    }
    .unsaid {
      font-style: italic;
    }
  `,
})
export class FieldList {
  protected readonly draft = inject(Draft);
  readonly chosen = output<string>();
  protected readonly never = () => false;
  protected readonly texts = [
    { source: '/', name: 'a new folder' },
    { source: '_', name: 'underscore' },
    { source: '-', name: 'hyphen' },
    { source: ' ', name: 'space' },
  ];
  protected readonly fields = computed(() => {
    const [context, settings] = [this.draft.context(), this.draft.settings()];
    return FIELDS.map(({ name, explanation }) => ({
      name,
      explanation,
      words: FIELD_WORDS[name],
      source: name === 'n' ? '{n:0000}' : `{${name}}`,
      value: fieldText({ name, format: name === 'n' ? '0000' : null }, context, settings),
    }));
  });
}
