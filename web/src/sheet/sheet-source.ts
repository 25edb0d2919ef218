import type { Signal } from '@angular/core';
import type { IntakeCredit, IntakeSummary, ItemView, JudgeChange, PlanView, SlipChange } from '@tally/contract';
import type { TermsStanding } from '@tally/core/credit';
import type { Observable } from 'rxjs';
import type { Tile } from './tiles';

/**
 * What a sheet shows and a closer look looks at, whoever has it: an intake now, the shelf and bundles later. Provide it
 * beside the sheet (`{ provide: SheetSource, useExisting: … }`).
 */
export abstract class SheetSource {
  abstract readonly id: number;
  /** Is it the shelf? Then nothing is taken or left, a click chooses, and the newest comes first. */
  readonly isShelf: boolean = false;
  abstract readonly loading: Signal<boolean>;
  /** The intake all of it is from; null while that is not known. */
  abstract readonly intake: Signal<IntakeSummary | null>;
  abstract readonly plan: Signal<PlanView | null>;
  /** Everything that can be looked at, and that as tiles with companions together. */
  abstract readonly material: Signal<readonly ItemView[]>;
  abstract readonly tiles: Signal<readonly Tile[]>;
  /** The same a moment later where there are thousands, so that what a person did is on screen before it is summed up. */
  abstract readonly settled: Signal<readonly ItemView[]>;
  abstract readonly settledTiles: Signal<readonly Tile[]>;
  abstract readonly setAside: Signal<readonly ItemView[]>;
  /** Has anybody said that some items belong elsewhere than the slip says? */
  abstract readonly isSplit: Signal<boolean>;
  /** Serial numbers of cameras that are known to be somebody else's than the slip's contributor's. */
  abstract readonly foreignBodies: Signal<ReadonlySet<string>>;
  /** Everything that items get their credit from besides themselves; null while that is not known. */
  abstract readonly credit: Signal<IntakeCredit | null>;

  /** What may be done with an item, where it says so itself and no slip is asked. */
  termsOf(_item: ItemView): TermsStanding | null {
    return null;
  }
  /** Is no place here that has a copy of it? Then only what is kept of its picture can be shown. */
  isAway(_item: ItemView): boolean {
    return false;
  }
  /** Whose run it is and what it was shot for, where no slip says so. */
  headOf(_items: readonly ItemView[]): string | null {
    return null;
  }
  abstract judge(change: JudgeChange): Observable<unknown>;
  /** Tells the person something that they should know. */
  abstract warn(words: string): void;
  abstract say(change: SlipChange): void;
  /**
   * Shows a change of items at once; the server follows and puts it right if it refuses.
   * @param plans whether the change moves anything in the plan.
   */
  abstract change(
    ids: readonly number[],
    change: (item: ItemView) => ItemView,
    request: Observable<unknown>,
    plans: boolean,
  ): void;
}
