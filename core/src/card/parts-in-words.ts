import type { Kind } from './kind.js';
import type { ObjectRole } from './object.js';

const WORDS: Readonly<Record<Exclude<ObjectRole, 'leader' | 'part' | 'index'>, readonly [one: string, many: string]>> = {
  raw: ['raw', 'raws'],
  sound: ['sound', 'sounds'],
  sidecar: ['sidecar', 'sidecars'],
  proxy: ['proxy', 'proxies'],
  thumbnail: ['thumbnail', 'thumbnails'],
  edit: ['edit', 'edits'],
};

interface Part {
  readonly kind: Kind;
  readonly objectRole: ObjectRole;
  readonly parts: number | null;
}

/** What an object is made of: `3 parts · raw · small version · thumbnail`; '' for a single file. */
export function partsInWords(files: readonly Part[]): string {
  const count = (role: ObjectRole) => files.filter(({ objectRole }) => objectRole === role).length;
  const parts = Math.max(0, ...files.map((file) => file.parts ?? 0));
  const words: string[] = [];
  const [first] = files;
  const moving = first?.kind === 'photo' && files.some(({ kind, objectRole }) => kind === 'video' && objectRole === 'part');
  if (parts > 1) words.push(`${parts} parts`);
  else if (moving && count('part') === 1) words.push('moving part');
  else if (count('part')) words.push(count('part') === 1 ? 'one more part' : `${count('part')} more parts`);
  for (const [role, [one, many]] of Object.entries(WORDS)) {
    const n = count(role as ObjectRole);
    if (n) words.push(n === 1 ? one : `${n} ${many}`);
  }
  const indexes = count('index');
  if (indexes) words.push(indexes === files.length ? `${indexes} index ${indexes === 1 ? 'file' : 'files'}` : 'index');
  return words.join(' · ');
}
