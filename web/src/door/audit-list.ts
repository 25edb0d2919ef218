import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import type { AuditPage, AuditVerdict } from '@tally/contract';
import { AUDITED } from '@tally/core/audit';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { DoorService } from '../api/door.service';
import { wordsFor } from '../api/problem';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { DayBox } from '../shared/day-box';

/** What was recorded for whoever is answerable, newest first, and whether the log still is what it was. */
@Component({
  selector: 'ts-audit-list',
  imports: [FormsModule, RouterLink, ButtonModule, InputTextModule, SelectModule, DayBox, CountPipe, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar">
      <p-select
        ariaLabel="What happened"
        [options]="kinds"
        [showClear]="true"
        placeholder="anything"
        [ngModel]="kind()"
        (ngModelChange)="kind.set($event); load()"
      />
      <input pInputText aria-label="Who" placeholder="anybody" maxlength="80" [ngModel]="who()" (change)="byWhom($event)" />
      <ts-day-box label="From" placeholder="from" [day]="from()" (dayChange)="from.set($event); load()" />
      <ts-day-box label="Until" placeholder="until" [day]="to()" (dayChange)="to.set($event); load()" />
      <a pButton class="p-button-outlined" [href]="csv()" download="audit.csv">CSV</a>
      <button pButton type="button" class="p-button-outlined" [disabled]="verifying()" (click)="verify()">
        {{ verifying() ? 'Comparing…' : 'Is the log what it was?' }}
      </button>
    </div>
    @if (page(); as now) {
      <p class="quiet chained">
        {{ now.chained | count: 'event' }} chained.
        {{ now.headAt ? 'The chain’s head was written to the drive on ' : 'Its head was not written to the drive yet.'
        }}{{ now.headAt ? (now.headAt | houseTime: 'long') + '.' : '' }}
      </p>
    }
    @if (verdict(); as found) {
      @for (note of found.notes; track $index) {
        <p class="quiet">{{ note }}</p>
      }
      @if (found.problems.length) {
        <div class="attention" role="alert">
          <b>The log is not what it was.</b>
          <ul>
            @for (problem of found.problems; track $index) {
              <li>{{ problem }}</li>
            }
          </ul>
        </div>
      } @else {
        <p class="holds" role="status">
          All {{ found.chained | count: 'event' }} are what they were{{
            found.heads ? ', and agree with ' + (found.heads | count: 'head') + ' on the drive' : ''
          }}{{ found.erased ? '; from ' + (found.erased | count: 'event') + ' a name was erased since, as is recorded' : ''
          }}{{ found.waiting ? '; ' + found.waiting + ' told just now will be chained in a moment' : '' }}.
        </p>
      }
    }
    <table>
      <thead>
        <tr>
          <th scope="col" style="width: 158px">When</th>
          <th scope="col" style="width: 150px">What</th>
          <th scope="col" style="width: 150px">Who</th>
          <th scope="col">In words</th>
        </tr>
      </thead>
      <tbody>
        @for (event of events(); track event.id) {
          <tr>
            <td>{{ event.at | houseTime }}</td>
            <td [class.wrong]="event.kind === 'sign-in refused'">{{ event.kind }}</td>
            <td>{{ event.who ?? '–' }}</td>
            <td>
              {{ event.text }}
              @if (event.intakeId) {
                <a [routerLink]="['/logbook', event.intakeId]">its intake</a>
              }
            </td>
          </tr>
        } @empty {
          <tr>
            <td colspan="4" class="empty">{{ problem() || (page() ? 'Nothing of this was recorded.' : 'Looking …') }}</td>
          </tr>
        }
      </tbody>
    </table>
    @if (page()?.next) {
      <button pButton type="button" class="p-button-outlined" (click)="load(page()!.next!)">Older ones</button>
    }
  `,
  styleUrl: './door-table.css',
  styles: `
    .chained,
    .holds,
    .attention {
      margin-bottom: 12px;
    }
    .holds {
      color: var(--reed);
      font-weight: 600;
    }
    ts-day-box {
      width: 150px;
    }
  `,
})
export class AuditList {
  private readonly door = inject(DoorService);
  protected readonly kinds = [...AUDITED];
  protected readonly kind = signal<string | null>(null);
  protected readonly who = signal('');
  protected readonly from = signal('');
  protected readonly to = signal('');
  protected readonly page = signal<AuditPage | null>(null);
  protected readonly events = signal<AuditPage['events']>([]);
  protected readonly verdict = signal<AuditVerdict | null>(null);
  protected readonly verifying = signal(false);
  protected readonly problem = signal('');

  private readonly query = computed(() => {
    const said = { kind: this.kind() ?? '', who: this.who().trim(), from: this.from(), to: this.to() };
    return Object.fromEntries(Object.entries(said).filter(([, value]) => value));
  });
  protected readonly csv = computed(() => `/api/audit.csv?${new URLSearchParams(this.query()).toString()}`);

  constructor() {
    this.load();
  }

  protected byWhom(event: Event): void {
    this.who.set((event.target as HTMLInputElement).value);
    this.load();
  }

  protected load(after?: number): void {
    this.door.audit({ ...this.query(), ...(after === undefined ? {} : { after }) }).subscribe({
      next: (page) => {
        this.page.set(page);
        this.events.update((events) => (after === undefined ? page.events : [...events, ...page.events]));
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  protected verify(): void {
    this.verifying.set(true);
    this.door.verify().subscribe({
      next: (verdict) => {
        this.verdict.set(verdict);
        this.verifying.set(false);
      },
      error: (error: unknown) => {
        this.problem.set(wordsFor(error));
        this.verifying.set(false);
      },
    });
  }
}
