import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

/** A path that breaks after its separators and nowhere else. */
@Component({
  selector: 'ts-path',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `@for (part of parts(); track $index) {
    <span>{{ part }}</span><wbr />
  }`,
  styles: `
    :host {
      font-family: var(--font-mono);
      overflow-wrap: anywhere;
    }
    span {
      display: inline-block;
      max-width: 100%;
    }
  `,
})
export class Path {
  readonly of = input.required<string>();
  protected readonly parts = computed(() => this.of().split(/(?<=\/)/));
}
