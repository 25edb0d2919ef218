import type { NewRevision, RevisionView, RuleMaterial } from '@tally/contract';
import { NEEDED_VERDICTS, parseRule, type RuleContext, type RuleSource, settingsOf, type Verdict } from '@tally/core/rule';
import { itemContexts } from '@tally/core/plan';
import { type Db, inTransaction } from '../db/database.js';
import { judgeAside } from './judging.js';
import { addRule, currentRule, filedFolders, knownValues, listRules, lockRules } from './store.js';
import { type House, houseTime, type IntakeRow, intakesWhere, record, Refusal, tell, theIntake } from '../house/index.js';
import { planMaterial } from '../slip/index.js';

/** Items that a rule is tried on before it is saved: enough to find what happens on real cards. */
const TRIED_MAX = 2_000;

export async function revisions(db: Db): Promise<RevisionView[]> {
  return (await listRules(db)).map(({ createdAt, ...revision }) => ({ ...revision, at: createdAt.toISOString() }));
}

/** Folders that a rule's names are compared with: the newest. */
const FOLDERS_MAX = 2_000;

const NEWEST = 'i.items > 0 order by i.received_at desc, i.id desc limit 1';

/** The newest intake with items: one whose slip is filled, else any. */
async function newestToTry(db: Db): Promise<IntakeRow | undefined> {
  const [said] = await intakesWhere(db, `i.contributor_id is not null and i.assignment_id is not null and ${NEWEST}`, []);
  return said ?? (await intakesWhere(db, NEWEST, []))[0];
}

/** Real items for a rule to be tried on: those of an intake, else of the newest one that has any. */
export async function ruleMaterial(house: House, intakeId: number | undefined): Promise<RuleMaterial> {
  const { db, settings } = house;
  const newest = intakeId === undefined ? await newestToTry(db) : await theIntake(house, intakeId);
  const [known, folders] = [await knownValues(db), await filedFolders(db, FOLDERS_MAX)];
  const now = houseTime(house, house.clock());
  const bare = { contributor: null, assignment: null, cardLabel: '', received: now, filed: now, intake: null };
  const { items, slip } = newest ? await planMaterial(house, db, newest.id) : { items: [], slip: bare };
  return {
    intake: newest
      ? {
          id: newest.id,
          number: newest.number,
          card: newest.card.label ?? newest.card.volume,
          receivedAt: newest.receivedAt.toISOString(),
        }
      : null,
    items: items.map((item) => ({
      ...item,
      camera: { ...item.camera },
      contributor: item.contributor ?? null,
      assignment: whole(item.assignment ?? null),
      description: item.description ?? null,
      role: item.role ?? null,
      profile: item.profile ?? null,
    })),
    slip: { ...slip, assignment: whole(slip.assignment) },
    folders,
    known,
    sharePrefix: settings.sharePrefix,
  };
}

const whole = (assignment: RuleContext['assignment']) =>
  assignment && {
    ...assignment,
    code: assignment.code ?? null,
    from: assignment.from ?? null,
    to: assignment.to ?? null,
    place: assignment.place ?? null,
  };

/** @throws Refusal when a rule cannot be read, with the line, the place in it and what was probably meant. */
function mustBeReadable(source: NewRevision['rule']): void {
  const parsed = parseRule(source);
  if (parsed.ok) return;
  const { line, kind, error } = parsed;
  const where =
    line === 'settings' ? 'The settings' : `The ${line} line${kind ? ` for ${kind}` : ''}, character ${error.span.from + 1}`;
  throw new Refusal('conflict', `${where}: ${error.message}`);
}

/** The five verdicts on a rule, tried on the newest intake and all that the house knows. */
async function judgeForHouse(house: House, source: NewRevision['rule']): Promise<Verdict[]> {
  const { items, slip, known, sharePrefix } = await ruleMaterial(house, undefined);
  const trial = { items: itemContexts(items, slip).slice(0, TRIED_MAX), known, sharePrefix };
  return judgeAside(source, trial).catch((error: unknown) => {
    house.log.warn({ error: String(error) }, 'judging a rule');
    throw new Refusal('conflict', 'This rule takes too long to judge: use fewer fields, or put something between them.');
  });
}

/** What a verdict says, with the case that shows it, in one sentence. */
export function inWords({ name, because, counterexample }: Verdict): string {
  const shown = counterexample.map(({ of, path }) => `${of} → ${path}`).join('; ');
  return `${name}: ${because}${shown ? ` For example ${shown}` : ''}`;
}

/**
 * Makes a rule the house rule, as a new revision; nothing on the drive changes. A rule by which two items can get one
 * name, or whose names some system refuses, is refused. What else does not hold is remembered with it.
 */
export async function saveRule(house: House, { rule, note, from }: NewRevision, who: string): Promise<number> {
  mustBeReadable(rule);
  const verdicts = await judgeForHouse(house, rule);
  const failed = verdicts.filter(({ outcome }) => outcome === 'fails');
  const needed = failed.find(({ name }) => NEEDED_VERDICTS.includes(name));
  if (needed) throw new Refusal('conflict', `This cannot be the house rule. ${inWords(needed)}`);
  const warnings = failed.map(({ name, because }) => ({ verdict: name, because }));
  return inTransaction(house.db, async (tx) => {
    await lockRules(tx);
    const current = await currentRule(tx);
    if (current.revision !== from) {
      throw new Refusal(
        'conflict',
        `${current.who ?? 'Somebody'} saved revision ${current.revision} in the meantime. Compare with it first.`,
      );
    }
    const at = house.clock();
    const revision = await addRule(tx, { rule, note, who, warnings, createdAt: at });
    const text = `House rule, revision ${revision}: ${rule.folderLine} / ${rule.fileLine}. ${note}`;
    await record(tx, { at, kind: 'house rule', intakeId: null, who, text, data: { revision, warnings } });
    await readAgain(house, tx, current.rule, rule);
    await tell(tx, { type: 'desk' });
    return revision;
  });
}

/** Cards that lie open are looked at again when structures are kept another way from now on. */
async function readAgain(house: House, tx: Db, before: RuleSource, now: RuleSource): Promise<void> {
  const keeping = (rule: RuleSource) => JSON.stringify(settingsOf(rule.settings).asOnCard);
  if (keeping(before) === keeping(now)) return;
  for (const { id, station } of await intakesWhere(tx, "i.present and i.state = 'open'", []))
    await house.jobs.read(tx, id, station);
}
