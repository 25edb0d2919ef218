import { resolve } from 'node:path';
import { EXIT, say } from '../cli/output.js';
import { type House, intakesWhere, Refusal } from '../house/index.js';
import { letGoAt } from './at-station.js';

/** `tally pull LABEL|FOLDER [--anyway]`: lets a card go; afterwards it may be pulled. */
export async function pullCommand(house: House, card: string, { anyway = false }: { anyway?: boolean }): Promise<number> {
  const found = await intakesWhere(
    house.db,
    `i.present and ((k.label is not null and lower(k.label) = lower($1)) or i.source_path = $2 or k.volume = $1) order by i.id desc`,
    [card, resolve(card)],
  );
  const [first, second] = found;
  if (!first) throw new Refusal('not found', `No card ${card} is in a reader.`);
  if (second && second.card.id !== first.card.id) {
    const where = found.map(({ sourcePath, station }) => `${sourcePath} (${station})`).join(', ');
    throw new Refusal('conflict', `Several cards are called ${card}: ${where}. Name the folder.`);
  }
  const { words } = await letGoAt(house, first.id, { anyway }, house.settings.station);
  say(words);
  return EXIT.done;
}
