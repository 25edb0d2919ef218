import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { notchOfCopy, type CopyState } from '@tally/core/copies';

/** The state of one copy: a small notch with the place's name, and the state in words. */
@Component({
  selector: 'ts-copy',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span [title]="place() + ': ' + state() + (problem() ? ' (' + problem() + ')' : '')" [class.trouble]="shape() === 'crossed'">
      <svg viewBox="0 0 12 12" width="11" height="11" aria-hidden="true">
        @switch (shape()) {
          @case ('cut') {
            <path d="M1 1 H11 L8.500 11 H3.500 Z" fill="currentColor" />
          }
          @case ('half') {
            <path d="M1 1 H11 L8.500 11 H3.500 Z" fill="none" stroke="currentColor" />
            <path d="M1 1 H11 L9.800 6 H2.200 Z" fill="currentColor" />
          }
          @case ('crossed') {
            <path d="M1 1 L11 11 M11 1 L1 11" stroke="currentColor" stroke-width="2" />
          }
          @default {
            <path d="M1 1 H11 L8.500 11 H3.500 Z" fill="none" stroke="currentColor" />
          }
        }</svg
      >{{ place() }}<span class="visually-hidden"> {{ state() }}</span>
    </span>
  `,
  styles: `
    :host {
      display: inline-block;
      margin-right: 10px;
      font-size: 13px;
    }
    span {
      display: inline-flex;
      gap: 4px;
      align-items: center;
    }
  `,
})
export class CopyMark {
  readonly state = input.required<CopyState>();
  readonly place = input.required<string>();
  readonly problem = input<string | null>(null);
  protected shape(): string {
    return notchOfCopy(this.state());
  }
}
