import { ChangeDetectionStrategy, Component, inject, input, type OnInit, output, signal } from '@angular/core';
import type { PlaceView, RebuildOffer } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { DriveService } from '../api/drive.service';
import { wordsFor } from '../api/problem';
import { CountPipe } from '../shared/amounts';

/** *This is that drive*: somebody says knowingly that what stands at a place's path is the place. */
@Component({
  selector: 'ts-known-dialog',
  imports: [ButtonModule, DialogModule, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let one = place();
    <p-dialog
      header="This is that drive"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '560px' }"
    >
      <p>
        What stands at <code>{{ one.root }}</code> is {{ one.name }} from now on: it gets this place’s mark. Nothing else on it is
        changed.
      </p>
      @if (one.asks === 'no mark') {
        <p>
          It carries no mark. Be sure that the drive is mounted there, and that it is no empty folder: what is filed goes to it.
        </p>
      } @else {
        <p>
          It carries the mark of another house, or of an earlier life of this one. A house that still uses this drive will find it
          away, until somebody says the same there.
        </p>
      }
      @if (!offer()) {
        <p class="quiet">
          The logbook has {{ one.copies | count: 'copy' : 'copies' }} at {{ one.name }}. A check tells which of them stand there,
          and what else does.
        </p>
      }
      @if (looking()) {
        <p class="quiet">Looking whether a logbook can be rebuilt from it …</p>
      } @else if (offer(); as found) {
        <div class="offer">
          <p>
            <strong>This house is new, and its logbook can be rebuilt from this drive:</strong>
            {{ found.intakes | count: 'intake' }} of {{ found.houseName || 'a house' }}, the last one {{ found.newest }}.
          </p>
          <p class="quiet">
            It becomes that house: intakes, items, credit and events come back as the records on the drive tell them, and every
            original comes out. Accounts, loans, agreements, contacts that stay inside and saved questions are in backups only: if
            there is one, bring that back instead.
            @if (!found.hasHouseRecord) {
              No lists of people, assignments and words stand there: they are made of what the records name.
            }
            @if (found.others) {
              {{ found.others | count: 'intake' }} of other houses stay as they are.
            }
          </p>
        </div>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Cancel</button>
        @if (offer(); as found) {
          <button pButton type="button" class="p-button-outlined" [disabled]="working()" (click)="say()">
            It is {{ one.name }}, start anew
          </button>
          <button pButton type="button" [disabled]="working()" (click)="rebuild()">
            Rebuild {{ found.intakes | count: 'intake' }}
          </button>
        } @else {
          <button pButton type="button" [disabled]="working() || looking()" (click)="say()">It is {{ one.name }}</button>
        }
      </ng-template>
    </p-dialog>
  `,
  styles: `
    p + p {
      margin-top: 10px;
    }
    .offer {
      margin-top: 14px;
      padding: 12px 14px;
      border: 1px solid var(--strong-line);
      border-radius: 6px;
    }
  `,
})
export class KnownDialog implements OnInit {
  readonly place = input.required<PlaceView>();
  /** Other places that carry another mark, too: a logbook is rebuilt from all of them. */
  readonly others = input<readonly string[]>([]);
  readonly done = output();
  private readonly service = inject(DriveService);
  private readonly messages = inject(MessageService);
  protected readonly problem = signal('');
  protected readonly working = signal(false);
  protected readonly looking = signal(false);
  protected readonly offer = signal<RebuildOffer | null>(null);

  ngOnInit(): void {
    const { id, asks, copies } = this.place();
    if (asks !== 'another mark' || copies > 0) return;
    this.looking.set(true);
    this.service.rebuildOffer(id).subscribe({
      next: (found) => {
        this.looking.set(false);
        if (found.empty && found.intakes > 0 && !found.going) this.offer.set(found);
      },
      // Nothing stands there to rebuild from: it may still be that drive.
      error: () => this.looking.set(false),
    });
  }

  protected rebuild(): void {
    this.working.set(true);
    this.service.rebuild([this.place().id, ...this.others()]).subscribe({
      next: ({ intakes }) => {
        this.messages.add({
          severity: 'success',
          summary: `The logbook is being rebuilt: ${intakes} ${intakes === 1 ? 'intake' : 'intakes'}. It goes on by itself.`,
          life: 8_000,
        });
        this.done.emit();
      },
      error: (error: unknown) => {
        this.working.set(false);
        this.problem.set(wordsFor(error));
      },
    });
  }

  protected say(): void {
    const { id, name } = this.place();
    this.working.set(true);
    this.service.known(id).subscribe({
      next: () => {
        this.messages.add({
          severity: 'success',
          summary: `${name} is here. Check it to compare it with the logbook.`,
          life: 8_000,
        });
        this.done.emit();
      },
      error: (error: unknown) => {
        this.working.set(false);
        this.problem.set(wordsFor(error));
      },
    });
  }
}
