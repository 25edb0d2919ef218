import { computed, inject, Injectable, signal } from '@angular/core';
import type { BelongChange, ClockChange, ItemView, JudgeChange } from '@tally/contract';
import { shiftTime } from '@tally/core/capture';
import { whyNotTaken } from '@tally/core/life';
import type { Observable } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { IntakesService } from '../api/intakes.service';
import { SessionService } from '../api/session.service';
import { credited, type CreditSaid, NO_CREDIT, seenOf, wayBack } from './credit-change';
import { SheetSource } from './sheet-source';
import { bodyKey, isChangeable, isOpen, membersOf, nameOf, type Tile } from './tiles';

/** Something done, and how to undo it. */
interface Step {
  readonly words: string;
  readonly back: () => void;
  readonly again: () => void;
  /** Can it still be undone (or done again), as things stand now? */
  readonly stands: () => boolean;
}

const ALWAYS = () => true;

type Judged = Omit<JudgeChange, 'itemIds'>;

type Names = Readonly<{
  contributor?: ItemView['contributor'];
  assignment?: ItemView['assignment'];
}>;

/** What a person does to items: seen at once, kept on the server, and each of it can be undone. */
@Injectable()
export class Acts {
  private readonly store = inject(SheetSource);
  private readonly service = inject(IntakesService);
  private readonly crediting = inject(CreditService);
  private readonly session = inject(SessionService);
  private readonly done = signal<readonly Step[]>([]);
  private readonly undone = signal<readonly Step[]>([]);

  // What the world has moved past is not offered: filed since, gone with a clearing, given back.
  private readonly lastDone = computed(() => this.done().findLast((step) => step.stands()));
  private readonly lastUndone = computed(() => this.undone().findLast((step) => step.stands()));
  readonly undoWords = computed(() => this.lastDone()?.words ?? null);
  readonly redoWords = computed(() => this.lastUndone()?.words ?? null);

  /** Takes or leaves what can still be; companions go together. */
  take(tiles: readonly Tile[], taken: boolean): void {
    const step = this.taking(tiles, taken);
    if (step) this.remember(step);
  }

  /** Takes or leaves. @returns the way back; null when there was nothing to do. */
  private taking(tiles: readonly Tile[], taken: boolean): Step | null {
    const why = this.whyNot(tiles, taken);
    if (why !== null) this.store.warn(why);
    const items = why === null ? tiles.filter(isChangeable).flatMap(membersOf) : [];
    const ids = items.filter((item) => item.taken !== taken || item.aside !== null).map((item) => item.id);
    if (!ids.length) return null;
    const set = (to: boolean) =>
      this.send(ids, (item) => ({ ...item, taken: to, aside: null }), this.service.take(this.store.id, ids, to), true);
    set(taken);
    return {
      words: `${taken ? 'take' : 'leave'} ${ids.length}`,
      back: () => set(!taken),
      again: () => set(taken),
      stands: this.stillOpen(ids),
    };
  }

  /** Takes what is left and leaves what is taken. */
  reverse(tiles: readonly Tile[]): void {
    const open = tiles.filter(isChangeable);
    const taken = open.filter(({ lead }) => lead.taken);
    const left = open.filter(({ lead }) => !lead.taken);
    const steps = [this.taking(taken, false), this.taking(left, true)].filter((step) => step !== null);
    if (!steps.length) return;
    this.remember({
      words: 'reverse',
      back: () => steps.forEach((step) => step.back()),
      again: () => steps.forEach((step) => step.again()),
      stands: () => steps.every((step) => step.stands()),
    });
  }

  /** Says what one thinks of items. */
  judge(tiles: readonly Tile[], change: Judged, words: string): void {
    this.judgeEach(tiles, () => change, words);
  }

