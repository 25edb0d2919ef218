import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  signal,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import type { FiguresAnswer } from '@tally/contract';
import { FIGURES_BY, type FiguresBy } from '@tally/core/find';
import { formatBytes } from '@tally/core/logbook';
import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use, type ECharts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { ButtonModule } from 'primeng/button';
import { SelectButtonModule } from 'primeng/selectbutton';
import { catchError, combineLatest, of, switchMap } from 'rxjs';
import { wordsFor } from '../api/problem';
import { type Figure, ShelfService } from '../api/shelf.service';
import { ThemeService } from '../shared/theme.service';
import { answerOf, type Measure, MEASURES, valueOf } from './figures-words';
import { May } from '../shared/may';

use([BarChart, GridComponent, TooltipComponent, SVGRenderer]);

const MOST_BARS = 24;

/** The house in figures: one question a chart, the answer in its title, each bar a question to the shelf. */
@Component({
  selector: 'ts-figures',
  imports: [May, FormsModule, RouterLink, ButtonModule, SelectButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>In figures</h1>
      <span class="quiet">{{ answer()?.question?.sentence }}</span>
      <a [routerLink]="['/shelf']" [queryParams]="{ q: q() || null }">To the shelf</a>
      <a routerLink="/logbook">To the logbook</a>
    </header>
    <div class="asks">
      <p-selectbutton
        ariaLabelledBy="figures-by"
        [options]="bys"
        optionLabel="words"
        optionValue="by"
        [allowEmpty]="false"
        [ngModel]="asked()"
        (ngModelChange)="go({ by: $event })"
      />
      <span id="figures-by" class="visually-hidden">By what</span>
      <p-selectbutton
        ariaLabelledBy="figures-what"
        [options]="measures"
        optionLabel="words"
        optionValue="measure"
        [allowEmpty]="false"
        [ngModel]="measure()"
        (ngModelChange)="go({ what: $event })"
      />
      <span id="figures-what" class="visually-hidden">What is counted</span>
      <a pButton tsMay="fetch" class="p-button-outlined" [href]="csv()" download
        ><i class="pi pi-download" aria-hidden="true"></i> CSV</a
      >
    </div>
    @if (problem()) {
      <p class="attention" role="alert">{{ problem() }}</p>
    }
    @if (answer(); as figures) {
      <h2 aria-live="polite">{{ title() }}</h2>
      @if (figures.figures.length) {
        <div #chart class="chart" role="img" [attr.aria-label]="title() + ' The table below has every figure.'"></div>
        <table>
          <thead>
            <tr>
              <th scope="col">{{ asked() }}</th>
              <th scope="col" class="right">Items</th>
              <th scope="col" class="right">Size</th>
              <th scope="col" class="right">Intakes</th>
              <th scope="col" class="right">Selects</th>
              <th scope="col" class="right">Filed late</th>
            </tr>
          </thead>
          <tbody>
            @for (figure of inTable(); track figure.words) {
              <tr>
                <th scope="row">
                  @if (figure.question !== null) {
                    <a [routerLink]="['/shelf']" [queryParams]="{ q: figure.question }">{{ figure.words }}</a>
                  } @else {
                    {{ figure.words }}
                  }
                </th>
                <td class="right">{{ figure.items.toLocaleString() }}</td>
                <td class="right">{{ size(figure.bytes) }}</td>
                <td class="right">{{ figure.intakes.toLocaleString() }}</td>
                <td class="right">
                  {{ figure.selects.toLocaleString() }} <span class="quiet">{{ share(figure.selects, figure.items) }}</span>
                </td>
                <td class="right">
                  {{ figure.late.toLocaleString() }} <span class="quiet">{{ share(figure.late, figure.items) }}</span>
                </td>
              </tr>
            }
          </tbody>
        </table>
        @if (figures.figures.length > inTable().length) {
          <button type="button" class="plain" (click)="whole.set(true)">All {{ figures.figures.length }} lines</button>
        }
      }
    }
  `,
  styles: `
    :host {
      display: block;
      padding: 16px 24px 32px;
    }
    .asks {
      display: flex;
      flex-wrap: wrap;
      gap: 10px 20px;
      align-items: center;
      padding-bottom: 14px;
    }
    h2 {
      font-size: 24px;
    }
    .chart {
      height: 320px;
      margin: 8px 0 16px;
    }
    table {
      border-collapse: collapse;
      min-width: 640px;
    }
    th,
    td {
      height: 32px;
      padding: 0 24px 0 0;
      border-bottom: 1px solid var(--line);
    }
    tbody th {
      color: var(--ink);
      font-size: 15px;
    }
    thead th::first-letter {
      text-transform: uppercase;
    }
  `,
})
export class FiguresPage implements OnDestroy {
  // The page's address says what is shown.
  readonly q = input<string>();
  readonly by = input<string>();
  readonly what = input<string>();

  private readonly service = inject(ShelfService);
  private readonly router = inject(Router);
  private readonly theme = inject(ThemeService);
  private readonly box = viewChild<ElementRef<HTMLElement>>('chart');
  private readonly resized = new ResizeObserver(() => this.chart?.resize());
  private chart: ECharts | null = null;
  private drawnIn: HTMLElement | null = null;

  protected readonly bys = FIGURES_BY.map((by) => ({ by, words: by }));
  protected readonly measures = [...MEASURES];
  protected readonly asked = computed<FiguresBy>(() => FIGURES_BY.find((one) => one === this.by()) ?? 'month');
  protected readonly measure = computed<Measure>(
    () => MEASURES.find(({ measure }) => measure === this.what())?.measure ?? 'items',
  );
  protected readonly problem = signal('');
  protected readonly whole = signal(false);
  protected readonly answer = toSignal(
    combineLatest([toObservable(computed(() => this.q() ?? '')), toObservable(this.asked)]).pipe(
      switchMap(([question, by]) =>
        this.service.figures(question, by).pipe(
          catchError((error: unknown) => {
            this.problem.set(wordsFor(error));
            return of(null);
          }),
        ),
      ),
    ),
    { initialValue: null as FiguresAnswer | null },
  );
  /** In time all of it, else the largest. */
  protected readonly shown = computed<readonly Figure[]>(() => {
    const figures = this.answer()?.figures ?? [];
    const answered = this.answer()?.by;
    if (answered === 'month' || answered === 'season') return figures;
    return [...figures].sort((a, b) => valueOf(b, this.measure()) - valueOf(a, this.measure())).slice(0, MOST_BARS);
  });
  protected readonly inTable = computed(() => {
    const figures = this.answer()?.figures ?? [];
    const inTime = this.answer()?.by === 'month' || this.answer()?.by === 'season';
    const all = inTime ? figures.toReversed() : figures;
    return this.whole() ? all : all.slice(0, MOST_BARS);
  });
  protected readonly title = computed(() => {
    const answer = this.answer();
    return answer ? answerOf(answer, this.measure()) : '';
  });
  protected readonly csv = computed(
    () => `/api/figures.csv?${new URLSearchParams({ question: this.q() ?? '', by: this.asked() }).toString()}`,
  );

  constructor() {
    afterRenderEffect(() => {
      const box = this.box()?.nativeElement;
      if (!box) return;
      if (this.drawnIn !== box) {
        this.chart?.dispose();
        this.chart = this.make(box);
        this.drawnIn = box;
      }
      this.chart!.setOption(this.option(), { notMerge: true });
    });
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
    this.chart?.dispose();
  }

  protected go(queryParams: object): void {
    this.whole.set(false);
    void this.router.navigate([], { queryParams, queryParamsHandling: 'merge' });
  }

  protected size(bytes: number): string {
    return formatBytes(bytes);
  }

  protected share(part: number, whole: number): string {
    return part && whole ? `${Math.max(1, Math.round((100 * part) / whole))} %` : '';
  }

  private make(box: HTMLElement): ECharts {
    const chart = init(box, undefined, { renderer: 'svg' });
    this.resized.disconnect();
    this.resized.observe(box);
    chart.on('click', ({ dataIndex }) => {
      const figure = this.shown()[dataIndex];
      if (typeof figure?.question === 'string') void this.router.navigate(['/shelf'], { queryParams: { q: figure.question } });
    });
    return chart;
  }

  private option() {
    this.theme.dark();
    const style = getComputedStyle(document.documentElement);
    const token = (name: string) => style.getPropertyValue(name).trim();
    const what = this.measure();
    const figures = this.shown();
    const inTime = this.answer()?.by === 'month' || this.answer()?.by === 'season';
    const font = { color: token('--quiet'), fontFamily: 'Atkinson Hyperlegible Next Variable', fontSize: 12 };
    const said = (value: number) => (what === 'bytes' ? formatBytes(value) : value.toLocaleString());
    const names = {
      type: 'category' as const,
      data: figures.map(({ words }) => words),
      axisTick: { show: false },
      axisLine: { lineStyle: { color: token('--ink') } },
      axisLabel: { ...font, color: token('--ink'), ...(inTime ? {} : { width: 190, overflow: 'truncate' as const }) },
    };
    const values = {
      type: 'value' as const,
      splitLine: { lineStyle: { color: token('--line') } },
      axisLabel: { ...font, formatter: (value: number) => said(value) },
    };
    return {
      animation: false,
      grid: { top: 16, left: 8, right: 24, bottom: 8, containLabel: true },
      tooltip: {
        trigger: 'axis' as const,
        axisPointer: { type: 'none' as const },
        valueFormatter: (value: unknown) => said(Number(value)),
        textStyle: { ...font, color: token('--ink') },
        backgroundColor: token('--sheet'),
        borderColor: token('--line'),
      },
      xAxis: inTime ? names : values,
      yAxis: inTime ? values : { ...names, inverse: true },
      series: [
        {
          type: 'bar' as const,
          name: MEASURES.find(({ measure }) => measure === what)!.words,
          barMaxWidth: 26,
          data: figures.map((figure) => valueOf(figure, what)),
          itemStyle: { color: token('--ink') },
          emphasis: { itemStyle: { color: token('--reed') } },
          cursor: 'pointer',
        },
      ],
    };
  }
}
