import { extensionOf, kindOf, stemOf, type Kind } from './kind.js';

/** Sub-folders in which cameras keep the sidecars and small versions of clips. */
const SIDE_FOLDERS = /\/(SUB|THMBNL|THUMB|SIDECAR|XML)$/i;

const LEAD: readonly Kind[] = ['photo', 'raw', 'video', 'sound', 'sidecar', 'other'];

export interface CompanionItem {
  /** Path on the card, `/` between folders. */
  readonly path: string;
}

/**
 * Groups items that belong to one exposure or clip. In one folder, the same stem in any letter case is one DCF object
 * (CIPA DC-009: same free characters and number); a sidecar may carry the whole name (`A.MP4.xml`) or lie in a side
 * folder of the clip's. Companions need a leader that is not a sidecar: two lonely sidecars stay apart.
 * @returns for every path the path of its leader: itself when it stands alone or leads.
 */
export function companionLeaders(items: readonly CompanionItem[]): Map<string, string> {
  const groups = new Map<string, string[]>();
  const media = new Set<string>();
  for (const { path } of items) if (isMedia(kindOf(path))) media.add(objectKey(path));
  for (const { path } of items) {
    const key = objectKey(path, media);
    const group = groups.get(key);
    if (group) group.push(path);
    else groups.set(key, [path]);
  }
  const leaders = new Map<string, string>();
  for (const group of groups.values()) {
    const ordered = [...group].sort(byLead);
    const lead = ordered[0]!;
    const shared = isMedia(kindOf(lead));
    for (const path of group) leaders.set(path, shared ? lead : path);
  }
  return leaders;
}

const isMedia = (kind: Kind) => kind !== 'sidecar' && kind !== 'other';

function byLead(a: string, b: string): number {
  return LEAD.indexOf(kindOf(a)) - LEAD.indexOf(kindOf(b)) || (a < b ? -1 : 1);
}

function objectKey(path: string, media?: ReadonlySet<string>): string {
  const slash = path.lastIndexOf('/');
  const name = path.slice(slash + 1);
  let folder = slash < 0 ? '' : path.slice(0, slash);
  const kind = kindOf(name);
  let stem = stemOf(name);
  if (kind === 'other') return path;
  if (kind === 'sidecar') {
    folder = `/${folder}`.replace(SIDE_FOLDERS, '').replace(/^\//, '');
    // `A001.MP4.xml` describes A001.MP4; strip the inner extension only when that clip is here.
    const inner = `${folder}/${stemOf(stem)}`.toLowerCase();
    if (isMedia(kindOf(stem)) && extensionOf(stem) && (media?.has(inner) ?? true)) stem = stemOf(stem);
    // A camera's `CLIP0001M01.XML` describes CLIP0001.
    const suffixed = /^(.*)M\d\d$/i.exec(stem)?.[1];
    if (suffixed && media?.has(`${folder}/${suffixed}`.toLowerCase())) stem = suffixed;
  }
  return `${folder}/${stem}`.toLowerCase();
}
