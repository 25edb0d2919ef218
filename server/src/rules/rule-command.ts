import { EXIT, jsonLine, print, say, table, WrongUse } from '../cli/output.js';
import { NewRevision, RuleFile, type RuleText } from '@tally/contract';
import { EMPTY_DRIVE, itemContexts, makePlan, type PlanSlip } from '@tally/core/plan';
import {
  datedByCopying,
  EXAMPLE,
  type HouseRule,
  judgeRule,
  NEEDED_VERDICTS,
  parseRule,
  readPath,
  renamesToCsv,
  renamesToTsv,
  type RuleContext,
  type RuleSource,
  STARTERS,
} from '@tally/core/rule';
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { revisions, saveRule } from './rules.js';
import { currentRule, knownValues, ruleOfRevision } from './store.js';
import { type House, houseTime } from '../house/index.js';
import { planItemsOf, type ReadLine } from '../slip/index.js';
import { slipOf } from '../people/index.js';

/** Which rule: lines given here, a file, a starter, a revision; else the house rule. */
export interface WhichRule {
  readonly folderLine?: string;
  readonly fileLine?: string;
  readonly file?: string;
  readonly starter?: string;
  readonly revision?: string;
  readonly json?: boolean;
}

/** Can this rule be had without the house's database? */
export const isSaid = ({ folderLine, fileLine, file, starter }: WhichRule): boolean =>
  [folderLine, fileLine, file, starter].some((option) => option !== undefined);

/** @throws WrongUse when there is no such rule. */
export async function sourceOf(which: WhichRule, house: House | null): Promise<RuleSource> {
  if (which.file !== undefined) return withLines(await ruleInFile(which.file), which);
  if (which.starter !== undefined) {
    const starter = STARTERS.find(({ id }) => id === which.starter);
    if (!starter)
      throw new WrongUse(`There is no starter ${which.starter}: there are ${STARTERS.map(({ id }) => id).join(', ')}.`);
    return withLines(starter.rule, which);
  }
  if (which.folderLine !== undefined && which.fileLine !== undefined) {
    return { folderLine: which.folderLine, fileLine: which.fileLine };
  }
  if (!house) throw new WrongUse('Say both --folder-line and --file-line, or --file, --starter or --revision.');
  const { db } = house;
  const revision = which.revision === undefined ? await currentRule(db) : await ruleOfRevision(db, Number(which.revision) || 0);
  if (!revision) throw new WrongUse(`There is no revision ${which.revision}.`);
  return withLines(revision.rule, which);
}

const withLines = (rule: RuleSource, { folderLine, fileLine }: WhichRule): RuleSource => ({
  ...rule,
  folderLine: folderLine ?? rule.folderLine,
  fileLine: fileLine ?? rule.fileLine,
});

async function ruleInFile(path: string): Promise<RuleText> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new WrongUse(`${path} cannot be read.`);
  });
  try {
    return RuleFile.parse(JSON.parse(text)).rule;
  } catch (error) {
    throw new WrongUse(`${path} is not a house rule as Tally Stick writes it: ${(error as Error).message}`);
  }
}

/** A rule ready for use. @throws WrongUse with a mark under the place that is wrong. */
function ready(source: RuleSource): HouseRule {
  const parsed = parseRule(source);
  if (parsed.ok) return parsed.rule;
  const { line, kind, error } = parsed;
  if (line === 'settings') throw new WrongUse(error.message);
  const own = kind === null ? undefined : source.kinds?.[kind];
  const text = line === 'folder' ? (own?.folderLine ?? source.folderLine) : (own?.fileLine ?? source.fileLine);
  const mark = `${' '.repeat(error.span.from)}${'^'.repeat(Math.max(1, error.span.to - error.span.from))}`;
  throw new WrongUse(`${error.message}\n  ${text}\n  ${mark}`);
}

/** `tally rule check`: the five verdicts. */
export async function ruleCheckCommand(
  which: WhichRule & { card?: string },
  house: House | null,
  read: (folder: string) => AsyncIterable<ReadLine>,
): Promise<number> {
  const rule = ready(await sourceOf(which, house));
  const known = house ? await knownValues(house.db) : undefined;
  const items = which.card === undefined ? [] : await contextsOf(which.card, read);
  const sharePrefix = house?.settings.sharePrefix ?? '';
  const verdicts = judgeRule(rule, { items, sharePrefix, ...(known ? { known } : {}) });
  if (which.json) verdicts.forEach(jsonLine);
  else {
    for (const { name, outcome, because, counterexample } of verdicts) {
      say(`${name}: ${outcome}. ${because}`);
      for (const { of, path } of counterexample) say(`    ${of}\n      → ${path}`);
    }
  }
  if (!which.json && datedByCopying(rule)) {
    say('Names say when a card was handed in or filed, not when its pictures were taken.');
  }
  const bad = verdicts.some(({ name, outcome }) => outcome === 'fails' && NEEDED_VERDICTS.includes(name));
  return bad ? EXIT.attention : EXIT.done;
}

