import { houseTime } from '../house/house.js';
import { basename } from 'node:path';
import type { PlanItem } from '@tally/core/plan';
import type { Composition } from '../composition.js';
import { planItems } from './plan.js';
import { hashFile } from '../drive/hashing.js';
import { joinBytes } from '../drive/list-card.js';
import { filedByIdentity } from '../seeing/store/items.js';
import { assignmentBySlug, contributorByCode } from '../people/store/people.js';
import { EXIT, jsonLine, table, WrongUse } from '../cli/output.js';
import { readFolder, type ReadLine } from '../arriving/read-command.js';

export interface SlipOptions {
  readonly contributor: string;
  readonly assignment: string;
  readonly json?: boolean;
}

/** The contributor and assignment that options name. @throws WrongUse when there is no such one. */
export async function slipOf({ house: { db } }: Composition, options: SlipOptions) {
  const contributor = await contributorByCode(db, options.contributor);
  if (!contributor) throw new WrongUse(`There is no contributor with the code ${options.contributor}.`);
  const assignment = await assignmentBySlug(db, options.assignment);
  if (!assignment) throw new WrongUse(`There is no assignment with the slug ${options.assignment}.`);
  return { contributor, assignment };
}

/** `tally plan FOLDER`: where everything would go. Writes nothing, not even to the database. */
export async function planCommand(composition: Composition, folder: string, options: SlipOptions): Promise<number> {
  const { house } = composition;
  const slip = await slipOf(composition, options);
  const lines: ReadLine[] = [];
  for await (const line of readFolder(folder, house.reader, house.settings.zone)) lines.push(line);
  const filed = await alreadyFiled(composition, folder, lines);
  const items = planItemsOf(lines, filed);
  const received = houseTime(house, house.clock());
  const said = { ...slip, cardLabel: basename(folder), received, filed: received, intake: null };
  const { plan, view } = await planItems(house, house.db, items, said, false);

  const isNew = new Map(plan.folders.map((f) => [f.path, f.isNew]));
  const path = (p: { folder: string; name: string }) => (p.folder ? `${p.folder}/${p.name}` : p.name);
  const reasons = new Map(plan.clashes.map((clash) => [clash.itemId, `${clash.wanted} stands on ${clash.with}`]));
  if (options.json) {
    for (const p of plan.placements) {
      const reason = reasons.get(p.itemId);
      jsonLine({ from: p.from, to: path(p), newFolder: isNew.get(p.folder) ?? false, left: false, reason: reason ?? null });
    }
    for (const item of plan.left) jsonLine({ from: item.from, to: null, newFolder: false, left: true, reason: item.reason });
  } else {
    table(
      ['from', 'to', ''],
      [
        ...plan.placements.map((p) => [
          p.from,
          path(p),
          [isNew.get(p.folder) ? 'new folder' : '', reasons.get(p.itemId) ?? ''].filter(Boolean).join('; '),
        ]),
        ...plan.left.map((item) => [item.from, 'left on the card', item.reason]),
      ],
    );
    for (const obstacle of view.obstacles) console.log(`! ${obstacle}`);
  }
  return view.obstacles.length || plan.clashes.length ? EXIT.attention : EXIT.done;
}

/** What was read of a folder, as a plan needs it: everything taken. */
export function planItemsOf(lines: readonly ReadLine[], filed: ReadonlyMap<string, string> = new Map()): PlanItem[] {
  return lines.map((line, index) => ({
    id: index + 1,
    path: line.path,
    bytes: line.bytes,
    kind: line.kind,
    captured: line.captured.local,
    camera: { make: line.make ?? null, model: line.model ?? null },
    leader: line.leader,
    taken: true,
    setAside: line.setAside,
    alreadyFiled: filed.get(line.path) ?? null,
    problem: line.problem,
  }));
}

/** Paths whose bytes stand on the drive, all bytes compared. */
async function alreadyFiled({ house }: Composition, folder: string, lines: readonly ReadLine[]): Promise<Map<string, string>> {
  const known = lines.flatMap((line) => (line.quickHash ? [{ line, bytes: line.bytes, quickHash: line.quickHash }] : []));
  const candidates = await filedByIdentity(house.db, known);
  const found = new Map<string, string>();
  for (const { line, bytes, quickHash } of known) {
    const alike = candidates.filter((candidate) => candidate.bytes === bytes && candidate.quickHash.equals(quickHash));
    if (!alike.length) continue;
    const hash = await hashFile(joinBytes(folder, line.pathBytes));
    const same = alike.find((candidate) => candidate.hash.equals(hash));
    if (same) found.set(line.path, same.path);
  }
  return found;
}
