import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { IntakeSummary, Progress } from '@tally/contract';
import { formatDuration } from '@tally/core/logbook';
import { cardInWords } from '@tally/core/reader';
import { daysForgotten } from '@tally/core/trays';
import { SessionService } from '../api/session.service';
import { nextStepOf } from './next';
import { BytesPipe, CountPipe, HouseTimePipe } from '../shared/amounts';
import { PullLamp, pullingOfView } from '../shared/pull-lamp';
import { Stick } from '../stick/stick';

/** A card in its tray: cut corner, tape label, contributor, what to know, its stick. */
@Component({
  selector: 'ts-card-tile',
  imports: [RouterLink, Stick, PullLamp, BytesPipe, CountPipe],
  providers: [HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <a class="card" [routerLink]="['/intake', intake().id]">
      <span class="top"
        ><span class="tape">{{ intake().card.label ?? 'no label' }}</span>
        @if (lamp() && (line() || !mayBePulled())) {
          <ts-pull-lamp [intake]="intake()" words="none" />
        } @else if (!lamp() && !intake().present) {
          <span class="quiet">not in a reader</span>
        }
      </span>
      @if (mayBePulled() && !line()) {
        <ts-pull-lamp [intake]="intake()" words="state" />
      }
      <strong>{{ intake().contributor?.name ?? 'Who is this from?' }}</strong>
      <span class="quiet">{{ intake().assignment?.title ?? intake().card.volume }}</span>
      <span class="quiet size">{{ intake().items | count: 'item' }}, {{ intake().bytes | bytes }}</span>
      @if (reader(); as words) {
        <span class="quiet reader" [title]="words">{{ words }}</span>
      }
      @if (intake().unshown; as n) {
        <span class="trouble">{{ n }} must not be shown</span>
      }
      @for (one of attention(); track one) {
        <span class="trouble reader" [title]="one">{{ one }}</span>
      }
      <span class="quiet how" [class.trouble]="bad()">{{ how() }}</span>
      <span class="next" [class.waits]="step().urgency === 2">{{ step().words }}</span>
      <ts-stick [runs]="intake().stick" />
    </a>
  `,
  styleUrl: './card-shape.css',
  host: { '[class.line]': 'line()' },
  styles: `
    ts-stick {
      margin-top: 6px;
    }
    .reader {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    :host(.line) .reader {
      display: none;
    }
  `,
})
export class CardTile {
  readonly intake = input.required<IntakeSummary>();
  readonly progress = input<Progress>();
  /** One line instead of a tile: where many lie in a tray. */
  readonly line = input(false);
  protected readonly step = computed(() => nextStepOf(this.intake()));
  private readonly time = inject(HouseTimePipe);
  private readonly session = inject(SessionService);

  private readonly pulling = computed(() => pullingOfView(this.intake()).standing);
  protected readonly lamp = computed(() => this.pulling() !== 'no card');
  protected readonly mayBePulled = computed(() => this.pulling() === 'may be pulled');
  /** Which of two cards of one name it is, and how much it holds. */
  private readonly facts = computed(() => {
    const { present, reader } = this.intake();
    return present && reader ? cardInWords(reader) : null;
  });
  protected readonly reader = computed(() => this.facts()?.says ?? '');
  protected readonly attention = computed(() => this.facts()?.attention ?? []);

  protected readonly bad = computed(() => this.intake().state === 'needs attention' || this.waitingDays() > 0);

  private readonly waitingDays = computed(() => {
    const { tray, receivedAt } = this.intake();
    return tray === 'in' ? daysForgotten(new Date(receivedAt), this.session.now()) : 0;
  });

  protected readonly how = computed(() => {
    const intake = this.intake();
    const progress = this.progress();
    if (intake.state === 'filing') {
      const left = progress?.msLeft ? `, ${formatDuration(progress.msLeft)} left` : '';
      return `filing: ${progress ? `${progress.itemsDone} of ${progress.items}` : intake.filed} proven${left}`;
    }
    if (intake.state === 'needs attention') return intake.note ?? 'needs attention';
    if (intake.tray === 'to give back') return intake.state === 'tallied' ? `${intake.filed} tally` : 'given back next';
    if (intake.read < intake.items) return `read ${intake.read} of ${intake.items} items`;
    if (this.waitingDays() > 0) return `waiting for ${this.waitingDays()} ${this.waitingDays() === 1 ? 'day' : 'days'}`;
    if (intake.items > 0 && intake.alreadyFiled === intake.items) return 'everything on it is already filed';
    const filed = intake.alreadyFiled ? `, ${intake.alreadyFiled} already filed` : '';
    return `handed in ${this.time.transform(intake.receivedAt, 'time')}${filed}`;
  });
}
