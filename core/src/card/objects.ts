import { extensionOf, kindOf, stemOf, type Kind } from './kind.js';
import { placeLoose } from './loose.js';
import type { Belonging, CardFile, ListedFile, ObjectRole, Placed } from './object.js';
import { placeInTrees } from './trees.js';
import { unknownTrees } from './unknown-trees.js';

const LEAD: readonly Kind[] = ['photo', 'raw', 'video', 'sound', 'sidecar', 'other'];

/** Roles that never lead what has something else in it. */
const FOLLOWS = new Set<ObjectRole>(['sidecar', 'proxy', 'thumbnail', 'index', 'edit']);

/**
 * The objects of a card: every file belongs to exactly one exposure, clip or recording, and is something in it. By names,
 * folders and sizes alone, in any order and letter case; what is recognised is in `STRUCTURES`.
 * @returns by path; `object` is the path of the file that leads.
 */
export function objectsOf(files: readonly ListedFile[]): Map<string, Belonging> {
  const folded = new Map<string, string>();
  const all = files.map((file) => cardFile(file, folded));
  const placed = placeInTrees(all);
  const loose = all.filter(({ path }) => !placed.has(path));
  for (const [path, one] of unknownTrees(loose, placeLoose(loose))) placed.set(path, one);

  const groups = new Map<string, Member[]>();
  for (const { path, kind } of all) {
    const member = { path, kind, placed: placed.get(path)! };
    const group = groups.get(member.placed.key);
    if (group) group.push(member);
    else groups.set(member.placed.key, [member]);
  }
  const found = new Map<string, Belonging>();
  for (const group of groups.values()) for (const [path, one] of belongings(group)) found.set(path, one);
  return found;
}

/** @param folded folders in lower case, so that each is folded once. */
function cardFile({ path, bytes }: ListedFile, folded: Map<string, string>): CardFile {
  const slash = path.lastIndexOf('/');
  const folder = slash < 0 ? '' : path.slice(0, slash);
  const name = path.slice(slash + 1);
  const foldedFolder = folded.get(folder) ?? folder.toLowerCase();
  folded.set(folder, foldedFolder);
  return {
    path,
    folder,
    name,
    foldedFolder,
    stem: stemOf(name).toLowerCase(),
    ext: extensionOf(name),
    kind: kindOf(name),
    bytes,
  };
}

interface Member {
  readonly path: string;
  readonly kind: Kind;
  readonly placed: Placed;
}

function* belongings(group: readonly Member[]): Generator<[string, Belonging]> {
  if (group.length === 1) {
    const [{ path, placed }] = group as [Member];
    yield [path, belonging(path, placed, placed.role)];
    return;
  }
  const mains = group.filter(({ placed }) => !FOLLOWS.has(placed.role)).sort(byLead);
  // Without anything that can lead, each stands alone; the index of a tree stays together.
  if (!mains.length && group.some(({ placed }) => placed.role !== 'index')) {
    for (const { path, placed } of group) yield [path, belonging(path, placed, placed.role)];
    return;
  }
  const lead = mains[0] ?? [...group].sort(byPath)[0]!;
  const numbered = mains.filter((one) => isPartOf(one, lead));
  const partOf = new Map(numbered.map(({ path }, index) => [path, index + 1]));
  const parts = numbered.length > 1 ? numbered.length : null;
  const partAt = new Map(numbered.map(({ placed }, index) => [placed.order, index + 1]));
  for (const { path, kind, placed } of group) {
    const part =
      parts === null ? null : (partOf.get(path) ?? (placed.order === null ? null : (partAt.get(placed.order) ?? null)));
    yield [path, belonging(lead.path, placed, path === lead.path ? leading(placed) : roleOf(placed, kind, lead), part, parts)];
  }
}

const belonging = (
  object: string,
  { structure, root, series }: Placed,
  role: ObjectRole,
  part: number | null = null,
  parts: number | null = null,
): Belonging => ({ object, role, part, parts: part === null ? null : parts, structure, root, series: series ?? null });

const leading = ({ role }: Placed): ObjectRole => (role === 'index' ? 'index' : 'leader');

/** Parts of one recording are of its leader's kind and numbered. */
const isPartOf = (one: Member, lead: Member) => one.placed.order !== null && lead.placed.order !== null && one.kind === lead.kind;

function roleOf({ role }: Placed, kind: Kind, lead: Member): ObjectRole {
  if (role !== 'leader') return role;
  if (kind === 'raw') return 'raw';
  if (kind === 'sound' && lead.kind !== 'sound') return 'sound';
  return 'part';
}

function byLead(a: Member, b: Member): number {
  return (
    LEAD.indexOf(a.kind) - LEAD.indexOf(b.kind) ||
    Number(a.placed.role !== 'leader') - Number(b.placed.role !== 'leader') ||
    (a.placed.order ?? 0) - (b.placed.order ?? 0) ||
    byPath(a, b)
  );
}

const byPath = (a: { path: string }, b: { path: string }) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0);
