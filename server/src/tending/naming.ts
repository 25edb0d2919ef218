import { finding, type Finding, isAside, nameVerdict, rightPath } from '@tally/core/drive';
import { contextOf, type PlanItem } from '@tally/core/plan';
import { folderOf, type HouseRule, parseRule, pathIn } from '@tally/core/rule';
import { type House, houseTime } from '../house/index.js';
import { currentRule, ruleOfRevision } from '../rules/index.js';
import { planMaterial } from '../slip/index.js';
import { forgetFindings, keepFindings, type NewFinding } from './store/findings.js';
import { filedNames, intakesAt } from './store/naming.js';

const TOLD = ['misnamed', 'wrong date', 'parted'] as const;
const AT_A_TIME = 200;

/**
 * Judges the names of everything that is filed at a place, intake by intake: against the rule it was filed under, or, to
 * the letter, against today's. What was adopted follows today's rule only if that is asked for; its dates are compared.
 */
export async function judgeNames(house: House, placeId: string, strict: boolean, signal: AbortSignal): Promise<void> {
  const rules = new Map<number | null, HouseRule | null>();
  const found: NewFinding[] = [];
  for (let after = 0; ;) {
    const intakes = await intakesAt(house.db, after, AT_A_TIME);
    for (const { id, revision, adopted } of intakes) {
      signal.throwIfAborted();
      // What stood there before had no rule of ours: its names are judged when somebody wants all to be of today's.
      const rule = adopted && !strict ? null : await ruleOf(house, rules, strict ? null : revision);
      if (rule)
        for (const one of await namesOfIntake(house, id, placeId, rule, strict))
          found.push({ ...one, folder: folderOf(one.path), files: 1 });
    }
    if (intakes.length < AT_A_TIME) break;
    after = intakes.at(-1)!.id;
  }
  await keepFindings(house.db, placeId, found, house.clock());
  await forgetFindings(house.db, placeId, TOLD, null, found);
}

async function ruleOf(
  house: House,
  known: Map<number | null, HouseRule | null>,
  revision: number | null,
): Promise<HouseRule | null> {
  const kept = known.get(revision);
  if (kept !== undefined) return kept;
  const said = revision === null ? await currentRule(house.db) : await ruleOfRevision(house.db, revision);
  const parsed = said && parseRule(said.rule);
  const rule = parsed?.ok ? parsed.rule : null;
  known.set(revision, rule);
  return rule;
}

async function namesOfIntake(
  house: House,
  intakeId: number,
  placeId: string,
  rule: HouseRule,
  strict: boolean,
): Promise<Finding[]> {
  const rows = (await filedNames(house.db, intakeId, placeId)).filter(
    ({ folder, listFolder }) => folder === listFolder && !isAside(folder),
  );
  if (!rows.length) return [];
  const { items, slip } = await planMaterial(house, house.db, intakeId);
  const byId = new Map(items.map((item) => [item.id, item]));
  const byPath = new Map<string, PlanItem>(items.map((item) => [item.path, item]));
  const whereLead = new Map(rows.map((row) => [byId.get(row.itemId)!.path, row]));
  return rows.flatMap((row): Finding[] => {
    const item = byId.get(row.itemId)!;
    const lead = byPath.get(item.leader) ?? item;
    const context = contextOf(item, lead, { ...slip, filed: houseTime(house, row.filedAt) }, row.n);
    const leads = whereLead.get(lead.path);
    if (leads && leads !== row && leads.folder !== row.folder) {
      // Raws may have a folder of their own: then the rule parts them, not a hand.
      const right = folderOf(rightPath(rule, context));
      const rightOfLead = folderOf(rightPath(rule, contextOf(lead, lead, slip, leads.n)));
      if (right === rightOfLead)
        return [
          finding('parted', pathIn(row.folder, row.name), {
            filedItemId: row.filedItemId,
            other: pathIn(leads.folder, leads.name),
          }),
        ];
    }
    const verdict = nameVerdict(rule, { ...row, context, formerCodes: row.former ?? [] }, strict);
    return verdict ? [verdict] : [];
  });
}
