import { computed, Directive, inject, input } from '@angular/core';
import type { Deed } from '@tally/core/rights';
import { SessionService } from '../api/session.service';

/** Shows what it stands on only to whoever may do it: `tsMay="clear"`. The server asks the same table again. */
@Directive({ selector: '[tsMay]', host: { '[style.display]': 'display()' } })
export class May {
  readonly tsMay = input.required<Deed>();
  private readonly sessions = inject(SessionService);
  protected readonly display = computed(() => (this.sessions.may(this.tsMay()) ? null : 'none'));
}
