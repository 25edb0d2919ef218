import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { HandedIn } from '@tally/contract';
import { CountPipe, HouseTimePipe } from '../shared/amounts';

/** A card that was handed in and not read yet: who had it, and for how long it lies there. */
@Component({
  selector: 'ts-handed-in-tile',
  imports: [CountPipe, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="card" tabindex="0" role="group" [attr.aria-label]="'Card ' + label() + ', handed in, not read'">
      <span class="top"
        ><span class="tape">{{ label() }}</span></span
      >
      <strong>{{ card().from?.name ?? 'Who is this from?' }}</strong>
      @if (card().days) {
        <span class="trouble">not read for {{ card().days | count: 'day' }}</span>
      } @else {
        <span class="quiet">handed in {{ card().since | houseTime: 'time' }}</span>
      }
      <span class="next">put it into a reader</span>
    </div>
  `,
  styleUrl: './card-shape.css',
  host: { '[class.line]': 'line()' },
})
export class HandedInTile {
  readonly card = input.required<HandedIn>();
  readonly line = input(false);
  protected readonly label = computed(() => this.card().label ?? 'no label');
}
