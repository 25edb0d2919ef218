import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { doubtInWords } from '@tally/core/capture';
import { partsInWords } from '@tally/core/card';
import { notToBeShown, type TermsStanding } from '@tally/core/credit';
import { type ItemStanding, standingInWords, standingOfItem } from '@tally/core/life';
import { formatDuration } from '@tally/core/logbook';
import { sharpnessBar } from '@tally/core/looks';
import type { Tray } from '@tally/core/trays';
import { Picture } from './picture';
import { lengthOf, nameOf, objectOf, type Tile } from './tiles';

/** What stands out about a tile among its neighbours. */
export interface Standing {
  /** In a group of similar frames: its share of the bar, and whether it is the sharpest. */
  readonly sharp: { readonly bar: number; readonly best: boolean } | null;
  /** Another assignment or contributor than the slip's, where its run does not say so. */
  readonly belongs: string | null;
  /** Taken with a camera that is known to be somebody else's. */
  readonly foreign: boolean;
  /** What may be done with it, in words; null: nobody knows yet. */
  readonly terms: (TermsStanding & { readonly own: boolean }) | null;
}

const ORDINARY: Standing = { sharp: null, belongs: null, foreign: false, terms: null };

/** How a standing looks: shapes first, as on the stick. */
const LOOKS: Readonly<Record<ItemStanding, 'taken' | 'filed' | 'left' | 'gone' | 'already' | 'likely' | 'trouble' | 'aside'>> = {
  filed: 'filed',
  'being filed': 'taken',
  'not filed': 'trouble',
  'already filed': 'already',
  'being compared': 'likely',
  'set aside': 'aside',
  'cannot be filed': 'trouble',
  taken: 'taken',
  left: 'left',
  'left and gone': 'gone',
  'left and out': 'gone',
};

/**
 * One picture on the sheet with its companions. Its mark is a tag in the corner: a tick when it is taken, a cut notch when
 * it is filed, a ring when it is left, a doubled line when it is already filed, a cross where something is wrong.
 */
