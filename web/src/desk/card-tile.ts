import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { IntakeSummary, Progress } from '@tally/contract';
import { formatDuration } from '@tally/core/logbook';
import { SessionService } from '../api/session.service';
import { BytesPipe, CountPipe, HouseTimePipe } from '../shared/amounts';
import { Stick } from '../stick/stick';

/** A card in its tray: cut corner, tape label, contributor, what to know, its stick. */
@Component({
  selector: 'ts-card-tile',
  imports: [RouterLink, Stick, BytesPipe, CountPipe],
  providers: [HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <a [routerLink]="['/intake', intake().id]">
      <span class="top"
        ><span class="tape">{{ intake().card.label ?? 'no label' }}</span>
        @if (!intake().present) {
          <span class="quiet">not in a reader</span>
        }
      </span>
      <strong>{{ intake().contributor?.name ?? 'Who is this from?' }}</strong>
      <span class="quiet">{{ intake().assignment?.title ?? intake().card.volume }}</span>
      <span class="quiet">{{ intake().items | count: 'item' }}, {{ intake().bytes | bytes }}</span>
      <span class="quiet" [class.trouble]="bad()">{{ how() }}</span>
      <ts-stick [runs]="intake().stick" />
    </a>
  `,
  styles: `
    :host {
      display: block;
      width: 232px;
    }
    a {
      --cut: 22px;
      display: grid;
      gap: 2px;
      padding: 10px 12px 12px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background:
        linear-gradient(45deg, transparent calc(50% - 1px), var(--line) calc(50% - 1px) 50%, var(--paper) 50%) right top /
          var(--cut) var(--cut) no-repeat,
        var(--sheet);
      clip-path: polygon(0 0, calc(100% - var(--cut)) 0, 100% var(--cut), 100% 100%, 0 100%);
      color: inherit;
      text-decoration: none;
    }
    a:hover {
      border-color: var(--quiet);
    }
    a:focus-visible {
      outline-offset: -4px;
    }
    .top {
      display: flex;
      gap: 8px;
      align-items: center;
      min-height: 26px;
    }
    strong {
      font-size: 15px;
      margin-top: 2px;
    }
    .quiet {
      overflow-wrap: anywhere;
    }
    .trouble {
      color: var(--trouble);
      font-weight: 600;
    }
    ts-stick {
      margin-top: 6px;
    }
  `,
})
export class CardTile {
  readonly intake = input.required<IntakeSummary>();
  readonly progress = input<Progress>();
  private readonly time = inject(HouseTimePipe);
  private readonly session = inject(SessionService);

  protected readonly bad = computed(() => this.intake().state === 'needs attention' || this.waitingDays() > 0);

  private readonly waitingDays = computed(() => {
    const { tray, receivedAt } = this.intake();
    return tray === 'in' ? Math.floor((this.session.now().getTime() - Date.parse(receivedAt)) / 86_400_000) : 0;
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
