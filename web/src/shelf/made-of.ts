import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { MadeOfAnswer, ShareView } from '@tally/contract';
import { catchError, of } from 'rxjs';
import { IntakesService } from '../api/intakes.service';
import { ShelfService } from '../api/shelf.service';

const SHOWN = 6;

/** What the answer is made of: each a bar and a number, each a press. Above it what is at hand. */
@Component({
  selector: 'ts-made-of',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (standing().length || bundles().length) {
      <section class="hand" aria-label="At hand">
        @for (one of standing(); track one.id) {
          <a [routerLink]="['/shelf']" [queryParams]="{ q: one.question.text, standing: one.id }" [title]="one.question.sentence"
            ><i class="pi pi-bell" aria-hidden="true"></i> {{ one.name }} <span class="n">{{ one.items.toLocaleString() }}</span>
            @if (one.fresh) {
              <b>{{ one.fresh }} new</b>
            }
          </a>
        }
        @for (bundle of bundles(); track bundle.id) {
          <a [routerLink]="['/shelf']" [queryParams]="{ q: 'bundle:' + bundle.id }"
            ><i class="pi pi-folder" aria-hidden="true"></i> {{ bundle.name }} <span class="n">{{ bundle.items }}</span></a
          >
        }
        @for (intake of intakes(); track intake.id) {
          <a [routerLink]="['/shelf']" [queryParams]="{ q: 'intake:' + intake.number }"
            ><i class="pi pi-inbox" aria-hidden="true"></i> {{ intake.number }} <span class="n">{{ intake.filed }}</span></a
          >
        }
        <a class="all" routerLink="/bundles">All bundles and standing questions</a>
      </section>
    } @else {
      <a class="all" routerLink="/bundles">Bundles and standing questions</a>
    }
    @for (group of groups(); track group.name) {
      <section [attr.aria-label]="group.name">
        <h2>{{ group.name }}</h2>
        <ul>
          @for (share of group.shown; track share.text) {
            <li>
              <button type="button" [title]="share.words" (click)="add.emit(share.text)">
                <span class="words">{{ share.words }}</span><span class="n">{{ share.items.toLocaleString() }}</span>
                <span class="bar" aria-hidden="true"><i [style.width.%]="share.part"></i></span>
              </button>
            </li>
          }
        </ul>
        @if (group.more) {
          <button type="button" class="plain" (click)="turn(group.name)">
            {{ open().has(group.name) ? 'Fewer' : group.more + ' more' }}
          </button>
        }
      </section>
    }
  `,
  styles: `
    :host {
      display: block;
      overflow-y: auto;
      min-height: 0;
      padding: 10px 16px 20px;
      border-left: 1px solid var(--line);
      background: var(--sheet);
    }
    h2 {
      font-size: 13px;
      color: var(--quiet);
      padding: 10px 0 2px;
    }
    .hand {
      display: grid;
      padding-bottom: 6px;
      border-bottom: 1px solid var(--line);
    }
    .hand a,
    .all {
      display: flex;
      gap: 8px;
      align-items: center;
      min-height: 26px;
      text-decoration: none;
      color: var(--ink);
      font-size: 13px;
    }
    .hand .pi {
      font-size: 12px;
      color: var(--quiet);
    }
    .hand b {
      color: var(--reed);
    }
    a.all {
      color: var(--reed);
      font-weight: 600;
    }
    li button {
      position: relative;
      display: flex;
      width: 100%;
      min-height: 28px;
      align-items: center;
      gap: 8px;
      padding: 0 0 4px;
      border: 0;
      background: none;
      color: var(--ink);
      font: 13px var(--font-text);
      text-align: left;
      cursor: pointer;
    }
    li button:hover .words {
      color: var(--reed);
    }
    .words {
      flex: 1;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .n {
      margin-left: auto;
      color: var(--quiet);
    }
    .bar {
      position: absolute;
      left: 0;
      right: 0;
      bottom: 2px;
      height: 3px;
      background: var(--line);
    }
    .bar i {
      display: block;
      height: 100%;
      background: var(--ink);
    }
  `,
})
export class MadeOf {
  readonly made = input.required<MadeOfAnswer | null>();
  /** Somebody wants to ask for this alone. */
  readonly add = output<string>();

  private readonly service = inject(ShelfService);
  protected readonly open = signal<ReadonlySet<string>>(new Set());
  private readonly everyStanding = toSignal(this.service.standing.pipe(catchError(() => of([]))), { initialValue: [] });
  private readonly everyBundle = toSignal(this.service.bundles.pipe(catchError(() => of([]))), { initialValue: [] });
  /** What was filed last. */
  protected readonly intakes = toSignal(
    inject(IntakesService)
      .recent(3)
      .pipe(catchError(() => of([]))),
    { initialValue: [] },
  );
  protected readonly standing = computed(() => this.everyStanding().slice(0, 4));
  protected readonly bundles = computed(() => this.everyBundle().slice(0, 4));

  protected readonly groups = computed(() => {
    const made = this.made();
    if (!made) return [];
    const groups: [string, readonly ShareView[]][] = [
      ['Contributors', made.contributors],
      ['Assignments', made.assignments],
      ['Years', made.years],
      ['Kinds', made.kinds],
      ['Cameras', made.cameras],
      ['Judged', made.verdicts],
      ['Terms', made.terms],
    ];
    return groups
      .filter(([, shares]) => shares.length)
      .map(([name, shares]) => {
        const most = Math.max(...shares.map(({ items }) => items));
        const shown = this.open().has(name) ? shares : shares.slice(0, SHOWN);
        return {
          name,
          shown: shown.map((share) => ({ ...share, part: (100 * share.items) / most })),
          more: Math.max(0, shares.length - SHOWN),
        };
      });
  });

  protected turn(name: string): void {
    this.open.update((open) => {
      const next = new Set(open);
      if (!next.delete(name)) next.add(name);
      return next;
    });
  }
}
