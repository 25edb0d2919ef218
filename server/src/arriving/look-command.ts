import { EXIT, jsonLine, table } from '../cli/output.js';
import { wallClockMs } from '@tally/core/capture';
import { runsOf } from '@tally/core/card';
import { similarGroups } from '@tally/core/looks';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { joinBytes } from '../drive/list-card.js';
import { PREVIEW_SIZES, Previews } from '../media/previews.js';
import { CardReader } from '../media/reader.js';
import { ThoroughReader } from '../media/thorough.js';
import { readFolder } from './read-folder.js';
import type { ReadLine } from '../slip/index.js';

/** `tally look FOLDER`: the runs of a card, and which of similar frames is the sharpest. Needs no database. */
export async function lookCommand(folder: string, options: { json?: boolean }, zone: string): Promise<number> {
  const scratch = await mkdtemp(join(tmpdir(), 'tally-look-'));
  const thorough = new ThoroughReader(join(scratch, 'run'));
  const reader = new CardReader(thorough, zone);
  const previews = new Previews(join(scratch, 'previews'), thorough, PREVIEW_SIZES);
  try {
    const lines: ReadLine[] = [];
    for await (const line of readFolder(folder, reader, zone)) {
      if (line.setAside === null && line.problem === null && line.leader === line.path) lines.push(line);
    }
    const looked = await Promise.all(
      lines.map(async (line, index) => {
        const source = {
          itemId: index + 1,
          intakeId: 0,
          keptIn: '0',
          path: joinBytes(folder, line.pathBytes),
          orientation: line.orientation ?? null,
        };
        const seen = line.kind === 'photo' || line.kind === 'raw';
        return { line, id: index + 1, look: seen ? await previews.ahead({ ...source, kind: line.kind }) : null };
      }),
    );
    const runs = runsOf(
      looked,
      ({ line }) => wallClockMs(line.captured.local),
      ({ line }) => line.series ?? line.leader,
    );
    const ordered = runs.flatMap((run, at) => run.items.map((one) => ({ ...one, run: at + 1 })));
    const frames = ordered.map(({ id, line, look }) => ({
      id,
      atMs: wallClockMs(line.captured.local),
      look: look?.look ?? null,
      sharpness: look?.sharpness ?? null,
    }));
    const groups = new Map(
      similarGroups(frames).flatMap((group, at) => group.ids.map((id) => [id, { ...group, n: at + 1 }] as const)),
    );
    const rows = ordered.map(({ id, line, look, run }) => {
      const group = groups.get(id);
      return {
        path: line.path,
        run,
        captured: line.captured.local,
        sharpness: look ? Math.round(look.sharpness) : null,
        look: look?.look ?? null,
        similar: group?.n ?? null,
        sharpest: group ? group.sharpest === id : false,
      };
    });
    if (options.json) rows.forEach(jsonLine);
    else
      table(
        ['run', 'captured', 'path', 'sharpness', 'similar frames'],
        rows.map((row) => [
          ...[row.run, row.captured.replace('T', ' '), row.path, row.sharpness],
          row.similar === null ? '' : `group ${row.similar}${row.sharpest ? ', sharpest' : ''}`,
        ]),
      );
    return EXIT.done;
  } finally {
    await reader.close();
    await previews.close();
    await rm(scratch, { recursive: true, force: true });
  }
}
