import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal, untracked } from '@angular/core';
import type { FindingsView, FindingView, FoundTogether, FoundView, MendAsk, PlaceState } from '@tally/contract';
import { FINDINGS, type FindingKind } from '@tally/core/drive';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { FormsModule } from '@angular/forms';
import { DriveService } from '../api/drive.service';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { Path } from '../shared/path';
import { May } from '../shared/may';

/** So many lines are asked for; and at most, when they are asked for again. */
const AT_ONCE = 60;
const MOST_AT_ONCE = 200;
const NONE_OPEN: FindingsView = { findings: [], next: null };
const isSame = (a: FoundTogether, b: FoundTogether) => a.kind === b.kind && a.folder === b.folder;

/** What a check found, folder by folder, each with the mend that follows: of one file, or of all at once. */
@Component({
  selector: 'ts-found-list',
  imports: [May, NgTemplateOutlet, FormsModule, ButtonModule, CheckboxModule, CountPipe, HouseTimePipe, Path],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="kinds" role="group" aria-label="Kinds of findings">
      @for (one of found(); track one.kind) {
        <button
          type="button"
          [attr.aria-pressed]="kind() === one.kind"
          [class.on]="kind() === one.kind"
          [class.trouble]="isTrouble(one.kind)"
          (click)="narrow(one.kind)"
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
      @for (some of together(); track some.kind + some.folder) {
        @if (some.findings === 1) {
          <ng-container *ngTemplateOutlet="line; context: { $implicit: some.first, alone: true }" />
        } @else {
          <li>
            <button
              type="button"
              class="open"
              [attr.aria-expanded]="isOpen(some)"
              [attr.aria-label]="title(some.kind) + ' in ' + (some.folder || 'the root')"
              (click)="toggle(some)"
            >
              <i [class]="isOpen(some) ? 'pi pi-chevron-down' : 'pi pi-chevron-right'" aria-hidden="true"></i>
            </button>
            <div>
              <p>
                <b [class.trouble]="isTrouble(some.kind)">{{ some.findings.toLocaleString() }} {{ title(some.kind) }}</b>
                <ts-path [of]="some.folder || 'the root'" />
              </p>
              @if (!isOpen(some)) {
                <p class="quiet">
                  <ts-path [of]="some.first.path" />
                  @if (some.first.other; as other) {
                    → <ts-path [of]="other" />
                  }
                  and {{ some.findings - 1 | count: 'other' }}; since {{ some.since | houseTime: 'short' }}
                </p>
              }
            </div>
            @if (some.kind === 'stray') {
              <button pButton type="button" tsMay="mend" class="p-button-outlined" (click)="adopt.emit(some.folder)">
                Adopt…
              </button>
            } @else if (some.mend) {
              <button pButton type="button" tsMay="mend" class="p-button-outlined" (click)="mendAll(some)">
                {{ act(some.mend) }}, all {{ some.findings.toLocaleString() }}…
              </button>
            }
          </li>
          @if (isOpen(some)) {
            @for (one of opened().findings; track one.id) {
              <ng-container *ngTemplateOutlet="line; context: { $implicit: one, alone: false }" />
            }
            @if (opened().next !== null) {
              <li class="within"><button type="button" class="plain" (click)="moreIn(some)">Show more of these</button></li>
            }
          }
        }
      }
    </ul>
    <ng-template #line let-one let-alone="alone">
      <li [class.within]="!alone">
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
            @if (alone) {
              <b [class.trouble]="isTrouble(one.kind)">{{ title(one.kind) }}</b>
            }
            <ts-path [of]="one.path || 'the root'" />
          </p>
          @if (one.other) {
            <p class="other">→ <ts-path [of]="one.other" /></p>
          }
          <p class="quiet">{{ one.what }}{{ one.what ? '; ' : '' }}since {{ one.since | houseTime: 'short' }}</p>
        </div>
        @if (one.kind === 'stray') {
          <button pButton type="button" tsMay="mend" class="p-button-outlined" (click)="adopt.emit(one.path)">Adopt…</button>
        } @else if (one.mend) {
          <button
            pButton
            type="button"
            tsMay="mend"
            class="p-button-outlined"
            (click)="mend.emit({ kind: 'findings', ids: [one.id] })"
          >
            {{ act(one.mend) }}…
          </button>
        }
      </li>
    </ng-template>
    @if (next() !== null) {
      <button type="button" class="plain" (click)="more()">Show more</button>
    }
    @if (chosen().size) {
      <div class="foot">
        <span>{{ chosen().size | count: 'finding' }} chosen</span>
        <button pButton type="button" tsMay="mend" (click)="mendChosen()">Mend {{ chosen().size }}…</button>
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
    li.within {
      margin-left: 28px;
    }
    .open {
      width: 28px;
      height: 28px;
      padding: 0;
      border: 0;
      background: none;
      color: inherit;
      cursor: pointer;
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
  readonly mend = output<MendAsk>();
  readonly adopt = output<string>();
  private readonly service = inject(DriveService);

  protected readonly kind = signal<FindingKind | null>(null);
  protected readonly together = signal<readonly FoundTogether[]>([]);
  protected readonly next = signal<FoundView['next']>(null);
  /** The one that is looked at one by one. */
  private readonly open = signal<FoundTogether | null>(null);
  protected readonly opened = signal<FindingsView>(NONE_OPEN);
  /** Chosen of whatever kind; what was mended meanwhile counts for nothing. */
  protected readonly chosen = signal<ReadonlySet<number>>(new Set());
  private readonly asked = computed(() => ({ place: this.place(), kind: this.kind() }));

  constructor() {
    effect(() => {
      const { place, kind } = this.asked();
      this.stamp();
      // Whoever asked for more keeps seeing it while the place is looked at again.
      const shown = untracked(this.together).length;
      this.service.found(place, kind, Math.min(MOST_AT_ONCE, Math.max(AT_ONCE, shown))).subscribe(({ together, next }) => {
        this.together.set(together);
        this.next.set(next);
        const open = untracked(this.open);
        const still = together.find((one) => open && isSame(one, open));
        if (still) this.show(still);
      });
    });
  }

  protected readonly title = (kind: FindingKind) => FINDINGS[kind].title;
  protected readonly says = (kind: FindingKind) => FINDINGS[kind].says;
  protected readonly isTrouble = (kind: FindingKind) => FINDINGS[kind].trouble;
  protected readonly mends = ({ mend }: FindingView) => mend !== null && mend !== 'adopt';
  protected readonly act = (mend: string) => mend.replace(/^./, (letter) => letter.toUpperCase());
  protected isOpen(some: FoundTogether): boolean {
    const open = this.open();
    return open !== null && isSame(open, some);
  }

  protected narrow(kind: FindingKind): void {
    this.open.set(null);
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

  protected mendChosen(): void {
    this.mend.emit({ kind: 'findings', ids: [...this.chosen()] });
    this.chosen.set(new Set());
  }

  protected mendAll({ kind, folder }: FoundTogether): void {
    this.mend.emit({ kind: 'findings in', placeId: this.place(), finding: kind, folder });
  }

  protected toggle(some: FoundTogether): void {
    if (this.isOpen(some)) this.open.set(null);
    else this.show(some);
  }

  private show(some: FoundTogether): void {
    if (!this.isOpen(some)) this.opened.set(NONE_OPEN);
    this.open.set(some);
    this.service.findingsIn(this.place(), some).subscribe((found) => this.opened.set(found));
  }

  protected moreIn(some: FoundTogether): void {
    this.service
      .findingsIn(this.place(), some, this.opened().next ?? 0)
      .subscribe(({ findings, next }) => this.opened.update((before) => ({ findings: [...before.findings, ...findings], next })));
  }

  protected more(): void {
    const { place, kind } = this.asked();
    this.service.found(place, kind, AT_ONCE, this.next()).subscribe(({ together, next }) => {
      this.together.update((before) => [...before, ...together]);
      this.next.set(next);
    });
  }
}
