import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal, type OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { AdoptFolder, FolderSaysView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { catchError, of } from 'rxjs';
import { DriveService } from '../api/drive.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { BytesPipe, CountPipe } from '../shared/amounts';
import { DayBox } from '../shared/day-box';
import { Path } from '../shared/path';

interface Row {
  readonly says: FolderSaysView;
  take: boolean;
  contributorId: number | null;
  title: string;
  day: string | null;
}

/** Folders of strays with what their names say: taken into the logbook where they stand; what is left over is asked here. */
@Component({
  selector: 'ts-adopt-dialog',
  imports: [
    FormsModule,
    DialogModule,
    ButtonModule,
    CheckboxModule,
    InputTextModule,
    SelectModule,
    BytesPipe,
    CountPipe,
    DayBox,
    Path,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Adopt where it stands"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit(false)"
      [style]="{ width: '1080px' }"
    >
      <p>
        Nothing is moved, and nothing is written into the files. They are read, logged, found like anything filed, and get their
        second and off-site copies.
      </p>
      @if (rows(); as all) {
        <div class="list" tabindex="0" role="region" aria-label="Folders">
          <table>
            <thead>
              <tr>
                <th scope="col"><span class="visually-hidden">Adopt</span></th>
                <th scope="col">folder</th>
                <th scope="col">taken</th>
                <th scope="col">by</th>
                <th scope="col">for</th>
                <th scope="col">read by</th>
              </tr>
            </thead>
            <tbody>
              @for (row of all; track row.says.folder) {
                <tr>
                  <td>
                    <p-checkbox
                      [binary]="true"
                      [ariaLabel]="'Adopt ' + row.says.folder"
                      [(ngModel)]="row.take"
                      (ngModelChange)="changed()"
                    />
                  </td>
                  <td>
                    <ts-path [of]="row.says.folder || 'the root'" />
                    <p class="quiet">
                      {{ row.says.files | count: 'file' }}, {{ row.says.bytes | bytes
                      }}{{ row.says.twins ? '; ' + row.says.twins + ' filed already' : '' }}
                    </p>
                  </td>
                  <td class="day">
                    @if (row.says.from; as from) {
                      {{ from }}{{ row.says.to !== from ? ' to ' + row.says.to : '' }}
                    } @else {
                      <ts-day-box
                        [label]="'Day of ' + row.says.folder"
                        [day]="row.day ?? ''"
                        (dayChange)="row.day = $event || null; changed()"
                      />
                    }
                  </td>
                  <td class="who">
                    @if (row.says.contributor; as by) {
                      <span class="tape">{{ by.code }}</span> {{ by.name }}
                    } @else {
                      <p-select
                        [options]="people()"
                        optionLabel="name"
                        optionValue="id"
                        [showClear]="true"
                        [filter]="true"
                        appendTo="body"
                        placeholder="nobody said"
                        [ariaLabel]="'Who took ' + row.says.folder"
                        [(ngModel)]="row.contributorId"
                        (ngModelChange)="changed()"
                      />
                    }
                  </td>
                  <td class="what">
                    @if (row.says.assignment; as one) {
                      {{ one.title }}
                    } @else {
                      <input
                        pInputText
                        maxlength="120"
                        placeholder="no assignment"
                        [attr.aria-label]="'Assignment of ' + row.says.folder"
                        [(ngModel)]="row.title"
                        (ngModelChange)="changed()"
                      />
                      @if (row.title.trim()) {
                        <p class="quiet">new</p>
                      }
                    }
                  </td>
                  <td class="quiet">{{ row.says.by }}</td>
                </tr>
              } @empty {
                <tr>
                  <td colspan="6" class="empty">No strays stand there any more.</td>
                </tr>
              }
            </tbody>
          </table>
        </div>
        @if (more()) {
          <p class="quiet">and {{ more() | count: 'folder' }} more: adopt these first.</p>
        }
      } @else {
        <div class="skeleton" style="height: 220px"></div>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit(false)">Leave it</button>
        <button pButton type="button" [disabled]="!taken().files || working()" (click)="accept()">
          Adopt {{ taken().files | count: 'file' }} of {{ taken().folders | count: 'folder' }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    .list {
      max-height: 440px;
      overflow: auto;
      margin-top: 10px;
    }
    table {
      width: 100%;
      border-collapse: collapse;
    }
    td {
      padding: 6px 10px 6px 0;
      border-bottom: 1px solid var(--line);
      vertical-align: top;
    }
    .day,
    .who {
      width: 190px;
    }
    .what {
      width: 210px;
    }
    .what input,
    p-select {
      width: 100%;
    }
  `,
})
export class AdoptDialog implements OnInit {
  readonly place = input.required<string>();
  readonly folder = input.required<string>();
  /** true: it was begun. */
  readonly done = output<boolean>();
  private readonly service = inject(DriveService);
  private readonly messages = inject(MessageService);
  protected readonly people = toSignal(inject(PeopleService).contributors.pipe(catchError(() => of([]))), { initialValue: [] });

  protected readonly rows = signal<readonly Row[] | null>(null);
  protected readonly more = signal(0);
  protected readonly problem = signal('');
  protected readonly working = signal(false);
  /** Counts what was changed in the rows, which are filled in where they stand. */
  private readonly edits = signal(0);
  protected readonly taken = computed(() => {
    this.edits();
    const taken = (this.rows() ?? []).filter(({ take }) => take);
    return { folders: taken.length, files: taken.reduce((sum, { says }) => sum + says.files, 0) };
  });

  ngOnInit(): void {
    this.service.says(this.place(), this.folder()).subscribe({
      next: ({ folders, more }) => {
        this.rows.set(folders.map((says) => ({ says, take: true, contributorId: null, title: says.title ?? '', day: null })));
        this.more.set(more);
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  protected changed(): void {
    this.edits.update((n) => n + 1);
  }

  protected accept(): void {
    const folders = (this.rows() ?? [])
      .filter(({ take }) => take)
      .map(({ says, contributorId, title, day }): AdoptFolder => ({
        ...{ folder: says.folder, contributorId, assignmentId: null, day },
        title: says.assignment || !title.trim() ? null : title.trim(),
      }));
    this.working.set(true);
    this.service.adopt(this.place(), folders).subscribe({
      next: () => {
        this.messages.add({
          severity: 'success',
          summary: 'Being adopted, behind whatever is filed. It can be stopped.',
          life: 6_000,
        });
        this.done.emit(true);
      },
      error: (error: unknown) => {
        this.working.set(false);
        this.problem.set(wordsFor(error));
      },
    });
  }
}
