/**
 * Files and folders that systems and cameras put on a card for themselves. They are listed with the reason,
 * never silently dropped. Common practice, no source, except: DCIM is the images' root of DCF (CIPA DC-009).
 */

const FOLDERS: readonly [test: RegExp, reason: string][] = [
  [/^(\.Spotlight-V100|\.fseventsd|\.TemporaryItems|\.DocumentRevisions-V100)$/i, 'macOS index'],
  [/^\.Trash(es|-\d+)?$/i, 'wastebasket'],
  [/^\$RECYCLE\.BIN$/i, 'wastebasket'],
  [/^System Volume Information$/i, 'Windows system folder'],
  [/^LOST\.DIR$/i, 'recovered fragments of the card'],
  [/^\.thumb(s|nails)?$/i, 'thumbnails folder'],
];

const FILES: readonly [test: RegExp, reason: string][] = [
  [/^\._/, 'macOS companion file'],
  [/^\.DS_Store$/i, 'macOS folder view'],
  [/^(Thumbs\.db|desktop\.ini|ehthumbs\.db)$/i, 'Windows folder view'],
  [/^autorun\.inf$/i, 'system file'],
  [/^\.(nomedia|metadata_never_index)$/i, 'system file'],
  [/\.(ctg|bdm|mpl|ind|bnp|int|dat|idx|inp|db)$/i, 'camera index'],
];

/** Why a path on a card is set aside, or null when it is material. `path` uses `/`, relative to the card. */
export function setAsideReason(path: string): string | null {
  const parts = path.split('/');
  const name = parts.pop() ?? '';
  for (const folder of parts) {
    const hit = FOLDERS.find(([test]) => test.test(folder));
    if (hit) return hit[1];
  }
  return FILES.find(([test]) => test.test(name))?.[1] ?? null;
}