  /** The same where it differs from item to item: as few requests as there are different changes, one step to undo. */
  private judgeEach(tiles: readonly Tile[], changeOf: (item: ItemView) => Judged, words: string): void {
    const items = tiles.map((tile) => tile.lead);
    const [first] = items;
    // Keys reach whoever only looks, too.
    if (!first || (this.session.session() && !this.session.may('file'))) return;
    const change = changeOf(first);
    const before = (item: ItemView): Judged =>
      Object.fromEntries(Object.keys(change).map((key) => [key, item[key as keyof ItemView]]));
    const set = (some: readonly ItemView[], to: Judged) => {
      const itemIds = some.map((item) => item.id);
      // A rule may speak of these.
      const plans = 'description' in to || 'role' in to || 'profile' in to;
      this.send(itemIds, (item) => ({ ...item, ...to }), this.store.judge({ ...to, itemIds }), plans);
    };
    const groups = groupBy(items, (item) => JSON.stringify([before(item), changeOf(item)]));
    const all = groupBy(items, (item) => JSON.stringify(changeOf(item)));
    const again = () => all.forEach((group) => set(group, changeOf(group[0]!)));
    again();
    this.remember({ words, back: () => groups.forEach((group) => set(group, before(group[0]!))), again, stands: ALWAYS });
  }

  /** A verdict said again is taken back. */
  verdict(tiles: readonly Tile[], verdict: NonNullable<ItemView['verdict']>): void {
    const all = tiles.length > 0 && tiles.every(({ lead }) => lead.verdict === verdict);
    this.judge(tiles, { verdict: all ? null : verdict }, all ? `no ${verdict}` : verdict);
  }

  turn(tiles: readonly Tile[], quarters: 1 | 3): void {
    this.judgeEach(tiles, ({ turned }) => ({ turned: (turned + quarters) % 4 }), 'turn');
  }

  /** Gives items to another assignment or contributor. */
  split(tiles: readonly Tile[], change: Names, words: string): void {
    const open = tiles.filter(isOpen).flatMap(membersOf);
    if (!open.length) return;
    const set = (items: readonly ItemView[], to: Names, was: readonly ItemView[]) => {
      const itemIds = items.map((item) => item.id);
      const body: BelongChange = {
        itemIds,
        ...(to.contributor !== undefined ? { contributorId: to.contributor?.id ?? null } : {}),
        ...(to.assignment !== undefined ? { assignmentId: to.assignment?.id ?? null } : {}),
        wasAssignmentIds: [...new Set(was.map((item) => item.assignment?.id ?? null))],
      };
      this.send(itemIds, (item) => ({ ...item, ...to }), this.service.belongs(this.store.id, body), true);
    };
    const after = open.map((item) => ({ ...item, ...change }));
    const groups = groupBy(open, (item) => `${item.assignment?.id} ${item.contributor?.id}`);
    set(open, change, open);
    this.remember({
      words,
      back: () =>
        groups.forEach((group) => set(group, { contributor: group[0]!.contributor, assignment: group[0]!.assignment }, after)),
      again: () => set(open, change, open),
      stands: this.stillOpen(open.map((item) => item.id)),
    });
  }

  /** Moves the times of one camera's items. */
  correct(change: ClockChange, words: string): void {
    const mine = this.store.tiles().filter((tile) => isOpen(tile) && bodyKey(tile.lead) === bodyKey(change));
    const items = mine.flatMap(membersOf);
    if (!items.length) return;
    const before = items[0]!.captured.shiftSeconds;
    const set = (seconds: number) => {
      const shift = { ...change.shift, seconds };
      const move = (item: ItemView): ItemView => {
        const { local } = shiftTime({ local: item.captured.camera, offsetMinutes: null }, shift);
        return { ...item, captured: { ...item.captured, local, shiftSeconds: seconds, doubt: null } };
      };
      this.send(
        items.map((item) => item.id),
        move,
        this.service.clock(this.store.id, { ...change, shift }),
        true,
      );
    };
    set(change.shift.seconds);
    const stands = this.stillOpen(items.map((item) => item.id));
    this.remember({ words, back: () => set(before), again: () => set(change.shift.seconds), stands });
  }

