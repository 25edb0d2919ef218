import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { BytesPipe, CountPipe } from '../shared/amounts';
import type { PlaceView } from '@tally/contract';
import { filter, startWith, switchMap, throttleTime } from 'rxjs';
import { DeskService } from '../api/desk.service';
import { LiveService } from '../api/live.service';

/** The places and how they stand. */
@Component({
  selector: 'ts-drive',
  imports: [BytesPipe, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>Drive</h1>
        <span class="quiet">places that hold copies</span>
      </header>
      @for (place of places(); track place.id) {
        <section>
          <h2>
            {{ place.name }} <span class="quiet">{{ place.kind }}, {{ place.required ? 'required' : 'wished' }}</span>
          </h2>
          <code>{{ place.root }}</code>
          @if (place.waiting.copies) {
            <p class="attention" role="status">
              Waits for {{ place.waiting.copies | count: 'copy' : 'copies' }} ({{ place.waiting.bytes | bytes }}): at most
              {{ place.waiting.hoursAtRisk | count: 'hour' }} of work at risk.
              {{ place.online ? 'It is being filled up.' : 'It fills up by itself when it is back.' }}
            </p>
          }
          @if (place.online) {
            <dl>
              <dt>free</dt>
              <dd>{{ place.freeBytes | bytes }} of {{ place.totalBytes | bytes }}</dd>
              <dt>holds</dt>
              <dd>{{ place.copies.toLocaleString() }} copies that tally, {{ place.bytes | bytes }}</dd>
              @if (held(place); as words) {
                <dt>for</dt>
                <dd>{{ words }}</dd>
              }
              <dt>filled</dt>
              <dd>{{ place.fill === 'later' ? 'later, from another copy' : 'while the card is read' }}</dd>
              <dt>device</dt>
              <dd>{{ place.device }}</dd>
            </dl>
          } @else {
            <p class="attention" role="alert">Away: {{ place.problem }}</p>
          }
        </section>
      } @empty {
        <div class="skeleton" style="height: 140px"></div>
      }
      @if (oneDevice()) {
        <p class="attention">
          The places stand on one device. A second folder on the same disk protects from a slip of the hand, not from a dead disk.
        </p>
      }
    </div>
  `,
  styles: `
    section {
      border-top: 1px solid var(--strong-line);
      padding: 12px 0 20px;
      max-width: 760px;
    }
    code {
      overflow-wrap: anywhere;
    }
    dl {
      display: grid;
      grid-template-columns: 90px 1fr;
      gap: 4px;
      margin-top: 10px;
    }
    dt {
      color: var(--quiet);
    }
    .attention {
      max-width: 760px;
      margin-top: 8px;
    }
  `,
})
export class DrivePage {
  private readonly desk = inject(DeskService);
  protected readonly places = toSignal(
    inject(LiveService).events.pipe(
      filter((event) => event.type === 'desk'),
      throttleTime(1000, undefined, { leading: true, trailing: true }),
      startWith(null),
      switchMap(() => this.desk.places()),
    ),
    { initialValue: [] },
  );

  /** What it holds where that is not everything. */
  protected held({ holds }: PlaceView): string {
    return [...(holds.kinds ?? []), ...(holds.assignments ?? [])].join(', ');
  }

  protected oneDevice(): boolean {
    const online = this.places().filter((place) => place.online);
    return online.length > 1 && new Set(online.map((place) => place.device)).size === 1;
  }
}
