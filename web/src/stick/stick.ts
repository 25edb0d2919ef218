import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  ElementRef,
  inject,
  input,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import type { StickRuns } from '@tally/contract';
import type { NotchShape } from '@tally/core/copies';
import { ThemeService } from '../shared/theme.service';
import { drawStick, sayStick, type Notch } from './draw';

/** The stick of an intake, drawn on a canvas, with a text for who cannot see it. */
@Component({
  selector: 'ts-stick',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<canvas #canvas role="img" [attr.aria-label]="words()"></canvas>`,
  styles: `
    :host {
      display: block;
      height: 22px;
    }
    canvas {
      display: block;
      width: 100%;
      height: 100%;
    }
  `,
})
export class Stick implements OnDestroy {
  /** Notches one by one, or in runs as lists have them. */
  readonly notches = input<readonly Notch[]>();
  readonly runs = input<StickRuns>();
  /** Places whose files lag behind in credit: their rows from 0, and their names. */
  readonly behind = input<readonly { readonly row: number; readonly name: string }[]>([]);

  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly theme = inject(ThemeService);
  private readonly resized = new ResizeObserver(() => this.draw());

  private readonly all = computed<readonly Notch[]>(() => {
    const runs = this.runs();
    if (!runs) return this.notches() ?? [];
    return runs.flatMap((run) =>
      Array.from({ length: run.count }, () => ({ weight: 1, card: run.card as NotchShape, copies: run.copies as NotchShape[] })),
    );
  });
  protected readonly words = computed(() =>
    sayStick(
      this.all(),
      undefined,
      this.behind().map(({ name }) => name),
    ),
  );

  constructor() {
    effect(() => {
      this.all();
      this.behind();
      this.theme.dark();
      this.draw();
    });
    effect(() => this.resized.observe(this.canvas().nativeElement));
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
  }

  private draw(): void {
    const canvas = this.canvas().nativeElement;
    const { clientWidth: width, clientHeight: height } = canvas;
    const context = canvas.getContext('2d');
    if (!context || !width || !height) return;
    const scale = window.devicePixelRatio || 1;
    canvas.width = Math.round(width * scale);
    canvas.height = Math.round(height * scale);
    context.scale(scale, scale);
    const behind = this.behind().map(({ row }) => row);
    drawStick(context, width, height, this.all(), this.theme.dark(), behind);
  }
}
