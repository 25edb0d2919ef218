import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal, type OnInit } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { ClearanceView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { DialogModule } from 'primeng/dialog';
import { RadioButtonModule } from 'primeng/radiobutton';
import { finalize } from 'rxjs';
import { IntakesService } from '../api/intakes.service';
import { wordsFor } from '../api/problem';
import { BytesPipe, CountPipe } from '../shared/amounts';
import { IntakeStore } from './intake-store';

/** Reasons about single files: those can stay on the card while the others go. */
const STAYS: readonly ClearanceView['reasons'][number]['kind'][] = ['new', 'changed', 'unreadable', 'odd', 'copies', 'left'];

/** The clearance of the card as it is now, with every reason; and the one deliberate act that empties it. */
@Component({
  selector: 'ts-clear-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, CheckboxModule, RadioButtonModule, BytesPipe, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="header()"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '600px' }"
    >
      @if (problem(); as words) {
        <p class="attention" role="alert">{{ words }}</p>
      }
      @if (clearance(); as now) {
        <p class="verdict" [class.safe]="now.safe || decided()" role="status">
          <i
            class="pi"
            [class.pi-check-circle]="now.safe || decided()"
            [class.pi-times-circle]="!now.safe && !decided()"
            aria-hidden="true"
          ></i>
          {{ verdict() }}
        </p>
        <p>
          @if (away().length) {
            {{ hereWords() }}; {{ awayWords() }}.
          } @else {
            <b>{{ now.files | count: 'file' }}</b>, {{ now.bytes | bytes }}, {{ now.files === 1 ? 'stands' : 'stand' }} in
            {{ placesInWords() }}.
          }
          <span class="quiet">{{
            now.full ? 'Every byte of the card was read.' : 'Both ends of every file on the card were read.'
          }}</span>
        </p>
        @if (now.reasons.length) {
          <ul class="reasons" aria-label="Why not">
            @for (reason of now.reasons; track $index) {
              <li>
                {{ reason.words }}
                @for (path of reason.paths; track path) {
                  <code>{{ path }}</code>
                }
                @if (reason.items > reason.paths.length) {
                  <span class="quiet">and {{ reason.items - reason.paths.length }} more</span>
                }
              </li>
            }
          </ul>
        }
        @if (now.aside.length) {
          <ul class="reasons" aria-label="Set aside">
            @for (one of now.aside.slice(0, 5); track one.path) {
              <li>
                set aside: {{ one.reason }} <code>{{ one.path }}</code>
              </li>
            }
          </ul>
        }
        @if (ways().length) {
          <fieldset>
            <legend>What becomes of the rest</legend>
            @for (one of ways(); track one.way) {
              <label class="yes" [for]="one.way"
                ><p-radiobutton
                  [inputId]="one.way"
                  name="way"
                  [value]="one.way"
                  [ngModel]="way()"
                  (ngModelChange)="way.set($event)"
                />
                {{ one.words }}</label
              >
            }
          </fieldset>
        }
        @if (now.askAgain && (now.safe || decided())) {
          <label class="yes" for="sure"
            ><p-checkbox inputId="sure" [binary]="true" [ngModel]="sure()" (ngModelChange)="sure.set($event)" /> There is sound or
            something of unknown kind on it: that too</label
          >
        }
        @if (now.kept && !items()) {
          <p class="quiet">
            {{ now.kept | count: 'index file' }} of the camera and all folders stay. Formatting is left to the camera.
          </p>
        }
      } @else if (!problem()) {
        <div class="skeleton" style="height: 120px"></div>
      }
      <ng-template #footer>
        @if (!clearance()?.full) {
          <button pButton type="button" class="p-button-outlined" [disabled]="busy()" (click)="look(true)">
            Read every byte first
          </button>
        }
        <button pButton type="button" [disabled]="!canClear()" (click)="clear()">
          {{ removes() ? 'Remove' : 'Clear' }} {{ going() | count: 'file' }} from {{ card() }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    .verdict {
      display: flex;
      gap: 10px;
      align-items: center;
      font: 640 18px var(--font-title);
      color: var(--trouble);
      margin-bottom: 8px;
    }
    .verdict .pi {
      font-size: 20px;
    }
    .safe {
      color: var(--reed);
    }
    .reasons {
      margin: 10px 0;
    }
    .reasons li {
      padding: 6px 10px;
      margin-bottom: 6px;
      background: var(--straw);
      color: var(--ochre);
      border-radius: 6px;
    }
    .reasons code {
      display: block;
      font-size: 13px;
      overflow-wrap: anywhere;
    }
    fieldset {
      margin: 0;
      padding: 0;
      border: 0;
    }
    legend {
      padding: 0;
      font-weight: 600;
    }
    .yes {
      display: flex;
      gap: 10px;
      align-items: center;
      min-height: 36px;
    }
  `,
})
export class ClearDialog implements OnInit {
  private readonly store = inject(IntakeStore);
  private readonly service = inject(IntakesService);
  private readonly messages = inject(MessageService);
  /** These items alone; else the whole card. */
  readonly items = input<readonly number[]>();
  readonly done = output();

  protected readonly clearance = signal<ClearanceView | null>(null);
  protected readonly problem = signal('');
  protected readonly busy = signal(false);
  /** What becomes of what does not stand everywhere: it stays on the card, or it is let go. */
  protected readonly way = signal<'keep' | 'let go' | null>(null);
  protected readonly sure = signal(false);

  protected readonly card = computed(() => (this.sent() ? 'this server' : (this.store.intake()?.card.label ?? 'this card')));
  /** Did it come in through a browser? Then what was sent lies here, and the card is where it was. */
  private readonly sent = computed(() => this.store.intake()?.handedIn === true);
  protected readonly header = computed(() => {
    if (this.sent()) return 'May what was sent be removed from here?';
    return this.items() ? 'May these be removed from the card?' : 'May this card be cleared?';
  });
  protected readonly away = computed(() => this.clearance()?.places.filter(({ device }) => device === null) ?? []);
  /** How many stand where, of the places that are here. */
  protected readonly hereWords = computed(() =>
    (this.clearance()?.places ?? [])
      .filter(({ device }) => device !== null)
      .map(({ name, files }) => `${files} ${files === 1 ? 'file stands' : 'files stand'} in ${name}`)
      .join(', '),
  );
  /** Nobody can say what stands in a place that is away. */
  protected readonly awayWords = computed(() => {
    const names = this.away().map(({ name }) => name);
    return `${names.join(' and ')} ${names.length > 1 ? 'are' : 'is'} not here to be looked at`;
  });
  protected readonly placesInWords = computed(() => {
    const places = this.clearance()?.places ?? [];
    const names = places.map(({ name }) => name).join(' and ');
    const devices = new Set(places.flatMap(({ device }) => (device === null ? [] : [device]))).size;
    return `${names}, on ${devices} ${devices === 1 ? 'device' : 'devices'}`;
  });
  protected readonly onlyLeft = computed(() => {
    const now = this.clearance();
    return now !== null && now.reasons.length > 0 && now.reasons.every(({ kind }) => kind === 'left');
  });
  /** Are all reasons about files that can simply stay? */
  private readonly staying = computed(() => {
    const now = this.clearance();
    return now !== null && now.reasons.length > 0 && now.reasons.every(({ kind }) => STAYS.includes(kind));
  });
  protected readonly ways = computed(() => {
    const now = this.clearance();
    if (!now) return [];
    const rest = now.reasons.reduce((sum, { items }) => sum + items, 0);
    const keep = { way: 'keep' as const, words: `Keep ${rest === 1 ? 'that file' : `those ${rest} files`} on the card` };
    const letGo = {
      way: 'let go' as const,
      words: `Let go of ${now.left === 1 ? 'the file that stands' : `the ${now.left} files that stand`} nowhere else`,
    };
    return [...(this.staying() && now.files ? [keep] : []), ...(this.onlyLeft() ? [letGo] : [])];
  });
  /** Has the person said what becomes of the rest, and is that allowed? */
  protected readonly decided = computed(() => this.ways().some(({ way }) => way === this.way()));
  protected readonly removes = computed(() => this.sent() || this.items() !== undefined);
  protected readonly verdict = computed(() => {
    const what = this.removes() ? 'remove' : 'clear';
    if (this.clearance()?.safe) return `Safe to ${what}`;
    if (!this.decided())
      return this.ways().length ? `Not safe to ${what} yet: say what becomes of the rest` : `Not safe to ${what}`;
    return this.way() === 'keep' ? 'Safe: the rest stays on the card' : 'As you say: the rest is let go';
  });
  protected readonly going = computed(
    () => (this.clearance()?.files ?? 0) + (this.way() === 'let go' ? (this.clearance()?.left ?? 0) : 0),
  );
  protected readonly canClear = computed(() => {
    const now = this.clearance();
    if (!now || this.busy() || !this.going()) return false;
    return (now.safe || this.decided()) && (!now.askAgain || this.sure());
  });

  ngOnInit(): void {
    this.look(false);
  }

  protected look(full: boolean): void {
    this.clearance.set(null);
    this.problem.set('');
    this.busy.set(true);
    this.service
      .clearance(this.store.id, full, this.items())
      .pipe(finalize(() => this.busy.set(false)))
      .subscribe({
        next: (view) => this.clearance.set(view),
        error: (error: unknown) => this.problem.set(wordsFor(error)),
      });
  }

  protected clear(): void {
    if (!this.canClear()) return;
    this.busy.set(true);
    this.service
      .clear(this.store.id, {
        ...{ files: this.going(), sure: this.sure() },
        ...{ letGo: this.way() === 'let go', keep: this.way() === 'keep' && !this.clearance()!.safe },
        ...(this.items() ? { items: [...this.items()!] } : {}),
      })
      .pipe(finalize(() => this.busy.set(false)))
      .subscribe({
        next: ({ removed, stayed }) => {
          const rest = stayed.length ? ` ${stayed.length} stayed, first ${stayed[0]!.path}: ${stayed[0]!.why}.` : '';
          const summary = `${removed} ${removed === 1 ? 'file is' : 'files are'} gone from ${this.card()}.${rest}`;
          this.messages.add({ severity: stayed.length ? 'warn' : 'success', summary, life: stayed.length ? 20_000 : 6_000 });
          this.done.emit();
        },
        error: (error: unknown) => {
          this.look(false);
          this.problem.set(wordsFor(error));
        },
      });
  }
}
