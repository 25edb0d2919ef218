import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { BytesPipe } from '../shared/amounts';
import { DeskService } from '../api/desk.service';

/** The places and how they stand. */
@Component({
  selector: 'ts-drive',
  imports: [BytesPipe],
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
          @if (place.online) {
            <dl>
              <dt>free</dt>
              <dd>{{ place.freeBytes | bytes }} of {{ place.totalBytes | bytes }}</dd>
              <dt>holds</dt>
              <dd>{{ place.copies.toLocaleString() }} copies that tally, {{ place.bytes | bytes }}</dd>
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
  protected readonly places = toSignal(inject(DeskService).places(), { initialValue: [] });

  protected oneDevice(): boolean {
    const online = this.places().filter((place) => place.online);
    return online.length > 1 && new Set(online.map((place) => place.device)).size === 1;
  }
}
