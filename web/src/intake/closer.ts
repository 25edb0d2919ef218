import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { isoCaptureTime } from '@tally/core/capture';
import { BytesPipe } from '../shared/amounts';
import type { ItemView } from '@tally/contract';
import { IntakeStore, type Tile } from './intake-store';
import { Picture } from './picture';

/** One picture, filling the window, with what is known of it and what comes next. */
@Component({
  selector: 'ts-closer',
  imports: [Picture, BytesPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (tile(); as one) {
      <header>
        <code>{{ one.lead.path }}</code>
        <span class="quiet">{{ index() + 1 }} of {{ tiles().length }}</span>
        <button type="button" (click)="closed.emit()" aria-label="Back to the sheet">
          <i class="pi pi-times" aria-hidden="true"></i>
        </button>
      </header>
      <div class="stage"><ts-picture class="whole" size="closer" [item]="one.lead" /></div>
      <footer>
        <strong>{{
          one.lead.filedAs ? 'filed' : one.lead.alreadyFiled ? 'already filed' : one.lead.taken ? 'taken' : 'left on the card'
        }}</strong>
        <span
          >{{ time(one.lead) }} <span class="quiet">by {{ one.lead.captured.source }}</span></span
        >
        <span>{{ one.lead.make }} {{ one.lead.model }}</span>
        @if (one.lead.width) {
          <span>{{ one.lead.width }} × {{ one.lead.height }}</span>
        }
        <span>{{ one.lead.bytes | bytes }}</span>
        @if (goesTo(); as path) {
          <code>{{ path }}</code>
        }
        @if (one.lead.problem ?? one.lead.remark ?? one.lead.captured.doubt; as odd) {
          <span class="attention">{{ odd }}</span>
        }
      </footer>
      <div class="strip" aria-hidden="true">
        @for (next of strip(); track next.lead.id) {
          <span [class.here]="next === one" [class.left]="!next.lead.taken"><ts-picture [item]="next.lead" /></span>
        }
      </div>
    }
  `,
  styles: `
    :host {
      position: fixed;
      inset: 0;
      z-index: 20;
      display: grid;
      grid-template-rows: auto minmax(0, 1fr) auto auto;
      background: var(--paper);
    }
    header,
    footer {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 20px;
      align-items: center;
      padding: 8px 20px;
    }
    header button {
      margin-left: auto;
      width: 36px;
      height: 36px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: none;
      color: inherit;
      cursor: pointer;
    }
    .stage {
      padding: 0 20px;
    }
    .strip {
      display: flex;
      gap: 4px;
      justify-content: center;
      padding: 0 20px 12px;
      height: 76px;
    }
    .strip span {
      width: 96px;
      border: 2px solid transparent;
    }
    .strip .here {
      border-color: var(--reed);
    }
    .strip .left ts-picture {
      filter: grayscale(0.8) opacity(0.5);
    }
  `,
  host: { role: 'dialog', 'aria-modal': 'true', 'aria-label': 'Look closer' },
})
export class Closer {
  private readonly store = inject(IntakeStore);
  readonly index = input.required<number>();
  readonly tiles = input.required<readonly Tile[]>();
  readonly closed = output();

  protected readonly tile = computed(() => this.tiles()[this.index()]);
  protected readonly strip = computed(() => {
    const from = Math.max(0, Math.min(this.index() - 4, this.tiles().length - 9));
    return this.tiles().slice(from, from + 9);
  });
  protected readonly goesTo = computed(() => {
    const lead = this.tile()?.lead;
    const placement = this.store.plan()?.placements.find((candidate) => candidate.itemId === lead?.id);
    return lead?.filedAs ?? lead?.alreadyFiled?.path ?? (placement ? `${placement.folder}/${placement.name}` : null);
  });

  protected time(item: ItemView): string {
    return isoCaptureTime(item.captured).replace('T', ' ');
  }
}
