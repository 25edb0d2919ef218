import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { DialogModule } from 'primeng/dialog';
import { CreditPane } from '../sheet/credit-pane';
import { SheetSource } from '../sheet/sheet-source';
import { nameOf, type Tile } from '../sheet/tiles';

/** The credit of some items, beside the sheet: what is changed is kept at once, and can be undone. */
@Component({
  selector: 'ts-credit-dialog',
  imports: [DialogModule, CreditPane],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="header()"
      closeAriaLabel="Close"
      position="right"
      [modal]="true"
      [dismissableMask]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '440px' }"
    >
      <ts-credit-pane [tiles]="now()" />
    </p-dialog>
  `,
})
export class CreditDialog {
  readonly tiles = input.required<readonly Tile[]>();
  readonly done = output();
  private readonly store = inject(SheetSource);
  /** The same tiles as they are by now. */
  protected readonly now = computed(() => {
    const ids = new Set(this.tiles().map(({ lead }) => lead.id));
    return this.store.tiles().filter(({ lead }) => ids.has(lead.id));
  });
  protected readonly header = computed(() => {
    const [one, ...more] = this.now();
    return more.length ? `Credit of ${more.length + 1} items` : `Credit of ${one ? nameOf(one.lead) : ''}`;
  });
}
