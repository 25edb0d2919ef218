import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import type { ContributorDetail } from '@tally/contract';
import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use, type ECharts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { ThemeService } from '../shared/theme.service';

use([BarChart, GridComponent, TooltipComponent, SVGRenderer]);

const MOST_MONTHS = 24;

/** What somebody handed in by month, the answer in the title; months without anything stand empty. */
@Component({
  selector: 'ts-months',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<h2>{{ title() }}</h2>
    <div #chart role="img" [attr.aria-label]="words()"></div>`,
  styles: `
    :host {
      display: block;
      margin-top: 8px;
    }
    h2 {
      font-size: 15px;
    }
    div {
      height: 110px;
    }
  `,
})
export class Months implements OnDestroy {
  readonly months = input.required<ContributorDetail['months']>();
  readonly name = input.required<string>();
  private readonly box = viewChild.required<ElementRef<HTMLElement>>('chart');
  private readonly theme = inject(ThemeService);
  private readonly resized = new ResizeObserver(() => this.chart?.resize());
  private chart: ECharts | null = null;
  private readonly all = computed(() => withoutGaps(this.months()).slice(-MOST_MONTHS));

  protected readonly title = computed(() => {
    const most = this.all().reduce((a, b) => (b.items > a.items ? b : a));
    return `${this.name()} handed in most in ${monthName(most.month)}: ${most.items.toLocaleString()} items`;
  });
  protected readonly words = computed(() =>
    this.all()
      .map(({ month, items }) => `${monthName(month)}: ${items}`)
      .join(', '),
  );

  constructor() {
    afterRenderEffect(() => {
      this.theme.dark();
      const style = getComputedStyle(this.box().nativeElement);
      const colour = (name: string) => style.getPropertyValue(name).trim();
      this.chart ??= this.make();
      this.chart.setOption(
        {
          animation: false,
          grid: { left: 40, right: 4, top: 8, bottom: 22 },
          tooltip: { trigger: 'axis' },
          xAxis: {
            type: 'category',
            data: this.all().map(({ month }) => monthName(month)),
            axisTick: { show: false },
            axisLine: { lineStyle: { color: colour('--ink') } },
            axisLabel: { color: colour('--quiet') },
          },
          yAxis: {
            type: 'value',
            splitNumber: 2,
            axisLabel: { color: colour('--quiet') },
            splitLine: { lineStyle: { color: colour('--line') } },
          },
          series: [
            {
              type: 'bar',
              name: 'items',
              data: this.all().map(({ items }) => items),
              itemStyle: { color: colour('--ink') },
              barMaxWidth: 28,
            },
          ],
        },
        { notMerge: true },
      );
    });
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
    this.chart?.dispose();
  }

  private make(): ECharts {
    const element = this.box().nativeElement;
    this.resized.observe(element);
    return init(element, null, { renderer: 'svg' });
  }
}

const NAME = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', month: 'short', year: 'numeric' });
const monthName = (month: string): string => NAME.format(new Date(`${month}-01T00:00:00Z`));

/** Every month from the first to the last. */
export function withoutGaps(months: ContributorDetail['months']): { month: string; items: number }[] {
  const [first, last] = [months[0]?.month, months.at(-1)?.month];
  if (first === undefined || last === undefined) return [];
  const known = new Map(months.map(({ month, items }) => [month, items]));
  const all: { month: string; items: number }[] = [];
  for (let month = first; month <= last; month = next(month)) all.push({ month, items: known.get(month) ?? 0 });
  return all;
}

const next = (month: string): string => {
  const [year, of] = month.split('-').map(Number) as [number, number];
  return of === 12 ? `${year + 1}-01` : `${year}-${String(of + 1).padStart(2, '0')}`;
};
