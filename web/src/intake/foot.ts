import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import type { ItemView } from '@tally/contract';
import { formatBytes, formatDuration } from '@tally/core/logbook';
import { ButtonModule } from 'primeng/button';
import { PopoverModule } from 'primeng/popover';
import { stickFigures } from '../stick/draw';
import { Stick } from '../stick/stick';
import { IntakeStore } from './intake-store';
import { May } from '../shared/may';

/** The stick with the one button that matters. */
@Component({
  selector: 'ts-foot',
  imports: [May, Stick, ButtonModule, PopoverModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="rows quiet" aria-hidden="true">
      <span>card</span>
      @for (place of store.places(); track place.id) {
        <span>{{ place.name.toLowerCase() }}</span>
      }
    </div>
    <div class="whole" (click)="figures.toggle($event)">
      <ts-stick [notches]="store.notches()" [behind]="behind()" />
      <button type="button" class="visually-hidden" (click)="figures.toggle($event); $event.stopPropagation()">
        The stick in numbers
      </button>
      <p-popover #figures>
        <dl class="figures">
          @for (row of numbers(); track row.name) {
            <dt>{{ row.name }}</dt>
            <dd>{{ row.says }}</dd>
          }
          @for (place of behind(); track place.placeId) {
            <dt>{{ place.name }}</dt>
            <dd>lags behind in credit: its copies tally, and follow when it is here</dd>
          }
        </dl>
      </p-popover>
    </div>
    <div class="act">
      @switch (step()) {
        @case ('file') {
          <button pButton type="button" class="main" [disabled]="store.busy()" (click)="store.askToFile()">
            File {{ store.counts().taken }}
          </button>
        }
        @case ('filing') {
          <strong class="main filing" role="status">{{ progressWords() }}</strong>
          <span class="halt">
            @if (store.intake()!.paused) {
              <button type="button" class="plain" (click)="store.halt('go on')">Go on</button>
            } @else {
              <button type="button" class="plain" (click)="store.halt('pause')">Pause</button>
            }
            <button type="button" class="plain" (click)="store.halt('stop')">Stop</button>
          </span>
        }
        @case ('again') {
          <button pButton type="button" class="main" (click)="store.again()">Try again</button>
          @if (store.stuck().length) {
            <button type="button" class="plain" (click)="aside.emit(store.stuck())">
              Go on without {{ store.stuck().length === 1 ? 'it' : 'them' }}: set {{ store.stuck().length }} aside…
            </button>
          }
        }
        @case ('give back') {
          <button pButton type="button" class="main" (click)="giveBack.emit()">
            {{ store.intake()!.handedIn ? 'Done' : 'Give back' }}
          </button>
        }
      }
      <span class="quiet" aria-live="polite">{{ says() }}</span>
      <span class="more">
        @if (step() === 'give back' && store.counts().filed) {
          <a class="plain" [href]="'/api/intakes/' + store.intake()!.id + '/receipt.pdf'" target="_blank" rel="noopener"
            >Receipt</a
          >
        }
        @if (canClear()) {
          <button type="button" class="plain" tsMay="clear" (click)="clear.emit()">
            {{ store.intake()!.handedIn ? 'Remove what was sent…' : 'Clear the card…' }}
          </button>
        }
      </span>
    </div>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 104px minmax(0, 1fr) 210px;
      gap: 18px;
      align-items: center;
      padding: 14px 24px 12px;
      border-top: 1px solid var(--strong-line);
      background: var(--sheet);
    }
    @media (max-width: 760px), (max-height: 560px) {
      :host {
        grid-template-columns: minmax(0, 1fr) 190px !important;
        padding: 6px 16px !important;
      }
      .rows {
        display: none !important;
      }
      ts-stick {
        height: 40px !important;
      }
      .main {
        min-height: 36px !important;
      }
    }
    .rows {
      display: grid;
      height: 72px;
      align-items: center;
      text-align: right;
    }
    ts-stick {
      height: 72px;
    }
    .whole {
      position: relative;
      cursor: pointer;
    }
    .whole button:focus {
      clip-path: none;
      width: auto;
      height: auto;
      right: 12px;
      top: 20px;
    }
    .figures {
      display: grid;
      grid-template-columns: auto auto;
      gap: 4px 16px;
      margin: 0;
    }
    .figures dd {
      margin: 0;
    }
    .more a {
      display: inline-grid;
      align-items: center;
      text-decoration: none;
    }
    .more:empty {
      display: none;
    }
    .act {
      align-content: center;
      display: grid;
      gap: 4px;
      text-align: center;
    }
    .main {
      justify-content: center;
      font-size: 18px;
      font-weight: 620;
      min-height: 44px;
    }
    .halt,
    .more {
      display: flex;
      justify-content: center;
      gap: 16px;
    }
    .filing {
      display: grid;
      place-items: center;
      font-family: var(--font-title);
    }
  `,
})
export class Foot {
  /** Places whose files do not say yet what the house says. */
  protected readonly behind = computed(() => this.store.credit()?.behind ?? []);
  protected readonly store = inject(IntakeStore);
  readonly giveBack = output();
  readonly clear = output();
  /** Somebody wants to go on without these. */
  readonly aside = output<readonly ItemView[]>();

  protected readonly numbers = computed(() =>
    stickFigures(
      this.store.notches(),
      this.store.places().map(({ name }) => name),
    ),
  );

  protected readonly step = computed(() => {
    const intake = this.store.intake();
    const counts = this.store.counts();
    if (!intake) return null;
    if (intake.state === 'filing') return 'filing';
    if (intake.state === 'needs attention' && !counts.taken) return 'again';
    if (counts.taken && intake.state !== 'closed') return 'file';
    if (intake.tray === 'out') return null;
    return counts.filed || counts.already ? 'give back' : 'file';
  });

  /** A card is cleared before it is given back, while it is in the reader. */
  protected readonly canClear = computed(() => {
    const intake = this.store.intake();
    return this.step() === 'give back' && intake !== null && intake.present && this.store.onTheCard() > 0;
  });

  private readonly whereTallied = computed(() => {
    // Before the places and the items are here nobody knows: then nothing is claimed.
    if (this.store.loading() || !this.store.places().length) return 'their places';
    if (this.store.troubled()) return 'some places only';
    const lagging = this.store.lagging();
    if (!lagging.length) return 'every place';
    const whole = this.store.places().length - lagging.length;
    return `${whole} ${whole === 1 ? 'place' : 'places'}, ${lagging.map(({ name }) => name).join(' and ')} fills up later`;
  });

  /** What became of the card, and of what was not filed. */
  private readonly fate = computed(() => {
    const { aside } = this.store.counts();
    const cleared = this.store.intake()?.clearedAt ? ', the card is cleared' : '';
    return `${cleared}${aside ? `, ${aside} set aside` : ''}`;
  });

  protected readonly progressWords = computed(() => {
    if (this.store.intake()?.paused) return 'Paused';
    const progress = this.store.progress();
    return progress ? `${progress.itemsDone} of ${progress.items} tally` : 'Filing';
  });

  protected readonly says = computed(() => {
    const intake = this.store.intake();
    const { taken, takenBytes, already, filed } = this.store.counts();
    const progress = this.store.progress();
    switch (this.step()) {
      case 'filing': {
        if (this.store.intake()?.paused) return 'what is whole stays';
        if (!progress) return 'reading the card';
        const left = progress.msLeft === null ? '' : `, ${formatDuration(progress.msLeft)} left`;
        return `${formatBytes(progress.bytesPerSecond)}/s${left}`;
      }
      case 'file':
        if (this.store.waitsToFile()) return 'working out where everything goes, then filing';
        if (!taken) return 'nothing is taken';
        return this.store.plan()?.missing.length ? 'the slip is not complete' : formatBytes(takenBytes);
      case 'give back':
        if (intake?.state !== 'tallied') return already ? 'everything is already filed' : '';
        return `${filed} tally in ${this.whereTallied()}${this.fate()}`;
      case 'again':
        return 'what does not tally is tried again';
      default:
        return intake?.tray === 'out' ? 'given back' : '';
    }
  });
}
