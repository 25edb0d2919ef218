import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  inject,
  input,
  output,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import type { LogCalendar } from '@tally/contract';
import { HeatmapChart } from 'echarts/charts';
import { CalendarComponent, TooltipComponent, VisualMapComponent } from 'echarts/components';
import { init, use, type ECharts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { ThemeService } from '../shared/theme.service';

use([HeatmapChart, CalendarComponent, TooltipComponent, VisualMapComponent, SVGRenderer]);

/** A year of intakes, a square for each day, the darker the more items came in. A click narrows the log to that day. */
@Component({
  selector: 'ts-log-calendar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div #chart role="img" [attr.aria-label]="words()"></div>`,
  styles: `
    :host,
    div {
      display: block;
      height: 142px;
    }
  `,
})
export class Calendar implements OnDestroy {
  readonly days = input.required<LogCalendar['days']>();
  /** The last day shown, `yyyy-MM-dd`; a year back from there. */
  readonly until = input.required<string>();
  readonly day = output<string>();

  private readonly box = viewChild.required<ElementRef<HTMLElement>>('chart');
  private readonly theme = inject(ThemeService);
  private readonly resized = new ResizeObserver(() => this.chart?.resize());
  private chart: ECharts | null = null;

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
    const shown = this.days().filter(({ day }) => day > this.from());
    const items = shown.reduce((sum, day) => sum + day.items, 0);
    return `Calendar of a year: ${items} items came in on ${shown.length} days.`;
  }

  private make(): ECharts {
    const chart = init(this.box().nativeElement, undefined, { renderer: 'svg' });
    this.resized.observe(this.box().nativeElement);
    chart.on('click', (event) => this.day.emit((event.value as [string, number])[0]));
    return chart;
  }

  private from(): string {
    const date = new Date(`${this.until()}T12:00:00Z`);
    date.setUTCDate(date.getUTCDate() - 364);
    return date.toISOString().slice(0, 10);
  }

  private option() {
    const colour = themeColours(this.theme.dark());
    const days = this.days();
    const byDay = new Map(days.map((day) => [day.day, day]));
    const say = (day: string) => {
      const { intakes = 0, items = 0 } = byDay.get(day) ?? {};
      const date = new Intl.DateTimeFormat('en-GB', {
        timeZone: 'UTC',
        weekday: 'short',
        day: 'numeric',
        month: 'short',
        year: 'numeric',
      }).format(new Date(day));
      return `${date}: ${intakes} ${intakes === 1 ? 'intake' : 'intakes'}, ${items} ${items === 1 ? 'item' : 'items'}`;
    };
    const font = { color: colour.quiet, fontFamily: 'Atkinson Hyperlegible Next Variable', fontSize: 12 };
    return {
      animation: false,
      tooltip: {
        formatter: ({ value }: { value: [string, number] }) => say(value[0]),
        textStyle: { ...font, color: colour.ink },
        backgroundColor: colour.sheet,
        borderColor: colour.line,
      },
      visualMap: {
        show: false,
        type: 'piecewise' as const,
        pieces: PIECES.map(([min, max], index) => ({ min, max, color: colour.steps[index]! })),
      },
      calendar: {
        top: 22,
        left: 34,
        right: 2,
        bottom: 4,
        cellSize: ['auto', 16] as ['auto', number],
        range: [this.from(), this.until()],
        splitLine: { show: false },
        itemStyle: { color: colour.sheet, borderColor: colour.paper, borderWidth: 3 },
        dayLabel: { firstDay: 1, nameMap: ['', 'Mon', '', 'Wed', '', 'Fri', ''], ...font },
        monthLabel: font,
        yearLabel: { show: false },
      },
      series: [
        {
          type: 'heatmap' as const,
          coordinateSystem: 'calendar' as const,
          data: days.map((day) => [day.day, day.items]),
          itemStyle: { borderColor: colour.paper, borderWidth: 3, borderRadius: 5 },
        },
      ],
    };
  }
}

const PIECES = [
  [1, 9],
  [10, 49],
  [50, 199],
  [200, Number.MAX_SAFE_INTEGER],
] as const;

function themeColours(dark: boolean) {
  const style = getComputedStyle(document.documentElement);
  const token = (name: string) => style.getPropertyValue(name).trim();
  const steps = dark ? ['#1f4a3f', '#2f7764', '#47a189', '#8fe0c9'] : ['#b9d9cd', '#7fb8a5', '#3c8a76', '#0f5b4c'];
  return {
    ink: token('--ink'),
    quiet: token('--quiet'),
    sheet: token('--sheet'),
    paper: token('--paper'),
    line: token('--line'),
    steps,
  };
}
