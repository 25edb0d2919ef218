import { ChangeDetectionStrategy, Component } from '@angular/core';
import type { Notch } from './draw';
import { Stick } from './stick';

const MARK: readonly Notch[] = Array.from({ length: 6 }, () => ({ weight: 1, card: 'cut', copies: ['cut'] }) as const);

/** The logo: a short stick whose halves tally. */
@Component({
  selector: 'ts-stick-mark',
  imports: [Stick],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<ts-stick [notches]="mark" aria-hidden="true" />`,
  styles: `
    :host {
      display: block;
      width: 44px;
    }
    ts-stick {
      height: 18px;
    }
  `,
})
export class StickMark {
  protected readonly mark = MARK;
}