  /** Says credit, words, location or who is shown, of items; companions go together. */
  credit(tiles: readonly Tile[], change: CreditSaid, words: string): void {
    const items = tiles.flatMap(membersOf);
    if (!items.length) return;
    const ids = items.map((item) => item.id);
    const before = new Map(items.map((item) => [item.id, item.credit ?? NO_CREDIT]));
    const send = (some: readonly number[], said: CreditSaid) => {
      const chosen = new Set(some);
      const seen = this.store.material().filter((item) => chosen.has(item.id));
      const body = { ...said, itemIds: [...some], was: seenOf(seen, said) };
      this.send(some, (item) => ({ ...item, credit: credited(item.credit ?? NO_CREDIT, said) }), this.crediting.change(body));
    };
    send(ids, change);
    const back = () => {
      const now = this.store.material().filter((item) => before.has(item.id));
      const ways = now.map((item) => ({ id: item.id, way: wayBack(item.credit ?? NO_CREDIT, before.get(item.id)!) }));
      for (const group of groupBy(ways, ({ way }) => JSON.stringify(way)))
        if (Object.keys(group[0]!.way).length)
          send(
            group.map(({ id }) => id),
            group[0]!.way,
          );
    };
    this.remember({ words, back, again: () => send(ids, change), stands: ALWAYS });
  }

  /** Says who took items, filed or not (null: whom the slip says): names on the drive stay as they are. */
  takenBy(tiles: readonly Tile[], contributor: ItemView['contributor']): void {
    const items = tiles.flatMap(membersOf);
    if (!items.length) return;
    const set = (some: readonly ItemView[], to: ItemView['contributor']) => {
      const itemIds = some.map((item) => item.id);
      const request = this.crediting.change({ itemIds, contributorId: to?.id ?? null });
      this.send(itemIds, (item) => ({ ...item, contributor: to }), request, true);
    };
    const groups = groupBy(items, (item) => String(item.contributor?.id));
    set(items, contributor);
    this.remember({
      words: 'who took it',
      back: () => groups.forEach((group) => set(group, group[0]!.contributor)),
      again: () => set(items, contributor),
      stands: ALWAYS,
    });
  }

  undo(): void {
    const step = this.lastDone();
    if (!step) return;
    step.back();
    this.done.update((steps) => steps.filter((one) => one !== step));
    this.undone.update((steps) => [...steps, step]);
  }

  redo(): void {
    const step = this.lastUndone();
    if (!step) return;
    step.again();
    this.undone.update((steps) => steps.filter((one) => one !== step));
    this.done.update((steps) => [...steps, step]);
  }

  /** Why nothing of these can be taken or left now; null when something can, or nothing is to be said. */
  private whyNot(tiles: readonly Tile[], taken: boolean): string | null {
    const intake = this.store.intake();
    if (!intake || !tiles.length) return null;
    if (intake.state === 'filing')
      return 'This card is being filed: what is taken and what is left stands until its copies tally.';
    if (tiles.some(isChangeable) && intake.tray !== 'out') return null;
    const [first] = tiles;
    const why = first && whyNotTaken(first.lead, intake);
    return why === null || why === undefined ? null : `${nameOf(first!.lead)} cannot be ${taken ? 'taken' : 'left'}: ${why}.`;
  }

  /** Can all of these still be changed, as they stand on the sheet now? */
  private stillOpen(ids: readonly number[]): () => boolean {
    const mine = new Set(ids);
    return () => {
      const intake = this.store.intake();
      if (!intake || intake.state === 'filing' || intake.tray === 'out') return false;
      return this.store.material().every((item) => !mine.has(item.id) || (item.filedAs === null && item.goneAt === null));
    };
  }

  private remember(step: Step): void {
    this.done.update((steps) => [...steps.slice(-199), step]);
    this.undone.set([]);
  }

  /** Shows a change at once; the server follows, one change after the other, and puts it right if it refuses. */
  private send(ids: readonly number[], change: (item: ItemView) => ItemView, request: Observable<unknown>, plans = false): void {
    this.store.change(ids, change, request, plans);
  }
}

function groupBy<T>(items: readonly T[], key: (item: T) => string): T[][] {
  const groups = new Map<string, T[]>();
  for (const item of items) groups.set(key(item), [...(groups.get(key(item)) ?? []), item]);
  return [...groups.values()];
}
