import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import type { FindingView, PlaceState } from '@tally/contract';
import { FINDINGS, type FindingKind } from '@tally/core/drive';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { FormsModule } from '@angular/forms';
import { DriveService } from '../api/drive.service';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { Path } from '../shared/path';

/** What a check found, as sentences, each with the mend that follows. */
@Component({
  selector: 'ts-found-list',
  imports: [FormsModule, ButtonModule, CheckboxModule, CountPipe, HouseTimePipe, Path],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="kinds" role="group" aria-label="Kinds of findings">
      @for (one of found(); track one.kind) {
        <button
          type="button"
          [attr.aria-pressed]="kind() === one.kind"
          [class.on]="kind() === one.kind"
          [class.trouble]="isTrouble(one.kind)"
          (click)="show(one.kind)"
          [title]="says(one.kind)"
        >
          <b>{{ one.files.toLocaleString() }}</b> {{ title(one.kind) }}
        </button>
      } @empty {
        <p class="empty">Everything stands as the logbook has it.</p>
      }
    </div>
    @if (kind(); as shown) {
      <p class="quiet">{{ says(shown) }}</p>
    }
    <ul>
      @for (one of findings(); track one.id) {
        <li>
          @if (mends(one)) {
            <p-checkbox
              [binary]="true"
              [inputId]="'f' + one.id"
              [ariaLabel]="'Choose ' + one.path"
              [ngModel]="chosen().has(one.id)"
              (ngModelChange)="choose(one.id, $event)"
            />
          } @else {
            <i></i>
          }
          <div>
            <p>
              <b [class.trouble]="isTrouble(one.kind)">{{ title(one.kind) }}</b>
              <ts-path [of]="one.path || 'the root'" />
            </p>
            @if (one.other) {
              <p class="other">→ <ts-path [of]="one.other" /></p>
            }
            <p class="quiet">{{ one.what }}{{ one.what ? '; ' : '' }}since {{ one.since | houseTime: 'short' }}</p>
          </div>
          @if (one.kind === 'stray') {
            <button pButton type="button" class="p-button-outlined" (click)="adopt.emit(one.path)">Adopt…</button>
          } @else if (one.mend) {
            <button pButton type="button" class="p-button-outlined" (click)="mend.emit([one.id])">{{ act(one) }}…</button>
          }
        </li>
      }
    </ul>
    @if (next() !== null) {
      <button type="button" class="plain" (click)="more()">Show more</button>
    }
    @if (chosen().size) {
      <div class="foot">
        <span>{{ chosen().size | count: 'finding' }} chosen</span>
        <button pButton type="button" (click)="mend.emit([...chosen()]); chosen.set(none)">Mend {{ chosen().size }}…</button>
      </div>
    }
  `,
  styles: `
    .kinds {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      margin-bottom: 10px;
    }
    .kinds button {
      min-height: 30px;
      padding: 0 10px;
      border: 1px solid var(--strong-line);
      border-radius: 6px;
      background: var(--paper);
      color: inherit;
      font: inherit;
      cursor: pointer;
    }
    .kinds button.on {
      border-color: var(--reed);
      background: var(--reed-soft);
    }
    li {
      display: grid;
      grid-template-columns: 28px minmax(0, 1fr) auto;
      gap: 8px;
      align-items: start;
      padding: 8px 0;
      border-bottom: 1px solid var(--line);
    }
    li b {
      margin-right: 8px;
    }
    .other {
      font-size: 13px;
    }
    .foot {
      position: sticky;
      bottom: 0;
      display: flex;
      gap: 16px;
      align-items: center;
      justify-content: flex-end;
      padding: 10px 0;
      background: var(--paper);
      border-top: 1px solid var(--strong-line);
    }
  `,
})
export class FoundList {
  readonly place = input.required<string>();
  readonly found = input.required<PlaceState['found']>();
  readonly stamp = input<unknown>(null);
  readonly mend = output<readonly number[]>();
  readonly adopt = output<string>();
  private readonly service = inject(DriveService);

  protected readonly kind = signal<FindingKind | null>(null);
  protected readonly findings = signal<readonly FindingView[]>([]);
  protected readonly next = signal<number | null>(null);
  /** Chosen of whatever kind; what was mended meanwhile counts for nothing. */
  protected readonly chosen = signal<ReadonlySet<number>>(new Set());
  private readonly asked = computed(() => ({ place: this.place(), kind: this.kind() }));

  constructor() {
    effect(() => {
      const { place, kind } = this.asked();
      this.stamp();
      this.service.findings(place, kind).subscribe(({ findings, next }) => {
        this.findings.set(findings);
        this.next.set(next);
      });
    });
  }

  protected readonly none: ReadonlySet<number> = new Set();
  protected readonly title = (kind: FindingKind) => FINDINGS[kind].title;
  protected readonly says = (kind: FindingKind) => FINDINGS[kind].says;
  protected readonly isTrouble = (kind: FindingKind) => FINDINGS[kind].trouble;
  protected readonly mends = ({ mend }: FindingView) => mend !== null && mend !== 'adopt';
  protected readonly act = ({ mend }: FindingView) => (mend ?? '').replace(/^./, (letter) => letter.toUpperCase());

  protected show(kind: FindingKind): void {
    this.kind.update((before) => (before === kind ? null : kind));
  }

  protected choose(id: number, on: boolean): void {
    this.chosen.update((before) => {
      const after = new Set(before);
      if (on) after.add(id);
      else after.delete(id);
      return after;
    });
  }

  protected more(): void {
    const { place, kind } = this.asked();
    this.service.findings(place, kind, this.next() ?? 0).subscribe(({ findings, next }) => {
      this.findings.update((before) => [...before, ...findings]);
      this.next.set(next);
    });
  }
}