async function contextsOf(folder: string, read: (folder: string) => AsyncIterable<ReadLine>): Promise<RuleContext[]> {
  const lines: ReadLine[] = [];
  for await (const line of read(folder)) lines.push(line);
  return itemContexts(planItemsOf(lines), exampleSlip(folder));
}

const exampleSlip = (folder: string): PlanSlip => ({
  contributor: EXAMPLE.contributor,
  assignment: EXAMPLE.assignment,
  cardLabel: basename(folder),
  received: EXAMPLE.received,
  filed: EXAMPLE.filed,
  intake: null,
});

/** `tally rule render FOLDER`: old → new, as a table, CSV or tab-separated text. Looks at no drive and draws no numbers. */
export async function ruleRenderCommand(
  folder: string,
  which: WhichRule & { contributor?: string; assignment?: string; csv?: boolean; tsv?: boolean },
  house: House | null,
  read: (folder: string) => AsyncIterable<ReadLine>,
): Promise<number> {
  const rule = ready(await sourceOf(which, house));
  const lines: ReadLine[] = [];
  for await (const line of read(folder)) lines.push(line);
  const plan = makePlan(planItemsOf(lines), await slipFor(folder, which, house), rule, EMPTY_DRIVE);
  const rows = plan.placements.map(({ from, folder: to, name }) => ({ from, to: to ? `${to}/${name}` : name }));
  if (which.json) rows.forEach(jsonLine);
  else if (which.csv) print(renamesToCsv(rows));
  else if (which.tsv) say(renamesToTsv(rows));
  else
    table(
      ['old', 'new'],
      rows.map((row) => [row.from, row.to]),
    );
  return plan.clashes.length || plan.unsaid.length ? EXIT.attention : EXIT.done;
}

async function slipFor(
  folder: string,
  { contributor, assignment }: { contributor?: string; assignment?: string },
  house: House | null,
): Promise<PlanSlip> {
  const slip = exampleSlip(folder);
  if (contributor === undefined && assignment === undefined) return slip;
  if (!house || contributor === undefined || assignment === undefined) {
    throw new WrongUse('Say --contributor and --assignment, or neither to see an example.');
  }
  const now = houseTime(house, house.clock());
  return { ...slip, ...(await slipOf(house, { contributor, assignment })), received: now, filed: now };
}

/** `tally rule read PATH…`: the fields in names on the drive. */
export async function ruleReadCommand(paths: readonly string[], which: WhichRule, house: House | null): Promise<number> {
  const rule = ready(await sourceOf(which, house));
  let unclear = false;
  for (const path of paths) {
    const readings = readPath(rule, path.normalize('NFC'), 4);
    unclear ||= readings.length !== 1;
    if (which.json) {
      jsonLine({ path, readings: readings.map(({ fields }) => fields) });
      continue;
    }
    const count = readings.length === 0 ? 'not a name of this rule' : readings.length > 1 ? `${readings.length} readings` : '';
    say(`${path}${count ? `: ${count}` : ''}`);
    for (const [index, { fields }] of readings.entries()) {
      if (index) say('  or');
      for (const { name, format, text } of fields) say(`  ${name}${format === null ? '' : `:${format}`} = ${text}`);
    }
  }
  return unclear ? EXIT.attention : EXIT.done;
}

/** `tally rule list`: every revision, or every starter. */
export async function ruleListCommand(options: { starters?: boolean; json?: boolean }, house: House | null): Promise<number> {
  if (options.starters || !house) {
    if (options.json) STARTERS.forEach(jsonLine);
    else
      table(
        ['starter', 'folder line', 'file line'],
        STARTERS.map(({ id, rule }) => [id, rule.folderLine, rule.fileLine]),
      );
    return EXIT.done;
  }
  const all = await revisions(house.db);
  if (options.json) all.forEach(jsonLine);
  else {
    table(
      ['revision', 'since', 'by', 'folder line', 'file line', 'intakes', 'note'],
      all.map((one) => [
        one.revision,
        one.at.slice(0, 10),
        one.who,
        one.rule.folderLine,
        one.rule.fileLine,
        one.intakes,
        one.note,
      ]),
    );
  }
  return EXIT.done;
}

/** `tally rule save`: makes a rule the house rule, as a new revision. */
export async function ruleSaveCommand(which: WhichRule & { note: string }, house: House): Promise<number> {
  const rule = await sourceOf(which, house);
  ready(rule);
  const { revision: from } = await currentRule(house.db);
  const revision = await saveRule(house, NewRevision.parse({ rule, note: which.note, from }), 'command line');
  say(`Revision ${revision} is the house rule now.`);
  return EXIT.done;
}

/** `tally rule export`: a rule as a file that another house can read. */
export async function ruleExportCommand(which: WhichRule, house: House | null): Promise<number> {
  const rule = await sourceOf(which, house);
  ready(rule);
  say(JSON.stringify({ format: 'tally-stick-house-rule', version: 1, rule, note: '' }, null, 2));
  return EXIT.done;
}
