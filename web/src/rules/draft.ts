import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { RevisionView, RuleMaterial, RuleText } from '@tally/contract';
import { itemContexts } from '@tally/core/plan';
import {
  cardLineOf,
  EXAMPLE,
  parseLine,
  parseRule,
  settingsOf,
  writeLine,
  type AsOnCard,
  type OwnLinesKind,
  type ParsedLine,
  type Piece,
  type RuleContext,
  type RuleSettings,
  type Starter,
} from '@tally/core/rule';
import { firstValueFrom } from 'rxjs';
import { SessionService } from '../api/session.service';
import { RulesService } from '../api/rules.service';
import { TrialRunner } from './trial-runner';
import { slipFor, type Tried } from './trying';

export type LineName = 'folderLine' | 'fileLine' | 'cardLine';

/** The rule that is being written, what it is tried on, and what came of it. */
@Injectable()
export class Draft {
  private readonly rules = inject(RulesService);
  private readonly runner = inject(TrialRunner);
  private readonly session = inject(SessionService);

  readonly revisions = signal<readonly RevisionView[] | null>(null);
  readonly material = signal<RuleMaterial | null>(null);
  readonly rule = signal<RuleText>({ folderLine: '', fileLine: '' });
  /** Whose lines are edited; null: the general ones. */
  readonly kind = signal<OwnLinesKind | null>(null);
  /** The revision that names are compared with. */
  readonly comparedWith = signal<number | null>(null);
  readonly tried = signal<Tried | null>(null);
  /** The item whose values are shown. */
  readonly shownItem = signal<number | null>(null);
  private readonly past = signal<readonly RuleText[]>([]);
  /** The line that is being typed into. */
  private typing: string | null = null;

  readonly current = computed(() => this.revisions()?.[0] ?? null);
  readonly isChanged = computed(() => {
    const current = this.current();
    return current !== null && textOf(current.rule) !== textOf(this.rule());
  });
  /** The revision that names are compared with, when it is another rule than the one being written. */
  readonly other = computed(() => {
    const other = this.revisions()?.find(({ revision }) => revision === this.comparedWith());
    return other && textOf(other.rule) !== textOf(this.rule()) ? other : null;
  });
  /** What keeps the rule from being read: a line of any kind, or a setting. */
  readonly fault = computed(() => {
    const parsed = parseRule(this.rule());
    return parsed.ok ? null : parsed;
  });
  readonly canUndo = computed(() => this.past().length > 0);
  readonly settings = computed(() => settingsOf(this.rule().settings));
  readonly lines = computed(() => {
    const { folderLine, fileLine, kinds } = this.rule();
    const kind = this.kind();
    const own = kind === null ? undefined : kinds?.[kind];
    return {
      folderLine: own?.folderLine ?? folderLine,
      fileLine: own?.fileLine ?? fileLine,
      cardLine: cardLineOf(folderLine, this.settings()),
    };
  });
  readonly parsed = computed(() => ({
    folderLine: parseLine(this.lines().folderLine),
    fileLine: parseLine(this.lines().fileLine),
    cardLine: parseLine(this.lines().cardLine),
  }));
  /** The item that fields are shown with: the chosen one, else the first, else the example. */
  readonly context = computed<RuleContext>(() => {
    const material = this.material();
    if (!material) return EXAMPLE;
    const items = material.items.map((item) => ({ ...item, taken: true, alreadyFiled: null }));
    const chosen = items.find(({ id }) => id === this.shownItem());
    const some = chosen ? items.filter(({ leader }) => leader === chosen.leader) : items;
    const [context] = itemContexts(some, slipFor(material));
    return context ? { ...context, n: 1 } : EXAMPLE;
  });

  constructor() {
    this.runner.outcomes.pipe(takeUntilDestroyed()).subscribe((outcome) => {
      // While a line cannot be read, the last rule that could stays in sight.
      if (outcome.ok) this.tried.set(outcome.tried);
    });
    effect(() => {
      const material = this.material();
      if (material) untracked(() => this.runner.use(material));
    });
    effect(() => {
      const rule = this.rule();
      const other = this.other();
      if (this.material()) untracked(() => this.runner.try(rule, other?.rule ?? null));
    });
  }

