import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { MendAsk, PlaceView } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { catchError, of } from 'rxjs';
import { PeopleService } from '../api/people.service';
import { CountPipe } from '../shared/amounts';
import { AssignmentBox } from '../shared/assignment-box';
import { DayBox } from '../shared/day-box';

export type Act = 're-file' | 're-file folder' | 'rename folder' | 'put aside' | 'to another place';

/** What has to be said before something on the drive can be put right; what would happen is shown next. */
@Component({
  selector: 'ts-act-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, InputTextModule, SelectModule, AssignmentBox, DayBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="heading()"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="asked.emit(null)"
      [style]="{ width: '520px' }"
    >
      <div class="fields">
        @switch (act()) {
          @case ('rename folder') {
            <label class="field" for="act-to"
              ><span>Its path from now on, in every place</span>
              <input pInputText id="act-to" maxlength="400" class="mono" [(ngModel)]="to" />
            </label>
          }
          @case ('put aside') {
            <label class="field" for="act-why"
              ><span>Why it should not have been filed</span>
              <input pInputText id="act-why" maxlength="200" [(ngModel)]="why" />
            </label>
            <p class="quiet">
              It goes to the tray on the drive, with its copies. It is kept for its days and removed only when somebody says so.
            </p>
          }
          @case ('to another place') {
            <label class="field" for="act-place"
              ><span>The place it goes to</span>
              <p-select
                inputId="act-place"
                [options]="others()"
                optionLabel="name"
                optionValue="id"
                appendTo="body"
                [(ngModel)]="placeId"
              />
            </label>
          }
          @default {
            <p class="quiet">What is left empty stays as it was said. Names follow the rule of today.</p>
            <label class="field" for="act-for"
              ><span>For</span>
              <ts-assignment-box inputId="act-for" (choice)="assignmentId.set($event)" />
            </label>
            <label class="field" for="act-by"
              ><span>By</span>
              <p-select
                inputId="act-by"
                [options]="people()"
                optionLabel="name"
                optionValue="id"
                [showClear]="true"
                [filter]="true"
                appendTo="body"
                placeholder="as it is"
                [(ngModel)]="contributorId"
              />
            </label>
            <div class="field">
              <span>Taken on</span><ts-day-box label="Taken on" [day]="day()" (dayChange)="day.set($event)" />
            </div>
          }
        }
      </div>
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="asked.emit(null)">Leave it</button>
        <button pButton type="button" [disabled]="!ask()" (click)="asked.emit(ask())">Show what would happen</button>
      </ng-template>
    </p-dialog>
  `,
  styleUrl: '../shared/dialog-fields.css',
})
export class ActDialog {
  readonly act = input.required<Act>();
  readonly itemIds = input<readonly number[]>([]);
  readonly folder = input('');
  readonly place = input.required<PlaceView>();
  readonly places = input<readonly PlaceView[]>([]);
  /** null: nothing is to be done. */
  readonly asked = output<MendAsk | null>();
  protected readonly people = toSignal(inject(PeopleService).contributors.pipe(catchError(() => of([]))), { initialValue: [] });

  private readonly typed = signal<string | null>(null);
  protected readonly why = signal('');
  protected readonly placeId = signal<string | null>(null);
  protected readonly assignmentId = signal<number | null>(null);
  protected readonly contributorId = signal<number | null>(null);
  protected readonly day = signal('');
  protected readonly others = computed(() => this.places().filter(({ id }) => id !== this.place().id));
  protected readonly heading = computed(() => {
    const files = new CountPipe().transform(this.itemIds().length, 'file');
    return {
      're-file': `Re-file ${files}`,
      're-file folder': `Re-file all in ${this.folder()}`,
      'rename folder': `Rename ${this.folder()}`,
      'put aside': `Put ${files} aside`,
      'to another place': `Move ${this.folder()} to another place`,
    }[this.act()];
  });

  protected get to(): string {
    return this.typed() ?? this.folder();
  }

  protected set to(text: string) {
    this.typed.set(text);
  }

  protected readonly ask = computed<MendAsk | null>(() => {
    const itemIds = [...this.itemIds()];
    switch (this.act()) {
      case 'rename folder': {
        const to = (this.typed() ?? '').trim().replace(/^\/+|\/+$/g, '');
        return to && to !== this.folder() ? { kind: 'rename folder', folder: this.folder(), to } : null;
      }
      case 'put aside':
        return this.why().trim() ? { kind: 'put aside', itemIds, why: this.why().trim() } : null;
      case 'to another place': {
        const to = this.placeId();
        return to ? { kind: 'to another place', folder: this.folder(), from: this.place().id, to } : null;
      }
      default: {
        const [assignmentId, contributorId, day] = [this.assignmentId(), this.contributorId(), this.day()];
        const said = {
          ...(assignmentId === null ? {} : { assignmentId }),
          ...(contributorId === null ? {} : { contributorId }),
          ...(day ? { day } : {}),
        };
        return this.act() === 're-file folder'
          ? { kind: 're-file folder', folder: this.folder(), ...said }
          : { kind: 're-file', itemIds, ...said };
      }
    }
  });
}
