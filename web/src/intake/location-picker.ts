import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { distanceInWords } from '@tally/core/location';
import { ButtonModule } from 'primeng/button';
import { SelectModule } from 'primeng/select';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { Acts } from '../sheet/acts';
import { IntakeStore } from './intake-store';

/** Chooses a location: those that cameras or a track were near to first, then the house's list. */
@Component({
  selector: 'ts-location-picker',
  imports: [FormsModule, SelectModule, ButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (one of near(); track one.id) {
      <button type="button" class="near" (click)="said.emit(one.id)">
        <b>{{ one.name }}</b> <span class="quiet">{{ one.why }}</span>
      </button>
    }
    <label class="field" for="slip-location"
      ><span>Where it was taken</span>
      <p-select
        inputId="slip-location"
        ariaLabel="Where it was taken"
        [options]="locations()"
        optionLabel="name"
        optionValue="id"
        [filter]="true"
        filterBy="name,town,part"
        [showClear]="true"
        placeholder="as the assignment says"
        emptyMessage="No location yet: People, Locations"
        appendTo="body"
        fluid
        [ngModel]="chosen()"
        (ngModelChange)="said.emit($event ?? null)"
      />
    </label>
    <label class="field"
      ><span>By a track (GPX) of that day</span><input type="file" accept=".gpx,application/gpx+xml" (change)="match($event)"
    /></label>
    @if (answer()) {
      <p class="quiet" role="status">{{ answer() }}</p>
    }
    @for (one of byTrack(); track one.locationId) {
      <button type="button" class="near" (click)="give(one)">
        {{ one.itemIds.length }} at <b>{{ one.name }}</b> <span class="quiet">within {{ one.distance }}: say so of these</span>
      </button>
    }
    @if (problem()) {
      <p class="attention" role="alert">{{ problem() }}</p>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
      width: 340px;
      font-size: 15px;
      font-weight: 400;
    }
    .near {
      min-height: 32px;
      padding: 4px 10px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
      text-align: start;
      cursor: pointer;
    }
  `,
})
export class LocationPicker {
  readonly chosen = input<number | null>(null);
  readonly said = output<number | null>();
  readonly done = output();
  private readonly store = inject(IntakeStore);
  private readonly service = inject(CreditService);
  private readonly acts = inject(Acts);
  protected readonly answer = signal('');
  protected readonly problem = signal('');
  /** Known locations that the track was near to, with the items taken there. */
  protected readonly byTrack = signal<readonly { locationId: number; itemIds: number[]; name: string; distance: string }[]>([]);
  protected readonly locations = computed(() => this.store.credit()?.locations.filter(({ retired }) => !retired) ?? []);
  protected readonly near = computed(() =>
    (this.store.credit()?.near ?? []).flatMap(({ locationId, items, metres }) => {
      const location = this.locations().find(({ id }) => id === locationId);
      const why = `${items} ${items === 1 ? 'item' : 'items'} within ${distanceInWords(metres)}`;
      return location ? [{ id: location.id, name: location.name, why }] : [];
    }),
  );

  protected match(event: Event): void {
    const [file] = (event.target as HTMLInputElement).files ?? [];
    if (!file) return;
    this.problem.set('');
    this.service.track(this.store.id, file).subscribe({
      next: ({ matched, items, near }) => {
        this.answer.set(`The track says where ${matched} of ${items} items were taken.`);
        const named = near.map((one) => ({ ...one, name: this.nameOf(one.locationId), distance: distanceInWords(one.metres) }));
        this.byTrack.set(named);
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  /** Says of the items that the track leads to a location that they were taken there. */
  protected give({ locationId, itemIds }: { locationId: number; itemIds: number[] }): void {
    const tiles = this.store.tiles().filter(({ lead }) => itemIds.includes(lead.id));
    this.acts.credit(tiles, { locationId }, 'location');
    this.byTrack.update((near) => near.filter((one) => one.locationId !== locationId));
  }

  private nameOf(id: number): string {
    return this.store.credit()?.locations.find((one) => one.id === id)?.name ?? '';
  }
}
