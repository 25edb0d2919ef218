import { ChangeDetectionStrategy, Component, inject, output } from '@angular/core';
import { DialogModule } from 'primeng/dialog';
import { HouseTimePipe } from '../shared/amounts';
import { Draft } from './draft';

/** Who changed the rule when and why; each revision can be compared with, or taken up again. */
@Component({
  selector: 'ts-revision-list',
  imports: [DialogModule, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Revisions of the house rule"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '760px' }"
    >
      <ol>
        @for (one of draft.revisions(); track one.revision) {
          <li>
            <p>
              <b>Revision {{ one.revision }}</b>
              <span class="quiet">
                {{ one.at | houseTime: 'day' }}{{ one.who ? ', ' + one.who : '' }},
                {{ one.intakes === 1 ? '1 card' : one.intakes + ' cards' }} filed by it</span
              >
            </p>
            <p>{{ one.note }}</p>
            <p>
              <code>{{ one.rule.folderLine }}</code>
            </p>
            <p>
              <code>{{ one.rule.fileLine }}</code>
            </p>
            @for (warning of one.warnings; track warning.verdict) {
              <p class="quiet">not {{ warning.verdict }}: {{ warning.because }}</p>
            }
            <p class="acts">
              <button type="button" class="plain" (click)="draft.comparedWith.set(one.revision); done.emit()">
                Compare names with it
              </button>
              <button type="button" class="plain" (click)="draft.take(one.rule); done.emit()">Take it up again</button>
            </p>
          </li>
        }
      </ol>
    </p-dialog>
  `,
  styles: `
    li {
      padding: 10px 0;
      border-bottom: 1px solid var(--line);
      overflow-wrap: anywhere;
    }
    .acts {
      display: flex;
      gap: 16px;
    }
  `,
})
export class RevisionList {
  protected readonly draft = inject(Draft);
  readonly done = output();
}
