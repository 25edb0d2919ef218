import { fieldsOf } from './line.js';
import type { RuleContext } from './fields.js';
import { hasSequence, linesFor, type HouseRule } from './house-rule.js';
import { foldName } from './legal-name.js';
import { newNotes, renderFileName, renderFolder, type WrittenField } from './render.js';
import { sequenceScope } from './sequence.js';

/** An item under a rule, before any clash is resolved. */
export interface Named {
  readonly context: RuleContext;
  readonly folder: string;
  readonly name: string;
  readonly path: string;
  readonly written: readonly WrittenField[];
  readonly cut: boolean;
}

/** Is the number part of every name, also of the first of its name? */
export const alwaysNumbered = (rule: HouseRule, context: Pick<RuleContext, 'kind'>): boolean =>
  fieldsOf(linesFor(rule, context.kind).fileLine).some(({ name, optional }) => name === 'n' && !optional);

/**
 * Names that a rule gives to items, one intake after the other and by capture time within each: as `makePlan` does, but
 * each item on its own and without looking for clashes. What a verdict is tried on.
 */
export function nameItems(rule: HouseRule, contexts: readonly RuleContext[]): Named[] {
  const next = new Map<string, number>();
  return byIntake(contexts).map((context): Named => {
    const notes = newNotes();
    const folder = renderFolder(rule, context, notes);
    const n = hasSequence(linesFor(rule, context.kind)) ? numberOf(rule, context, folder, next) : null;
    const numbered = { ...context, n };
    const name = renderFileName(rule, numbered, '', notes);
    const path = folder ? `${folder}/${name}` : name;
    return { context: numbered, folder, name, path, written: notes.written, cut: notes.cut };
  });
}

function byIntake(contexts: readonly RuleContext[]): RuleContext[] {
  const intakes = new Map<string | null, RuleContext[]>();
  for (const context of contexts) {
    const intake = intakes.get(context.intake);
    if (intake) intake.push(context);
    else intakes.set(context.intake, [context]);
  }
  const byTime = (a: RuleContext, b: RuleContext) => (a.captured < b.captured ? -1 : a.captured > b.captured ? 1 : 0);
  return [...intakes.values()].flatMap((items) => items.sort(byTime));
}

function numberOf(rule: HouseRule, context: RuleContext, folder: string, next: Map<string, number>): number | null {
  const { start } = rule.settings.sequence;
  const scope = sequenceScope(rule, context, folder);
  if (scope !== null) {
    const n = next.get(scope) ?? start;
    next.set(scope, n + 1);
    return n;
  }
  // Numbers that only tell equal names apart: the first goes without one where the line lets it.
  const always = alwaysNumbered(rule, context);
  const bare = `name:${foldName(folder)}/${foldName(renderFileName(rule, { ...context, n: always ? 1 : null }))}`;
  const n = next.get(bare) ?? 1;
  next.set(bare, n + 1);
  return n === 1 && !always ? null : n;
}
