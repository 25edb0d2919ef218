import { ChangeDetectionStrategy, Component, output } from '@angular/core';

const MARKS = [
  { name: 'taken', is: 'taken', path: 'M5 6.2 L8.6 9.6 L15.5 2.4' },
  { name: 'left', is: 'plain', circle: true },
  { name: 'filed', is: 'plain', path: 'M2 1 H18 M6 1 L10 10 L14 1' },
  { name: 'filed before', is: 'plain', path: 'M2 4 H18 M2 8 H18' },
  { name: 'left, and gone', is: 'plain', circle: true, dashes: '2.4 2.3' },
  { name: 'set aside', is: 'plain', path: 'M3 6 H17 M13 2.5 L17 6 L13 9.5' },
  { name: 'something is wrong', is: 'trouble', path: 'M5.5 1.5 L14.5 10.5 M14.5 1.5 L5.5 10.5' },
] as const;

/** What a press does on the sheet, and what the marks mean. Shown until somebody says that they know. */
@Component({
  selector: 'ts-legend',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p>
      <b>A click</b> takes or leaves a picture; <b>a double click</b> looks closer; <b>the title of a run</b> chooses all of it.
    </p>
    <button type="button" (click)="known.emit()">I know</button>
    <ul aria-label="What the marks mean">
      @for (mark of marks; track mark.name) {
        <li>
          <svg viewBox="0 0 20 12" [class]="mark.is" aria-hidden="true">
            @if ('circle' in mark) {
              <circle cx="10" cy="6" r="4.5" [attr.stroke-dasharray]="'dashes' in mark ? mark.dashes : null" />
            } @else {
              <path [attr.d]="mark.path" />
            }
          </svg>
          {{ mark.name }}
        </li>
      }
      <li>
        <span class="bar"><i></i></span> how sharp
      </li>
    </ul>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 20px;
      align-items: center;
      padding: 6px 14px 6px 20px;
      border-bottom: 1px solid var(--line);
      background: var(--sheet);
      font-size: 13px;
    }
    ul {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 14px;
      flex-basis: 100%;
    }
    li {
      display: inline-flex;
      gap: 6px;
      align-items: center;
    }
    svg {
      width: 26px;
      height: 18px;
      padding: 3px;
      border: 1px solid var(--line);
      border-radius: 3px;
      fill: none;
      stroke: currentColor;
      stroke-width: 1.8;
    }
    .taken {
      background: var(--reed);
      color: var(--on-reed);
    }
    .trouble {
      background: var(--trouble);
      color: #fff;
    }
    .bar {
      width: 30px;
      height: 8px;
      border: 1px solid var(--ink);
      background: var(--paper);
    }
    .bar i {
      display: block;
      width: 70%;
      height: 100%;
      background: var(--reed);
    }
    button {
      margin-left: auto;
      min-height: 28px;
      border: 1px solid var(--line);
      border-radius: 6px;
      padding: 0 12px;
      background: none;
      color: var(--reed);
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
  `,
})
export class Legend {
  readonly known = output();
  protected readonly marks = MARKS;
}
