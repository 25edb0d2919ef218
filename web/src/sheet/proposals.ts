import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { houseDay } from '@tally/core/capture';
import { SessionService } from '../api/session.service';
import type { Assignment } from '@tally/contract';
import { onlyProposal } from '@tally/core/plan';
import { CountPipe } from '../shared/amounts';
import { Acts } from './acts';
import { SheetSource } from './sheet-source';
import { isOpen, type Tile } from './tiles';
import { View } from './view';

interface Proposal {
  readonly assignment: Assignment;
  readonly tiles: readonly Tile[];
}

const SHOWN = 3;

/** Assignments whose days fit runs of the card, while nobody has said otherwise: once above the sheet, not on every run. */
@Component({
  selector: 'ts-proposals',
  imports: [CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (one of proposals().slice(0, shown); track one.assignment.id; let first = $first) {
      @if (first) {
        <span class="quiet">perhaps</span>
      }
      <button type="button" (click)="accept(one)">
        {{ one.assignment.title }} <span class="quiet">{{ one.tiles.length | count: 'item' }}</span>
      </button>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 12px;
      align-items: center;
      padding: 6px 0 0;
    }
    :host:empty {
      display: none;
    }
    button {
      min-height: 28px;
      border: 1px dashed var(--reed);
      border-radius: 6px;
      padding: 0 10px;
      background: none;
      color: var(--reed);
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
  `,
})
export class Proposals {
  readonly assignments = input.required<readonly Assignment[]>();
  private readonly store = inject(SheetSource);
  private readonly view = inject(View);
  private readonly session = inject(SessionService);
  private readonly acts = inject(Acts);
  protected readonly shown = SHOWN;

  protected readonly proposals = computed<Proposal[]>(() => {
    const found = new Map<number, { assignment: Assignment; tiles: Tile[] }>();
    if (this.view.order() !== 'time') return [];
    for (const { items } of this.view.runs()) {
      const assignment = this.proposalFor(items);
      if (!assignment) continue;
      const known = found.get(assignment.id) ?? { assignment, tiles: [] };
      known.tiles.push(...items);
      found.set(assignment.id, known);
    }
    return [...found.values()].sort((a, b) => b.tiles.length - a.tiles.length);
  });

  private proposalFor(tiles: readonly Tile[]): Assignment | null {
    const intake = this.store.intake();
    const items = tiles.filter(isOpen);
    if (!intake || !items.length || items.some(({ lead }) => lead.assignment ?? lead.alreadyFiled)) return null;
    const times = items.map(({ lead }) => lead.captured.local);
    const dayBegins = this.session.dayBegins();
    const days = times.map((local) => houseDay(local, dayBegins));
    const standing = this.assignments().find(({ id }) => id === intake.assignment?.id);
    const fits = standing && days.every((day) => standing.from <= day && day <= standing.to);
    if (fits) return null;
    const proposed = onlyProposal(times, this.assignments(), intake.contributor?.id ?? null, dayBegins);
    return proposed && proposed.id !== intake.assignment?.id ? proposed : null;
  }

  /** Nothing is said yet: then the whole card is proposed for it; else only the runs that fit. */
  protected accept({ assignment: { id, slug, title }, tiles }: Proposal): void {
    if (!this.store.intake()?.assignment) this.store.say({ assignmentId: id });
    else this.acts.split(tiles, { assignment: { id, slug, title } }, `to ${title}`);
  }
}