  async open(): Promise<void> {
    const [revisions, material] = await Promise.all([
      firstValueFrom(this.rules.revisions()),
      firstValueFrom(this.rules.material(null)),
    ]);
    this.revisions.set(revisions);
    this.comparedWith.set(revisions[0]?.revision ?? null);
    if (revisions[0]) this.rule.set(revisions[0].rule);
    this.material.set(material);
  }

  async tryOn(intakeId: number): Promise<void> {
    this.shownItem.set(null);
    this.material.set(await firstValueFrom(this.rules.material(intakeId)));
  }

  async save(note: string): Promise<number> {
    const from = this.current()?.revision ?? 1;
    const revision = await firstValueFrom(this.rules.save({ rule: this.rule(), note, from }));
    this.revisions.set(await firstValueFrom(this.rules.revisions()));
    this.comparedWith.set(revision);
    this.past.set([]);
    this.session.refresh();
    return revision;
  }

  /** @param typed by key: then all that is typed into one line in a row is undone in one step. */
  setLine(line: LineName, text: string, typed = false): void {
    const kind = this.kind();
    const rule = this.rule();
    if (text === this.lines()[line]) return;
    const next =
      line === 'cardLine'
        ? { ...rule, settings: { ...rule.settings, asOnCard: { ...rule.settings?.asOnCard, folderLine: text } } }
        : kind === null
          ? { ...rule, [line]: text }
          : { ...rule, kinds: { ...rule.kinds, [kind]: { ...rule.kinds?.[kind], [line]: text } } };
    this.change(next, typed ? `${kind ?? ''} ${line}` : null);
  }

  /** Puts a piece into a line: before the piece at `at`, or at its end; at the end of one that cannot be read. */
  insert(line: LineName, source: string, at = Infinity): void {
    if (!this.parsed()[line].ok) {
      this.setLine(line, this.lines()[line] + source);
      return;
    }
    this.edit(line, (pieces) => {
      const parsed = parseLine(source);
      return parsed.ok ? [...pieces.slice(0, at), ...parsed.pieces, ...pieces.slice(at)] : pieces;
    });
  }

  move(line: LineName, from: number, to: number): void {
    this.edit(line, (pieces) => {
      const rest = pieces.filter((_, index) => index !== from);
      return [...rest.slice(0, to), pieces[from]!, ...rest.slice(to)];
    });
  }

  /** Replaces the piece at a place by what a source says; '' removes it. */
  replace(line: LineName, at: number, source: string): void {
    this.edit(line, (pieces) => {
      const parsed = parseLine(source);
      return parsed.ok ? [...pieces.slice(0, at), ...parsed.pieces, ...pieces.slice(at + 1)] : pieces;
    });
  }

  setSettings(change: Partial<RuleSettings>): void {
    this.change({ ...this.rule(), settings: { ...this.rule().settings, ...change } });
  }

  setAsOnCard(change: Partial<AsOnCard>): void {
    this.setSettings({ asOnCard: { ...this.settings().asOnCard, ...change } });
  }

  /** Lets a kind follow the general lines again. */
  dropKind(kind: OwnLinesKind): void {
    const { [kind]: _gone, ...kinds } = this.rule().kinds ?? {};
    this.change({ ...this.rule(), kinds });
  }

  begin(starter: Starter): void {
    this.kind.set(null);
    this.change(starter.rule);
  }

  take(rule: RuleText): void {
    this.kind.set(null);
    this.change(rule);
  }

  undo(): void {
    const past = this.past();
    const last = past.at(-1);
    if (!last) return;
    this.typing = null;
    this.past.set(past.slice(0, -1));
    this.rule.set(last);
  }

  private edit(line: LineName, change: (pieces: readonly Piece[]) => readonly Piece[]): void {
    const parsed: ParsedLine = this.parsed()[line];
    if (parsed.ok) this.setLine(line, writeLine(change(parsed.pieces)));
  }

  private change(rule: RuleText, typing: string | null = null): void {
    if (typing === null || typing !== this.typing) this.past.update((past) => [...past.slice(-99), this.rule()]);
    this.typing = typing;
    this.rule.set(rule);
  }
}

/** The same text for the same rule, whatever is said or left to the defaults, in whatever order. */
function textOf({ folderLine, fileLine, kinds, settings }: RuleText): string {
  return JSON.stringify(inOrder([folderLine, fileLine, kinds ?? {}, settingsOf(settings)]));
}

function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder);
  if (typeof value !== 'object' || value === null) return value;
  return Object.entries(value)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([key, one]) => [key, inOrder(one)]);
}
