import { EXIT, jsonLine, printable, say, WHO, WrongUse } from '../cli/output.js';
import { formatBytes } from '@tally/core/logbook';
import { isFolder } from '../drive/list-card.js';
import { clearanceOf, clearAt } from './at-station.js';
import { clearanceNow } from './clearance.js';
import { clearCard } from './clear-card.js';
import { restoreIntake } from './restore.js';
import { type House, intakeNumbered, theIntake } from '../house/index.js';
import { itemsThatFit } from '../seeing/index.js';

/** Where the card is, for commands that look at it: the folder it was read from, or another it is mounted at now. */
export interface CardAt {
  readonly card?: string;
}

/**
 * The command line reads folders where they lie: the card is here as long as the command runs, in no reader.
 * @returns null when it lies in a reader of another machine: that station is asked then.
 */
async function cardAt(house: House, intakeId: number, card: string | undefined): Promise<string | null> {
  if (card !== undefined) return card;
  const { sourcePath, present, station } = await theIntake(house, intakeId);
  return present && station !== house.settings.station && !(await isFolder(sourcePath)) ? null : sourcePath;
}

const clearanceAt = (house: House, id: number, full: boolean, only: number[] | null, at: string | null) =>
  at === null ? clearanceOf(house, id, full, only ?? undefined) : clearanceNow(house, id, full, only, at);

/** `tally clearance NUMBER [--full]`: may the card be cleared, as it is now? */
export async function clearanceCommand(
  house: House,
  number: string,
  options: CardAt & { full?: boolean; only?: string[]; json?: boolean },
): Promise<number> {
  const id = await intakeNumbered(house, number);
  const only = await onlyThese(house, id, options.only);
  const view = await clearanceAt(house, id, Boolean(options.full), only, await cardAt(house, id, options.card));
  if (options.json) jsonLine(view);
  else {
    say(view.safe ? 'Safe to clear.' : 'Not safe to clear.');
    say(`${view.files} files (${formatBytes(view.bytes)}) stand in ${view.places.map(({ name }) => name).join(' and ')}.`);
    for (const { words, paths } of view.reasons) say(`- ${words}${paths.length ? `: ${printable(paths.join(', '))}` : ''}`);
    for (const { path, reason } of view.aside) say(`- ${printable(path)} was set aside: ${reason}`);
  }
  return view.safe ? EXIT.done : EXIT.attention;
}

/** `tally clear NUMBER`: clears the card, if it is safe. */
export async function clearCommand(
  house: House,
  number: string,
  options: CardAt & { letGo?: boolean; keep?: boolean; sure?: boolean; only?: string[] },
): Promise<number> {
  const id = await intakeNumbered(house, number);
  const [letGo, keep, sure] = [Boolean(options.letGo), Boolean(options.keep), Boolean(options.sure)];
  if (letGo && keep) throw new WrongUse('--let-go and --keep are opposites: say one of them.');
  const only = await onlyThese(house, id, options.only);
  const at = await cardAt(house, id, options.card);
  const view = await clearanceAt(house, id, false, only, at);
  const files = Math.max(1, view.files + (letGo ? view.left : 0));
  const ask = { files, letGo, keep, sure, ...(only ? { items: only } : {}) };
  const { removed, bytes, stayed } = await (at === null
    ? clearAt(house, id, ask, WHO)
    : clearCard(house, id, ask, { who: WHO }, at));
  say(`${removed} files (${formatBytes(bytes)}) removed from the card.`);
  for (const { path, why } of stayed) say(`- ${printable(path)} stays: ${why}`);
  return stayed.length ? EXIT.attention : EXIT.done;
}

/** Ids of the items that fit the patterns; null: the whole card. */
async function onlyThese(house: House, id: number, patterns?: string[]): Promise<number[] | null> {
  return patterns ? (await itemsThatFit(house, id, patterns)).map((item) => item.id) : null;
}

/** `tally restore NUMBER FOLDER`: puts an intake's files back as they were on its card. */
export async function restoreCommand(house: House, number: string, folder: string): Promise<number> {
  const id = await intakeNumbered(house, number);
  const { restored, bytes, failed } = await restoreIntake(house, id, folder, WHO);
  say(`${restored} files (${formatBytes(bytes)}) restored into ${folder}.`);
  for (const { path, why } of failed) say(`- ${printable(path)}: ${why}`);
  return failed.length ? EXIT.attention : EXIT.done;
}
