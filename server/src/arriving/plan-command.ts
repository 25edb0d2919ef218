import { EXIT, jsonLine, say, table } from '../cli/output.js';
import { basename } from 'node:path';
import { hashFile } from '../drive/hashing.js';
import { joinBytes } from '../drive/list-card.js';
import { readFolder } from './read-folder.js';
import { type House, houseTime } from '../house/index.js';
import { planItems } from '../filing/index.js';
import { filedByIdentity } from '../seeing/index.js';
import { planItemsOf, type ReadLine } from '../slip/index.js';
import { slipOf, type SlipOptions } from '../people/index.js';

/** `tally plan FOLDER`: where everything would go. Writes nothing, not even to the database. */
export async function planCommand(house: House, folder: string, options: SlipOptions): Promise<number> {
  const slip = await slipOf(house, options);
  const lines: ReadLine[] = [];
  for await (const line of readFolder(folder, house.reader, house.settings.zone)) lines.push(line);
  const filed = await alreadyFiled(house, folder, lines);
  const items = planItemsOf(lines, filed);
  const received = houseTime(house, house.clock());
  const said = { ...slip, cardLabel: basename(folder), received, filed: received, intake: null };
  const { plan, view } = await planItems(house, items, said);

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
    for (const obstacle of view.obstacles) say(`! ${obstacle}`);
  }
  return view.obstacles.length || plan.clashes.length ? EXIT.attention : EXIT.done;
}

/** Paths whose bytes stand on the drive, all bytes compared. */
async function alreadyFiled(house: House, folder: string, lines: readonly ReadLine[]): Promise<Map<string, string>> {
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
