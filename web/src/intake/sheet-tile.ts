import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { formatDuration } from '@tally/core/logbook';
import type { Tile } from './intake-store';
import { Picture } from './picture';

/** One picture on the sheet with its companions: cut when it is taken, a ring when it is left, a doubled line when it is already filed. */
@Component({
  selector: 'ts-tile',
  imports: [Picture],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ts-picture [item]="tile().lead" />
    @if (badge(); as text) {
      <span class="badge">{{ text }}</span>
    }
    @if (odd(); as why) {
      <span class="odd" [title]="why">!</span>
    }
    <svg class="mark" viewBox="0 0 20 12" aria-hidden="true">
      @switch (state()) {
        @case ('already') {
          <path d="M2 4 H18 M2 8 H18" stroke="currentColor" stroke-width="1.600" />
        }
        @case ('taken') {
          <path d="M2 12 L5 2 H15 L18 12 Z" fill="currentColor" />
        }
        @case ('left') {
          <circle cx="10" cy="6" r="4.500" fill="none" stroke="currentColor" stroke-width="1.600" />
        }
      }
    </svg>
  `,
  styles: `
    :host {
      position: absolute;
      border: 2px solid var(--ink);
      background: var(--sheet);
      cursor: pointer;
      user-select: none;
    }
    :host(.left) {
      border-color: transparent;
    }
    :host(.left) ts-picture {
      filter: grayscale(0.85) opacity(0.45);
    }
    :host(.already) {
      border-color: var(--line);
    }
    :host(.already) ts-picture {
      filter: grayscale(1) opacity(0.6);
    }
    :host(.focus) {
      outline: 3px solid var(--reed);
      outline-offset: 1px;
      z-index: 1;
    }
    .mark {
      position: absolute;
      left: 50%;
      bottom: -1px;
      width: 20px;
      height: 11px;
      transform: translateX(-50%);
      color: var(--paper);
    }
    :host(.left) .mark,
    :host(.already) .mark {
      left: 14px;
      bottom: 6px;
      color: var(--ink);
    }
    .badge,
    .odd {
      position: absolute;
      top: 4px;
      right: 4px;
      padding: 0 6px;
      border-radius: 3px;
      background: rgba(15, 22, 19, 0.86);
      color: #fff;
      font: 600 12px/18px var(--font-mono);
    }
    .odd {
      right: auto;
      left: 4px;
      background: var(--straw);
      color: var(--ochre);
    }
  `,
  host: {
    role: 'option',
    '[class.left]': "state() === 'left'",
    '[class.already]': "state() === 'already'",
    '[attr.aria-selected]': 'tile().lead.taken',
    '[attr.aria-label]': 'words()',
  },
})
export class SheetTile {
  readonly tile = input.required<Tile>();

  protected readonly state = computed(() => {
    const { filedAs, alreadyFiled, taken } = this.tile().lead;
    if (filedAs) return 'taken';
    return alreadyFiled ? 'already' : taken ? 'taken' : 'left';
  });

  protected readonly badge = computed(() => {
    const { lead, companions } = this.tile();
    const length = lead.durationMs && (lead.kind === 'video' || lead.kind === 'sound') ? formatDuration(lead.durationMs) : '';
    const kinds = [...new Set(companions.map((item) => item.kind))].map((companion) => `+${companion}`);
    return [length, ...kinds].filter(Boolean).join(' ');
  });

  /** What a person should look at before filing. */
  protected readonly odd = computed(() => {
    const { problem, remark, captured } = this.tile().lead;
    return problem ?? remark ?? (captured.doubt === 'camera epoch' ? 'dated by a clock that was not set' : null);
  });

  protected readonly words = computed(() => {
    const { lead, companions } = this.tile();
    const name = lead.path.slice(lead.path.lastIndexOf('/') + 1);
    const already = lead.alreadyFiled ? `already filed as ${lead.alreadyFiled.path}` : null;
    const state = lead.filedAs ? `filed as ${lead.filedAs}` : (already ?? (lead.taken ? 'taken' : 'left'));
    const company = companions.length ? `with ${companions.length} ${companions.length === 1 ? 'companion' : 'companions'}` : '';
    const odd = [lead.problem, lead.remark, lead.captured.doubt].filter(Boolean).join(', ');
    return [name, lead.kind, lead.captured.local.replace('T', ' '), company, state, odd].filter(Boolean).join(', ');
  });
}
