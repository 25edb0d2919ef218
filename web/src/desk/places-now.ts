import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { BackupsNow, PlaceView } from '@tally/contract';
import { BytesPipe, CountPipe, HouseTimePipe } from '../shared/amounts';
import { May } from '../shared/may';

/** How the places stand: free space, or what is wrong. */
@Component({
  selector: 'ts-places-now',
  imports: [BytesPipe, CountPipe, HouseTimePipe, May],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>
      Places <span class="quiet">{{ says() }}</span>
    </h2>
    @if (rebuilding()) {
      <p class="attention" role="status">
        The logbook is being rebuilt from the drive: what is back shows here and in the logbook. It goes on by itself.
      </p>
    }
    @if (backups()?.problem; as problem) {
      <p class="attention" role="status" tsMay="mend">{{ problem }}</p>
    } @else if (backups()?.lastAt) {
      <p class="quiet">The house was backed up {{ backups()!.lastAt! | houseTime: 'short' }}.</p>
    }
    @for (place of places(); track place.id) {
      <div class="one">
        <div class="line">
          <span>{{ place.name }}</span>
          @if (place.online) {
            <strong>{{ place.freeBytes === null ? 'room unknown' : (place.freeBytes | bytes) + ' free' }}</strong>
          } @else {
            <strong class="trouble">away</strong>
          }
        </div>
        <p class="quiet" [class.trouble]="!place.online">
          {{ place.problem ?? place.copies.toLocaleString() + ' copies, ' + (place.bytes | bytes) }}
        </p>
        @if (place.waiting.copies) {
          <p class="lag">
            waits for {{ place.waiting.copies | count: 'copy' : 'copies' }}, at most
            {{ place.waiting.hoursAtRisk | count: 'hour' }} at risk
          </p>
        }
      </div>
    }
  `,
  styles: `
    :host {
      display: block;
      border-top: 1px solid var(--strong-line);
      padding: 10px 0;
    }
    h2,
    .line {
      display: flex;
      justify-content: space-between;
      align-items: baseline;
    }
    .one {
      padding: 8px 0;
      border-bottom: 1px solid var(--line);
    }
    .lag {
      font-size: 13px;
      color: var(--ochre);
    }
    p {
      overflow-wrap: anywhere;
    }
  `,
})
export class PlacesNow {
  readonly places = input.required<readonly PlaceView[]>();
  /** How the house stands with its backups. */
  readonly backups = input<BackupsNow>();
  readonly rebuilding = input(false);

  protected readonly says = computed(() => {
    const online = this.places().filter((place) => place.online);
    const devices = new Set(online.map((place) => place.device)).size;
    return `${online.length} of ${this.places().length} here, ${devices} ${devices === 1 ? 'device' : 'devices'}`;
  });
}