@Component({
  selector: 'ts-tile',
  imports: [Picture],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ts-picture [item]="tile().lead" [hurried]="hurried()" />
    @if (badge(); as text) {
      <span class="badge" [title]="text">{{ text }}</span>
    }
    @if (odd(); as why) {
      <span class="odd" [title]="why">!</span>
    }
    @if (tile().lead.verdict; as verdict) {
      <span class="verdict">{{ verdict }}</span>
    } @else if (standing().belongs) {
      <span class="verdict">{{ standing().belongs }}</span>
    } @else if (standing().terms?.own) {
      <span class="verdict">{{ standing().terms?.stance }}</span>
    }
    @if (standing().sharp; as sharp) {
      <span class="sharp" [class.best]="sharp.best"><i [style.width.%]="sharp.bar * 100"></i></span>
    }
    @if (never()) {
      <span class="never" [title]="never()">not to be shown</span>
    }
    <svg class="mark" viewBox="0 0 20 12" aria-hidden="true">
      @switch (state()) {
        @case ('already') {
          <path d="M2 4 H18 M2 8 H18" stroke="currentColor" stroke-width="1.600" />
        }
        @case ('likely') {
          <path d="M2 4 H18 M2 8 H18" stroke="currentColor" stroke-width="1.600" stroke-dasharray="3 2" />
        }
        @case ('taken') {
          <path d="M5 6.200 L8.600 9.600 L15.500 2.400" fill="none" stroke="currentColor" stroke-width="2.200" />
        }
        @case ('filed') {
          <path d="M2 1 H18 M6 1 L10 10 L14 1" fill="none" stroke="currentColor" stroke-width="1.800" />
        }
        @case ('left') {
          <circle cx="10" cy="6" r="4.500" fill="none" stroke="currentColor" stroke-width="1.600" />
        }
        @case ('gone') {
          <circle
            cx="10"
            cy="6"
            r="4.500"
            fill="none"
            stroke="currentColor"
            stroke-width="1.600"
            stroke-dasharray="2.400 2.300"
          />
        }
        @case ('aside') {
          <path d="M3 6 H17 M13 2.500 L17 6 L13 9.500" fill="none" stroke="currentColor" stroke-width="1.600" />
        }
        @case ('trouble') {
          <path d="M5.500 1.500 L14.500 10.500 M14.500 1.500 L5.500 10.500" stroke="currentColor" stroke-width="2" />
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
      contain: strict;
    }
    :host(.left),
    :host(.gone),
    :host(.aside) {
      border-color: transparent;
    }
    :host(.trouble) {
      border-color: var(--trouble);
    }
    :host(.gone) ts-picture,
    :host(.aside) ts-picture,
    :host(.left) ts-picture {
      filter: grayscale(0.85) opacity(0.45);
    }
    :host(.already) {
      border-color: var(--line);
    }
    :host(.likely) {
      border-color: var(--line);
      border-style: dashed;
    }
    :host(.likely) ts-picture {
      filter: grayscale(0.6) opacity(0.75);
    }
    :host(.already) ts-picture {
      filter: grayscale(1) opacity(0.6);
    }
    :host(.chosen) {
      border: 4px solid var(--reed);
    }
    :host(.chosen)::after {
      content: '';
      position: absolute;
      inset: 0;
      background: var(--reed);
      opacity: 0.22;
    }
    :host(.focus) {
      outline: 4px solid var(--reed);
      outline-offset: -3px;
      z-index: 1;
    }
    .mark {
      position: absolute;
      left: 0;
      bottom: 0;
      width: 26px;
      height: 18px;
      padding: 3px;
      border-top-right-radius: 5px;
      background: var(--sheet);
      color: var(--ink);
    }
    :host(.taken) .mark {
      background: var(--reed);
      color: var(--on-reed);
    }
    :host(.trouble) .mark {
      background: var(--trouble);
      color: #fff;
    }
    .badge,
    .odd,
    .verdict {
      position: absolute;
      top: 4px;
      right: 4px;
      padding: 0 6px;
      border-radius: 3px;
      background: rgba(15, 22, 19, 0.86);
      color: #fff;
      font: 600 12px/18px var(--font-text);
    }
    .badge {
      max-width: calc(100% - 8px);
      box-sizing: border-box;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .odd {
      right: auto;
      left: 4px;
      background: var(--straw);
      color: var(--ochre);
    }
    .verdict {
      top: auto;
      right: 4px;
      bottom: 12px;
      max-width: 90%;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      background: var(--paper);
      color: var(--ink);
      font-family: var(--font-text);
    }
    .never {
      position: absolute;
      left: 0;
      right: 0;
      top: 38%;
      padding: 1px 6px;
      border-block: 2px solid var(--trouble);
      background: var(--paper);
      color: var(--trouble);
      font: 700 12px/18px var(--font-text);
      text-align: center;
      overflow: hidden;
      white-space: nowrap;
      text-overflow: ellipsis;
    }
    .sharp {
      position: absolute;
      left: 30px;
      bottom: 4px;
      width: 30px;
      height: 5px;
      border: 1px solid rgba(15, 22, 19, 0.86);
      background: var(--paper);
    }
    .sharp i {
      display: block;
      height: 100%;
      background: var(--quiet);
    }
    .sharp.best i {
      background: var(--reed);
    }
    .sharp.best {
      height: 8px;
    }
  `,
  host: {
    role: 'option',
    '[class]': 'state()',
    '[attr.title]': 'title()',
    '[attr.aria-selected]': 'tile().lead.taken',
    '[attr.aria-label]': 'words()',
  },
})
export class SheetTile {
  readonly tile = input.required<Tile>();
  readonly standing = input<Standing>(ORDINARY);
  /** Is the sheet being rushed through? */
  readonly hurried = input(false);
  /** Where its card is. */
  readonly tray = input<Tray>('on the desk');

  protected readonly stands = computed(() => standingOfItem(this.tile().lead, { tray: this.tray() }));
  protected readonly state = computed(() => LOOKS[this.stands()]);

  /** Where it stands and what may be done with it, for whoever stays over it. */
  protected readonly title = computed(() => {
    const stands = standingInWords(this.tile().lead, { tray: this.tray() });
    return [`${nameOf(this.tile().lead)}: ${stands}`, this.standing().terms?.words].filter(Boolean).join('\n');
  });

  protected readonly badge = computed(() => {
    const { lead } = this.tile();
    const ms = lead.kind === 'video' || lead.kind === 'sound' ? lengthOf(this.tile()) : 0;
    return [ms ? formatDuration(ms) : '', this.parts()].filter(Boolean).join(' · ');
  });

  /** Why it must not be shown: marked across, so that nobody takes it for a picture like others. */
  protected readonly never = computed(() => {
    const { terms } = this.standing();
    return notToBeShown(this.tile().lead.credit?.pictured ?? []) ?? (terms?.mark === 'no' && terms.own ? terms.words : null);
  });

  /** What it is made of, where it is more than one file. */
  private readonly parts = computed(() => {
    const all = objectOf(this.tile());
    return all.length > 1 || all[0]!.objectRole === 'index' ? partsInWords(all) : '';
  });

  /** What a person should look at before filing. */
  protected readonly odd = computed(() => {
    const { problem, remark, captured, twinOf, namesake } = this.tile().lead;
    if (problem ?? remark) return problem ?? remark;
    const broken = this.tile().companions.find((one) => one.problem ?? one.remark);
    if (broken) return `${nameOf(broken)}: ${broken.problem ?? broken.remark}`;
    if (captured.doubt === 'camera epoch' || captured.doubt === 'in the future') return doubtInWords(captured.doubt);
    if (this.standing().foreign) return 'taken with somebody else’s camera';
    if (twinOf) return `the same bytes as ${twinOf}`;
    return namesake ? `not a duplicate: another picture had this name and was filed as ${namesake}` : null;
  });

  protected readonly words = computed(() => {
    const { lead } = this.tile();
    const state = standingInWords(lead, { tray: this.tray() });
    const company = this.parts();
    const doubt = lead.captured.doubt && doubtInWords(lead.captured.doubt);
    const odd = [...new Set([this.odd(), doubt])].filter(Boolean).join(', ');
    const { sharp, belongs, terms } = this.standing();
    const frames = sharp?.best ? 'sharpest of similar frames' : '';
    return [
      nameOf(lead),
      lead.kind,
      lead.captured.local.replace('T', ' '),
      company,
      state,
      lead.verdict,
      belongs,
      frames,
      this.never() === terms?.words ? null : this.never(),
      terms?.words,
      odd,
    ]
      .filter(Boolean)
      .join(', ');
  });
}

export const standingOf = (
  sharp: { sharpness: number | null; best: boolean } | null,
  belongs: string | null,
  foreign: boolean,
  terms: Standing['terms'] = null,
): Standing => ({
  sharp: sharp && { bar: sharpnessBar(sharp.sharpness ?? 0), best: sharp.best },
  belongs,
  foreign,
  terms,
});
