import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  output,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import type { LogCalendar } from '@tally/contract';
import { BarChart, CustomChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use, type ECharts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { ThemeService } from '../shared/theme.service';

use([BarChart, CustomChart, GridComponent, TooltipComponent, SVGRenderer]);

const WEEKS = 53;
const DAY_MS = 86_400_000;

/** A week of the log: its Monday and its Sunday, and what came in. */
export interface Week {
  readonly from: string;
  readonly to: string;
  readonly intakes: number;
  readonly items: number;
}

/** The last 53 weeks up to a day, with what came in. Weeks begin on Monday (ISO 8601). */
export function weeksUntil(days: LogCalendar['days'], until: string): Week[] {
  const last = Date.parse(`${until}T00:00:00Z`);
  const monday = last - ((new Date(last).getUTCDay() + 6) % 7) * DAY_MS;
  const dayOf = (ms: number) => new Date(ms).toISOString().slice(0, 10);
  const sums = new Map<number, { intakes: number; items: number }>();
  for (const { day, intakes, items } of days) {
    const index = WEEKS - 1 - Math.ceil((monday - Date.parse(`${day}T00:00:00Z`)) / (7 * DAY_MS));
    const sum = sums.get(index) ?? { intakes: 0, items: 0 };
    sums.set(index, { intakes: sum.intakes + intakes, items: sum.items + items });
  }
  return Array.from({ length: WEEKS }, (_, i) => {
    const from = monday - (WEEKS - 1 - i) * 7 * DAY_MS;
    return { from: dayOf(from), to: dayOf(from + 6 * DAY_MS), ...(sums.get(i) ?? { intakes: 0, items: 0 }) };
  });
}

/** The stick of the year, in ink: a notch for each week, the deeper the more items came in. A click narrows the log to it. */
@Component({
  selector: 'ts-log-calendar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div #chart role="img" [attr.aria-label]="words()"></div>`,
  styles: `
    :host,
    div {
      display: block;
      height: 78px;
    }
  `,
})
export class Calendar implements OnDestroy {
  readonly days = input.required<LogCalendar['days']>();
  /** The last day shown, `yyyy-MM-dd`; a year back from there. */
  readonly until = input.required<string>();
  readonly week = output<Week>();

  private readonly box = viewChild.required<ElementRef<HTMLElement>>('chart');
  private readonly theme = inject(ThemeService);
  private readonly resized = new ResizeObserver(() => this.chart?.resize());
  private chart: ECharts | null = null;
  private readonly weeks = computed(() => weeksUntil(this.days(), this.until()));

  constructor() {
    afterRenderEffect(() => {
      this.chart ??= this.make();
      this.chart.setOption(this.option(), { notMerge: true });
    });
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
    this.chart?.dispose();
  }

  protected words(): string {
    const busy = this.weeks().filter(({ intakes }) => intakes > 0);
    const items = busy.reduce((sum, week) => sum + week.items, 0);
    return `The year in weeks: ${items} items came in, in ${busy.length} of ${WEEKS} weeks.`;
  }

  private make(): ECharts {
    const chart = init(this.box().nativeElement, undefined, { renderer: 'svg' });
    this.resized.observe(this.box().nativeElement);
    chart.on('click', ({ dataIndex }) => {
      const week = this.weeks()[dataIndex];
      if (week) this.week.emit(week);
    });
    return chart;
  }

  private option() {
    const colour = themeColours(this.theme.dark());
    const weeks = this.weeks();
    const most = Math.max(1, ...weeks.map(({ items }) => items));
    const font = { color: colour.quiet, fontFamily: 'Atkinson Hyperlegible Next Variable', fontSize: 12 };
    // The first week of a month says its name.
    const monthAt = (i: number) => weeks[i]?.to.slice(0, 7);
    const months = weeks.map(({ to }, i) => {
      // A month of which too little is shown has no room for its name.
      const begins = i === 0 ? monthAt(0) === monthAt(3) : monthAt(i) !== monthAt(i - 1);
      return begins ? MONTH.format(new Date(to)) : '';
    });
    return {
      animation: false,
      grid: { top: 24, left: 2, right: 2, bottom: 6 },
      tooltip: {
        trigger: 'axis' as const,
        axisPointer: { type: 'none' as const },
        formatter: (at: { dataIndex: number } | { dataIndex: number }[]) => sayWeek(weeks[[at].flat()[0]!.dataIndex]!),
        textStyle: { ...font, color: colour.ink },
        backgroundColor: colour.sheet,
        borderColor: colour.line,
      },
      xAxis: {
        type: 'category' as const,
        position: 'top' as const,
        data: months.map((name, i) => `${i} ${name}`),
        axisLine: { show: false },
        axisTick: { show: false },
        axisLabel: { ...font, interval: 0, formatter: (text: string) => text.slice(text.indexOf(' ') + 1), hideOverlap: false },
      },
      yAxis: { type: 'value' as const, min: 0, max: 1, show: false },
      series: [
        // The body of the stick: it can be pressed anywhere.
        {
          type: 'bar' as const,
          barWidth: '100%',
          barCategoryGap: 0,
          data: weeks.map(() => 1),
          itemStyle: { color: colour.sheet, borderColor: colour.line, borderWidth: 0 },
          emphasis: { itemStyle: { color: colour.line } },
          cursor: 'pointer',
        },
        {
          type: 'custom' as const,
          silent: true,
          z: 4,
          clip: false,
          encode: { x: 0, y: 1 },
          data: weeks.map(({ items }, i) => [i, items ? 0.16 + 0.78 * Math.sqrt(items / most) : 0]),
          renderItem: (
            _: unknown,
            api: { value: (at: number) => number; coord: (at: number[]) => number[]; size: (at: number[]) => number[] },
          ) => {
            const depth = api.value(1);
            if (!depth) return { type: 'group' as const, children: [] };
            const [x = 0, top = 0] = api.coord([api.value(0), 1]);
            const [, bottom = 0] = api.coord([api.value(0), 1 - depth]);
            const half = Math.max(2, (api.size([1, 0])[0] ?? 8) * 0.42);
            const points = [
              [x - half, top],
              [x + half, top],
              [x + half * 0.36, bottom],
              [x - half * 0.36, bottom],
            ];
            return { type: 'polygon' as const, shape: { points }, style: { fill: colour.ink } };
          },
        },
      ],
    };
  }
}

const MONTH = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', month: 'short' });
const SPAN = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short', year: 'numeric' });

const sayWeek = ({ from, to, intakes, items }: Week): string =>
  `${SPAN.formatRange(new Date(from), new Date(to))}: ${intakes} ${intakes === 1 ? 'intake' : 'intakes'}, ${items} ${items === 1 ? 'item' : 'items'}`;

function themeColours(_dark: boolean) {
  const style = getComputedStyle(document.documentElement);
  const token = (name: string) => style.getPropertyValue(name).trim();
  return { ink: token('--ink'), quiet: token('--quiet'), sheet: token('--sheet'), line: token('--line') };
}
