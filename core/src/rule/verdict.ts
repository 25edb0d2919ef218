import { isImagined } from './adversaries.js';
import type { RuleContext } from './fields.js';
import type { Named } from './numbering.js';

export const VERDICTS = ['unique', 'in time order', 'legal everywhere', 'within length', 'reads back'] as const;
export type VerdictName = (typeof VERDICTS)[number];

export interface Verdict {
  readonly name: VerdictName;
  /** `holds` is shown by the parts of the rule; `open`: neither that nor a counterexample was found. */
  readonly outcome: 'holds' | 'fails' | 'open';
  readonly because: string;
  /** When it fails: what shows it, an item or a meaning with the path it has. */
  readonly counterexample: readonly { readonly of: string; readonly path: string }[];
}

/** What is known of the house, for the longest names. */
export interface KnownValues {
  readonly contributors: readonly NonNullable<RuleContext['contributor']>[];
  readonly assignments: readonly NonNullable<RuleContext['assignment']>[];
  readonly cameras: readonly RuleContext['camera'][];
  readonly labels: readonly string[];
}

export interface Trial {
  /** Real items in the order of their numbers. */
  readonly items?: readonly RuleContext[];
  readonly known?: KnownValues;
  /** How the share is called where people open it, such as `\\server\pictures` or `/Volumes/Pictures`. */
  readonly sharePrefix?: string;
}

/** Characters of a path, its end mark left out. Source: Microsoft, "Maximum Path Length Limitation": MAX_PATH is 260 with it. */
export const PATH_CHARS_MAX = 259;

/** Verdicts without which a rule cannot be the house rule: names would be refused or run into each other. */
export const NEEDED_VERDICTS: readonly VerdictName[] = ['unique', 'legal everywhere'];

export const holds = (name: VerdictName, because: string): Verdict => ({ name, outcome: 'holds', because, counterexample: [] });
export const open = (name: VerdictName, because: string): Verdict => ({ name, outcome: 'open', because, counterexample: [] });
export const fails = (name: VerdictName, because: string, ...counterexample: Verdict['counterexample'][number][]): Verdict => ({
  name,
  outcome: 'fails',
  because,
  counterexample,
});

export function describe({ context }: Named): string {
  const who = context.contributor?.code ?? 'nobody';
  const what = `${context.original}, ${context.captured.slice(0, 19).replace('T', ' ')}, ${who}`;
  return isImagined(context) ? `imagined: ${what}` : `${what}, intake ${context.intake ?? 'new'}`;
}

export const shown = (named: Named) => ({ of: describe(named), path: named.path });
