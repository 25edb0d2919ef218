import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import type { BundleView, StandingView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import type { Observable } from 'rxjs';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';
import { HouseTimePipe, CountPipe } from '../shared/amounts';
import { BundleItems } from './bundle-items';

interface Line {
  readonly bundle: BundleView;
  readonly depth: number;
}

/** Bundles, one inside the other, and the questions that are kept. */
@Component({
  selector: 'ts-bundles',
  imports: [FormsModule, RouterLink, ButtonModule, InputTextModule, SelectModule, HouseTimePipe, CountPipe, BundleItems],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>Bundles</h1>
      <span class="quiet"
        >{{ bundles().length | count: 'bundle' }}; an item may stand in several, and stays where it is filed</span
      >
      <a class="back" routerLink="/shelf">To the shelf</a>
    </header>
    <form class="new" (submit)="$event.preventDefault(); make()">
      <input
        pInputText
        name="name"
        maxlength="120"
        aria-label="Name of a new bundle"
        placeholder="Name of a new bundle"
        [(ngModel)]="name"
      />
      <button pButton type="submit" [disabled]="!name().trim()">Make bundle</button>
    </form>
    @if (problem()) {
      <p class="attention" role="alert">{{ problem() }}</p>
    }
    <ul class="bundles" aria-label="Bundles">
      @for (line of lines(); track line.bundle.id) {
        <li [style.padding-left.px]="line.depth * 26">
          <div class="line">
            <a [routerLink]="['/shelf']" [queryParams]="{ q: 'bundle:' + line.bundle.id }">{{ line.bundle.name }}</a>
            <span class="n">{{ line.bundle.items | count: 'item' }}</span>
            <span class="quiet">{{ line.bundle.usedAt | houseTime: 'day' }}, by {{ line.bundle.madeBy }}</span>
            <span class="acts">
              @if (line.bundle.items) {
                <button
                  type="button"
                  class="plain"
                  [attr.aria-expanded]="open() === line.bundle.id"
                  (click)="open.set(open() === line.bundle.id ? null : line.bundle.id)"
                >
                  Order
                </button>
              }
              <p-select
                [options]="placesFor(line.bundle)"
                optionLabel="name"
                optionValue="id"
                [showClear]="true"
                appendTo="body"
                placeholder="in no other"
                [ariaLabel]="line.bundle.name + ' stands in'"
                [ngModel]="line.bundle.parentId"
                (ngModelChange)="move(line.bundle, $event)"
              />
              <button type="button" class="plain" (click)="share(line.bundle)">Copy link</button>
              <button type="button" class="plain" (click)="remove(line.bundle)">Remove</button>
            </span>
          </div>
          @if (open() === line.bundle.id) {
            <ts-bundle-items [bundle]="line.bundle" />
          }
        </li>
      } @empty {
        <li class="empty">No bundle yet. Choose pictures on the shelf and press “Into a bundle”, or make an empty one here.</li>
      }
    </ul>
    <h2>Standing questions</h2>
    <ul class="standing" aria-label="Standing questions">
      @for (one of standing(); track one.id) {
        <li>
          <div class="line">
            <a [routerLink]="['/shelf']" [queryParams]="{ q: one.question.text, standing: one.id }">{{ one.name }}</a>
            <span class="n">{{ one.items | count: 'item' }}</span>
            @if (one.fresh) {
              <b class="fresh">{{ one.fresh }} new</b>
            }
            <span class="quiet">{{ one.question.sentence }}</span>
            <span class="acts">
              <button type="button" class="plain" [attr.aria-pressed]="one.tells" (click)="tell(one)">
                {{ one.tells ? 'tells the desk' : 'tells nobody' }}
              </button>
              <button type="button" class="plain" (click)="forget(one)">Remove</button>
            </span>
          </div>
        </li>
      } @empty {
        <li class="empty">No question is kept yet. Ask something on the shelf and press “Keep”.</li>
      }
    </ul>
  `,
  styles: `
    :host {
      display: block;
      padding: 16px 24px 32px;
    }
    .back {
      margin-left: auto;
    }
    .new {
      display: flex;
      gap: 10px;
      padding-bottom: 12px;
    }
    .new input {
      width: 320px;
    }
    li {
      border-bottom: 1px solid var(--line);
    }
    .line {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 16px;
      align-items: center;
      min-height: 44px;
    }
    .line > a {
      font-weight: 600;
    }
    .fresh {
      color: var(--reed);
    }
    .acts {
      display: inline-flex;
      flex-wrap: wrap;
      gap: 4px 14px;
      align-items: center;
      margin-left: auto;
    }
    .acts p-select {
      width: 180px;
    }
    h2 {
      padding: 24px 0 8px;
    }
  `,
})
export class BundlesPage {
  private readonly service = inject(ShelfService);
  private readonly messages = inject(MessageService);
  protected readonly bundles = toSignal(this.service.bundles, { initialValue: [] });
  protected readonly standing = toSignal(this.service.standing, { initialValue: [] });
  protected readonly name = signal('');
  protected readonly problem = signal('');
  /** Whose order is being said. */
  protected readonly open = signal<number | null>(null);

  /** Each bundle under the one around it. */
  protected readonly lines = computed<Line[]>(() => {
    const all = this.bundles();
    const inside = (parentId: number | null, depth: number): Line[] =>
      all
        .filter((bundle) => bundle.parentId === parentId)
        .flatMap((bundle) => [{ bundle, depth }, ...inside(bundle.id, depth + 1)]);
    return inside(null, 0);
  });

  /** Where a bundle may stand: not in itself, nor in what stands in it. */
  protected placesFor(bundle: BundleView): BundleView[] {
    const all = this.bundles();
    const below = new Set([bundle.id]);
    for (let grew = true; grew;) {
      grew = false;
      for (const one of all)
        if (one.parentId !== null && below.has(one.parentId) && !below.has(one.id)) grew = !!below.add(one.id);
    }
    return all.filter(({ id }) => !below.has(id));
  }

  protected make(): void {
    const name = this.name().trim();
    if (!name) return;
    this.done(this.service.makeBundle(name, null), () => this.name.set(''));
  }

  protected move({ id, revision }: BundleView, parentId: number | null): void {
    this.done(this.service.changeBundle(id, { parentId, revision }));
  }

  protected remove({ id, name, items }: BundleView): void {
    this.done(this.service.removeBundle(id), () =>
      this.messages.add({ severity: 'success', summary: `“${name}” is removed; its ${items} items stay.`, life: 5_000 }),
    );
  }

  /** A link for whoever signs in here. */
  protected share({ id }: BundleView): void {
    const link = new URL(`/shelf?q=bundle:${id}`, location.href).href;
    navigator.clipboard.writeText(link).then(
      () =>
        this.messages.add({
          severity: 'success',
          summary: 'The link is copied: it opens for whoever signs in here.',
          life: 4_000,
        }),
      () => this.messages.add({ severity: 'info', summary: link, life: 10_000 }),
    );
  }

  protected tell({ id, tells, revision }: StandingView): void {
    this.done(this.service.changeStanding(id, { tells: !tells, revision }));
  }

  protected forget({ id }: StandingView): void {
    this.done(this.service.forget(id));
  }

  private done(request: Observable<unknown>, then: () => void = () => undefined): void {
    request.subscribe({
      next: () => {
        this.problem.set('');
        then();
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
