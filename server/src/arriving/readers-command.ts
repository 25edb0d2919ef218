import { cardInWords, type CardFacts } from '@tally/core/reader';
import { basename } from 'node:path';
import { EXIT, jsonLine, table } from '../cli/output.js';
import { pullingOfIntake } from '../clearing/index.js';
import { cardFacts } from '../drive/card-device.js';
import { cardsNow } from '../drive/watch-readers.js';
import { type House, intakesWhere } from '../house/index.js';

/** `tally readers [--json]`: what lies in this station's readers, and what may be pulled. */
export async function readersCommand(house: House, options: { json?: boolean }): Promise<number> {
  const { settings, db } = house;
  const folders = [...(await cardsNow(settings.readers))].sort();
  const known = await intakesWhere(
    db,
    `i.station = $1 and (i.source_path = any($2::text[]) or (i.let_go = 'done' and not i.present)) order by i.id`,
    [settings.station, folders],
  );
  const cards = await Promise.all(
    folders.map(async (folder) => {
      const facts = await cardFacts(folder, settings.reader);
      const intake = known.findLast(({ sourcePath, present }) => sourcePath === folder && present);
      return line(folder, facts, intake);
    }),
  );
  // What was let go stands in no folder any more, and may still be in its slot.
  const gone = known.filter(({ present, letGo, sourcePath }) => !present && letGo === 'done' && !folders.includes(sourcePath));
  const all = [...cards, ...gone.map((intake) => line(intake.sourcePath, intake.reader, intake))];
  if (options.json) for (const one of all) jsonLine(one);
  else table(['card', 'intake', 'reader', 'capacity', 'state', 'look at'], all.map(row));
  return all.some(({ attention }) => attention.length) ? EXIT.attention : EXIT.done;
}

function line(folder: string, facts: CardFacts | null, intake: Awaited<ReturnType<typeof intakesWhere>>[number] | undefined) {
  const pulling = intake && pullingOfIntake(intake);
  const words = facts && cardInWords(facts);
  return {
    ...{ folder, label: intake?.card.label ?? null, intake: intake?.number ?? null, ...facts },
    volume: facts?.volume ?? intake?.card.volume ?? basename(folder),
    ...{ state: pulling?.standing ?? 'not received', why: pulling?.why ?? null, attention: words?.attention ?? [] },
    says: words?.says ?? '',
  };
}

function row({ label, volume, intake, reader, slot, says, state, why, attention }: ReturnType<typeof line>): (string | null)[] {
  const where = [reader, slot].filter(Boolean).join(', ');
  const rest = where && says.startsWith(where) ? says.slice(where.length).replace(/^ · /, '') : says;
  return [label ?? volume, intake, where || null, rest || null, why ? `${state}: ${why}` : state, attention.join('; ') || null];
}
