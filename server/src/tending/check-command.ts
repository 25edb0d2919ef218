import { CheckAsk, CHECK_HOWS, type FoundView } from '@tally/contract';
import { FINDINGS, type FindingKind } from '@tally/core/drive';
import { formatBytes } from '@tally/core/logbook';
import { EXIT, jsonLine, printable, say, WHO, WrongUse } from '../cli/output.js';
import { type House, Refusal } from '../house/index.js';
import { askCheck, runCheck } from './checking.js';
import { mustBe, type Out, untilOver } from './command-ways.js';
import { checkById } from './store/checks.js';
import { countFindings, findingsAfter } from './store/findings.js';
import { straysAfter } from './store/stood.js';
import { foundTogether } from './viewing.js';

export interface CheckOptions extends Out {
  readonly place: string;
  readonly how: string;
  readonly names: boolean;
  readonly strict?: boolean;
  readonly kind?: string;
  readonly each?: boolean;
}

export async function check(house: House, options: CheckOptions, signal: AbortSignal): Promise<number> {
  await mustBe(house, options.place);
  const ask = CheckAsk.safeParse({ how: options.how, names: options.names, strict: options.strict ?? false });
  if (!ask.success) throw new WrongUse(`--how is one of: ${CHECK_HOWS.join(', ')}.`);
  const kind = options.kind === undefined ? null : kindNamed(options.kind);
  const id = await askCheck(house, options.place, ask.data, WHO);
  await untilOver(
    signal,
    () => house.locks.hold('checking', options.place, signal, (inner) => runCheck(house, id, inner)),
    async () => (await checkById(house.db, id))?.state === 'going',
  );
  const done = await checkById(house.db, id);
  if (done?.problem) throw new Refusal('not possible now', done.problem);
  const shown = options.json || options.each ? await eachFound(house, options, kind) : await found(house, options.place, kind);
  const counts = await countFindings(house.db, options.place);
  if (!options.json)
    say(
      `${done!.files} files (${formatBytes(done!.bytes)}) in ${done!.folders} folders: ${counts.map(({ kind: what, files }) => `${files} ${FINDINGS[what].title}`).join(', ') || 'everything is as it should be'}.`,
    );
  return shown ? EXIT.attention : EXIT.done;
}

interface Shown {
  readonly kind: FindingKind;
  readonly path: string;
  readonly other: string | null;
  readonly what: string;
}

const inWords = ({ kind, path, other, what }: Shown) =>
  `${FINDINGS[kind].title}: ${printable(path || '(the root)')}${other ? ` → ${printable(other)}` : ''}${what ? `  (${printable(what)})` : ''}`;

/** What was found, a line for each kind in each folder. @returns how many lines. */
async function found(house: House, placeId: string, kind: FindingKind | null): Promise<number> {
  let shown = 0;
  for (let from: FoundView['next'] = null; ;) {
    const of = kind ? { kind } : {};
    const after = from ? { afterKind: from.kind, afterFolder: from.folder } : {};
    const { together, next } = await foundTogether(house, placeId, { ...of, ...after, limit: 200 });
    for (const { folder, findings, first } of together) {
      say(findings === 1 ? inWords(first) : `${findings} ${FINDINGS[first.kind].title} in ${printable(folder || '(the root)')}:`);
      if (findings > 1) say(`  ${inWords(first)}, and ${findings - 1} more`);
    }
    shown += together.length;
    if (!next) return shown;
    from = next;
  }
}

/** What was found, one by one. @returns how many. */
async function eachFound(house: House, options: Out & { place: string }, kind: FindingKind | null): Promise<number> {
  let shown = 0;
  for (let after = 0; ;) {
    const some = await findingsAfter(house.db, options.place, kind, null, after, 500);
    for (const one of some) {
      const { id, kind: of, path, other, what, files, since } = one;
      if (options.json) jsonLine({ id, kind: of, path, other, what, files, since, mend: FINDINGS[of].mend });
      else say(inWords(one));
    }
    shown += some.length;
    if (some.length < 500) return shown;
    after = some.at(-1)!.id;
  }
}

export function kindNamed(text: string): FindingKind {
  const found = (Object.keys(FINDINGS) as FindingKind[]).find((kind) => kind === text || FINDINGS[kind].title === text);
  if (!found) throw new WrongUse(`There is no kind of finding ${text}. Kinds: ${Object.keys(FINDINGS).join(', ')}.`);
  return found;
}

export async function strays(house: House, options: Out & { place: string }): Promise<number> {
  await mustBe(house, options.place);
  let count = 0;
  for (let after = 0; ;) {
    const some = await straysAfter(house.db, options.place, after, 1000);
    count += some.length;
    for (const { id, path, bytes, since, twin } of some) {
      if (options.json) jsonLine({ id, path, bytes, since, twin });
      else say(`${printable(path)}  ${formatBytes(bytes)}${twin ? `  the same as ${printable(twin)}` : ''}`);
    }
    if (some.length < 1000) break;
    after = some.at(-1)!.id;
  }
  if (!options.json) say(count ? `${count} strays.` : 'No strays.');
  return count ? EXIT.attention : EXIT.done;
}
