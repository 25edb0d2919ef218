import type { Atom } from './atoms.js';
import { filedDay, mayDifferInDay } from './filed-day.js';
import { allLines, linesFor, type HouseRule, type Lines } from './house-rule.js';
import { foldName } from './legal-name.js';
import { levelsOf } from './levels.js';
import type { Named } from './numbering.js';
import { followTime, keyOf, type Progress } from './time-order.js';
import { fails, holds, open, shown, type Verdict } from './verdict.js';

const isDated = (level: readonly Atom[]): boolean =>
  level.some((atom) =>
    atom.type === 'optional'
      ? isDated(atom.atoms)
      : atom.type === 'value' && ['captured', 'season', 'quarter'].includes(atom.name),
  );

/** Does sorting by name equal sorting by capture time, in a folder to the second, for folders to the day? */
export function inTimeOrder(rule: HouseRule, tried: readonly Named[]): Verdict {
  const found = folderOutOfOrder(rule, tried) ?? fileOutOfOrder(tried);
  if (found) return found;
  if (allLines(rule).every(({ lines }) => followsTime(rule, lines))) {
    return holds(
      'in time order',
      'Dates come from large to small, in digits, before anything else: folders to the day, names to the second.',
    );
  }
  return open(
    'in time order',
    'Among the items tried names sort by capture time, but the parts of the rule do not show it for all.',
  );
}

const DAYS = new Set(['season', 'quarter']);

function followsTime(rule: HouseRule, lines: Lines): boolean {
  const levels = levelsOf(rule, lines);
  if (levels === null) return false;
  const file = levels.at(-1)!;
  const folders = levels.slice(0, -1);
  const constant = new Set<string>();
  const own = mayDifferInDay(rule.settings);
  let progress: Progress = { fixed: 0, blocked: false };
  for (const level of folders) {
    if (isDated(level)) {
      progress = followTime(level, rule.settings, progress, constant);
      if (progress.blocked && progress.fixed < 3) return false;
      progress = { fixed: progress.fixed, blocked: false };
    }
    for (const atom of level)
      if (atom.type === 'value' && atom.part === null && !(own && DAYS.has(atom.name)))
        constant.add(keyOf(atom.name, atom.piece.format));
  }
  // Where a folder's day is not that of every name in it, names have to tell their own.
  if (own) progress = { fixed: 0, blocked: false };
  if (folders.length && !folders.some(isDated) && folders.some((level) => level.some(({ type }) => type !== 'text')))
    return false;
  return followTime(file, rule.settings, progress, constant).fixed === 6;
}

function folderOutOfOrder(rule: HouseRule, tried: readonly Named[]): Verdict | null {
  const first = new Map<string, { parent: string; part: string; day: string; named: Named }>();
  for (const named of tried) {
    const levels = levelsOf(rule, linesFor(rule, named.context.kind))?.slice(0, -1);
    const parts = named.folder === '' ? [] : named.folder.split('/');
    if (levels?.length !== parts.length) continue;
    const dateless = !levels.some(isDated);
    for (const [index, level] of levels.entries()) {
      if (!dateless && !isDated(level)) continue;
      const parent = parts.slice(0, index).join('/');
      const key = `${parent}/${parts[index]!}`;
      const day = filedDay(named.context, rule.settings);
      const known = first.get(key);
      if (!known || day < known.day) first.set(key, { parent, part: parts[index]!, day, named });
    }
  }
  const sorted = [...first.values()].sort((a, b) => compare(a.parent, b.parent) || compare(foldName(a.part), foldName(b.part)));
  for (const [index, folder] of sorted.entries()) {
    const before = sorted[index - 1];
    if (before?.parent === folder.parent && before.day > folder.day) {
      return fails(
        'in time order',
        'A folder that begins later comes before one that begins earlier.',
        shown(before.named),
        shown(folder.named),
      );
    }
  }
  return null;
}

function fileOutOfOrder(tried: readonly Named[]): Verdict | null {
  const sorted = tried
    .map((named) => ({ named, folder: foldName(named.folder), name: foldName(named.name) }))
    .sort((a, b) => compare(a.folder, b.folder) || compare(a.name, b.name));
  const latest = new Map<string, Named>();
  for (const { named, folder } of sorted) {
    // Raw, stills and sidecars of one moment sort by their extensions; kinds may have lines of their own.
    const key = `${folder}\0${named.context.kind}`;
    const before = latest.get(key);
    if (before && before.context.captured.slice(0, 19) > named.context.captured.slice(0, 19)) {
      return fails('in time order', 'A later item sorts before an earlier one in its folder.', shown(before), shown(named));
    }
    latest.set(key, named);
  }
  return null;
}

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);
