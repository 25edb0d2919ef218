import { own } from '../lookup/index.js';
import { extensionOf, kindOf, stemOf, type Kind } from './kind.js';
import type { CardFile, ObjectRole, Placed } from './object.js';
import type { StructureName } from './structures.js';

/** Folders beside or below a clip's in which cameras keep what belongs to it. */
const SIDE_FOLDERS: readonly (readonly [test: RegExp, role: ObjectRole])[] = [
  [/^(sub|proxy|proxies|lowres|lores|small)$/, 'proxy'],
  [/^(thm|thmb|thmbnl|thumb|thumbs|thumbnail|thumbnails|icon|icons)$/, 'thumbnail'],
  [/^(sidecar|sidecars|xml|meta|metadata)$/, 'sidecar'],
];

/** Files that are small pictures or small versions whatever folder they lie in. */
const SMALL: Readonly<Record<string, ObjectRole>> = { thm: 'thumbnail', scr: 'thumbnail', lrv: 'proxy', lrf: 'proxy' };

const isMedia = (kind: Kind) => kind !== 'sidecar' && kind !== 'other';

/** DCF: four free characters and a number, in a folder of the images' root. */
const DCF_NAME = /^([a-z0-9_]{4})(\d{4})$/;
const TIME_STEM = /^((?:[a-z]+_)?\d{8}_\d{6,9})(?:[.~]|[-_ ]?edit)/;
const EDITED = /(?:~\d+|[-_ ]edit(?:ed)?)$/;
const BURST = [/(burst\d{10,})(?:_\d+)?(?:_cover)?$/, /^(.+)_burst\d{1,5}(?:_cover)?$/] as const;
/** Track of a take: the mix first. `_LR`, `_Tr1`, `_MIC`, `_1-2`. */
const TRACK = /^(.+)[_-](lr|mix|st|ms|mid|side|l|r|mic(?:lr|\d{0,2})|(?:tr|trk|track|ch|iso|in|d)\d{1,2}|\d-\d)$/;
const MIXES = ['lr', 'mix', 'st'];

/** Media by where they lie and by name, so that what belongs to them finds them. */
interface Media {
  /** `folder/stem` → object key. */
  readonly at: ReadonlyMap<string, Placed>;
  /** Stem → all that are called so, wherever on the card. */
  readonly called: ReadonlyMap<string, readonly Placed[]>;
  /** Takes of many tracks, by folder: the stem of a track, and where it belongs. */
  readonly takes: ReadonlyMap<string, readonly { readonly stem: string; readonly take: Placed }[]>;
}

/** Places what lies in no tree: by name and folder, as DCF, phones, action cameras, drones and recorders write. */
export function placeLoose(files: readonly CardFile[]): Map<string, Placed> {
  const placed = new Map<string, Placed>();
  const folders = new Map<string, CardFile[]>();
  for (const file of files) {
    const here = folders.get(file.foldedFolder);
    if (here) here.push(file);
    else folders.set(file.foldedFolder, [file]);
  }
  const at = new Map<string, Placed>();
  const called = new Map<string, Placed[]>();
  const takes = new Map<string, { stem: string; take: Placed }[]>();
  const later: { file: CardFile; role: ObjectRole | null }[] = [];
  for (const here of folders.values()) {
    const side = sideRole(here[0]!.foldedFolder);
    const media = here.filter((file) => isMedia(file.kind) && !side && own(SMALL, file.ext) === undefined);
    const keys = keysIn(media);
    const tracks: { stem: string; take: Placed }[] = [];
    takes.set(here[0]!.foldedFolder, tracks);
    for (const file of here) {
      const one = keys.get(file);
      if (!one) {
        later.push({ file, role: own(SMALL, file.ext) ?? (isMedia(file.kind) ? side : null) });
        continue;
      }
      placed.set(file.path, one);
      const where = `${file.foldedFolder}/${file.stem}`;
      if (!at.has(where)) at.set(where, one);
      if (one.structure === 'recorder') tracks.push({ stem: file.stem, take: one });
      const same = called.get(file.stem);
      if (same) same.push(one);
      else called.set(file.stem, [one]);
    }
  }
  for (const { file, role } of later) placed.set(file.path, placeCompanion(file, role, { at, called, takes }));
  return placed;
}

function sideRole(foldedFolder: string): ObjectRole | null {
  // `MISC/THM/100`: a numbered folder within one that says what is in it.
  const parts = foldedFolder.split('/').slice(-2).reverse();
  for (const part of parts) {
    const found = SIDE_FOLDERS.find(([test]) => test.test(part));
    if (found) return found[1];
  }
  return null;
}

const alone = (file: CardFile, role: ObjectRole): Placed => ({
  key: `\0${file.path}`,
  role,
  order: null,
  structure: structureOf(file),
  root: null,
});

/** Does a file's folder follow the camera's way, or did somebody name it? */
function structureOf(file: CardFile): StructureName {
  if (file.folder === '' || /(^|\/)dcim(\/|$)/.test(file.foldedFolder)) return 'dcf';
  const last = file.folder.slice(file.folder.lastIndexOf('/') + 1);
  // Cameras write capitals and digits, eight at most and an ending: everything else is a person's.
  return /^[A-Z0-9_]{1,8}(\.[A-Z0-9]{1,3})?$/.test(last) ? 'dcf' : 'folder';
}

/** Object keys of the media of one folder. */
function keysIn(files: readonly CardFile[]): Map<CardFile, Placed> {
  const keys = new Map<CardFile, Placed>();
  const stems = new Set(files.map(({ stem }) => stem));
  // Names in the optional colour space differ in their first letter only.
  const bySpace = new Map(
    files.flatMap(({ stem }) => (DCF_NAME.test(stem) && !stem.startsWith('_') ? [[stem.slice(1), stem]] : [])),
  );
  const chapters = chaptersOf(files);
  const tracks = tracksOf(files);
  const common = files[0] && { structure: structureOf(files[0]), root: null };
  for (const file of files) {
    const { stem } = file;
    const place = (within: string, role: ObjectRole, structure: StructureName, order: number | null = null) =>
      keys.set(file, { key: `${file.foldedFolder}/${within}`, role, order, structure, root: null });
    const chapter = chapters.get(file);
    const track = tracks.get(file);
    const burst = stem.includes('burst') ? BURST.map((test) => test.exec(stem)?.[1]).find(Boolean) : undefined;
    const edited = /^([a-z]{3}_)e(\d{4,})$/.exec(stem);
    const timed = stem.length > 15 ? TIME_STEM.exec(stem)?.[1] : undefined;
    const dcf = DCF_NAME.exec(stem);
    if (chapter) place(chapter.key, 'leader', 'chapters', chapter.order);
    else if (track) place(track.key, 'leader', 'recorder', track.order);
    else if (burst) place(burst, 'leader', 'phone', stem.includes('cover') ? 0 : 1);
    else if (edited && stems.has(`${edited[1]}${edited[2]}`)) place(`${edited[1]}${edited[2]}`, 'edit', 'phone');
    else if (timed) place(timed, EDITED.test(stem) ? 'edit' : 'leader', 'phone');
    else if (dcf && stem.startsWith('_')) {
      place(bySpace.get(stem.slice(1)) ?? stem, 'leader', common!.structure);
    } else {
      const series = /^([a-z])(\d{3})(\d{4})$/.exec(stem);
      const one: Placed = { ...common!, key: `${file.foldedFolder}/${stem}`, role: 'leader', order: null };
      keys.set(file, series && file.kind === 'photo' ? { ...one, series: `${file.foldedFolder}/${series[1]}${series[2]}` } : one);
    }
  }
  return keys;
}

/** Parts that are broken off at a size have the same one, but for the last. */
const SAME_SIZE = 0.1;

/** Clips that are chapters of one recording, by number and size. */
function chaptersOf(files: readonly CardFile[]): Map<CardFile, { key: string; order: number }> {
  const families = new Map<string, { file: CardFile; order: number; needsSize: boolean }[]>();
  const add = (key: string, file: CardFile, order: number, needsSize: boolean) => {
    const family = families.get(key);
    if (family) family.push({ file, order, needsSize });
    else families.set(key, [{ file, order, needsSize }]);
  };
  const firsts: CardFile[] = [];
  const before = new Map<string, string[]>();
  for (const file of files) {
    if (file.kind !== 'video') continue;
    // The chapter before the number of the clip: two letters, two digits, four digits.
    const numbered = /^([a-z])([a-z])(\d{2})(\d{4})$/.exec(file.stem);
    if (numbered) {
      const key = `${numbered[1]}${numbered[2]}?${numbered[4]}.${file.ext}`;
      const first = `${numbered[1]}${numbered[4]}.${file.ext}`;
      if (!families.has(key)) before.set(first, [...(before.get(first) ?? []), key]);
      add(key, file, Number(numbered[3]), false);
    } else if (/^[a-z]{4}\d{4}$/.test(file.stem)) firsts.push(file);
    else {
      // The chapter behind it: told from clips that are only numbered by their sizes. Dates are no clip's number.
      const behind = /^(.*\d)[_-](\d{2,3})$/.exec(file.stem);
      if (behind && !/\d{4}-?\d{2}-?\d{2}$/.test(behind[1]!)) add(`${behind[1]}?.${file.ext}`, file, Number(behind[2]), true);
    }
  }
  // The first chapter of a recording may have four letters and the others two and a number.
  for (const file of firsts) {
    const keys = before.get(`${file.stem[0]}${file.stem.slice(4)}.${file.ext}`) ?? [];
    if (keys.length === 1) add(keys[0]!, file, 0, false);
  }
  const chapters = new Map<CardFile, { key: string; order: number }>();
  for (const [key, family] of families) {
    if (family.length < 2) continue;
    family.sort((a, b) => a.order - b.order);
    if (family.some(({ needsSize }) => needsSize) && !isBrokenUp(family.map(({ file }) => file.bytes))) continue;
    for (const { file, order } of family) chapters.set(file, { key, order });
  }
  return chapters;
}

function isBrokenUp(sizes: readonly (number | undefined)[]): boolean {
  const known = sizes.filter((size) => size !== undefined);
  if (known.length !== sizes.length) return false;
  const whole = known.slice(0, -1);
  const [least, most, last] = [Math.min(...whole), Math.max(...whole), known.at(-1)!];
  return least > 0 && least >= most * (1 - SAME_SIZE) && last <= most;
}

/** Sound files that are tracks of one take. */
function tracksOf(files: readonly CardFile[]): Map<CardFile, { key: string; order: number }> {
  const takes = new Map<string, { file: CardFile; track: string }[]>();
  for (const file of files) {
    if (file.kind !== 'sound') continue;
    const found = TRACK.exec(file.stem);
    if (!found) continue;
    const take = takes.get(found[1]!);
    if (take) take.push({ file, track: found[2]! });
    else takes.set(found[1]!, [{ file, track: found[2]! }]);
  }
  const tracks = new Map<CardFile, { key: string; order: number }>();
  for (const [key, take] of takes) {
    if (take.length < 2) continue;
    take.sort((a, b) => rank(a.track) - rank(b.track) || (a.track < b.track ? -1 : 1));
    take.forEach(({ file }, index) => tracks.set(file, { key, order: index + 1 }));
  }
  return tracks;
}

const rank = (track: string) => (MIXES.includes(track) ? 0 : Number(/\d+/.exec(track)?.[0] ?? 99));

/** A sidecar, small version or thumbnail: with what it is named after, else alone. */
function placeCompanion(file: CardFile, role: ObjectRole | null, media: Media): Placed {
  const { kind } = file;
  const found = findMedia(file, media);
  const as = role ?? (kind === 'sidecar' ? 'sidecar' : null);
  if (!found) {
    const project = /^(hprj|prj|ses|edl)$/.test(file.ext) ? takeBeside(file, media) : null;
    if (project) return { ...project, role: 'index', order: null };
    // A picture in a folder called so that stands for nothing is a picture.
    return alone(file, isMedia(kind) && own(SMALL, file.ext) === undefined ? 'leader' : (as ?? 'leader'));
  }
  // Any other file that only shares a name is nobody's companion.
  if (!as) return alone(file, 'leader');
  return { key: found.key, role: as, order: found.order, structure: found.structure, root: found.root };
}

function findMedia(file: CardFile, { at, called }: Media): Placed | null {
  const folders = [file.foldedFolder];
  if (sideRole(file.foldedFolder))
    for (let up = 1; up <= 2; up++) folders.push(file.foldedFolder.split('/').slice(0, -up).join('/'));
  for (const stem of stemsFor(file)) {
    for (const folder of folders) {
      const found = at.get(`${folder}/${stem}`);
      if (found) return found;
    }
    // Small versions may lie elsewhere on the card: with what is the only one of that name.
    if (folders.length > 1 || own(SMALL, file.ext) !== undefined) {
      const keys = new Set((called.get(stem) ?? []).map(({ key }) => key));
      if (keys.size === 1) return called.get(stem)![0]!;
    }
  }
  // A small version whose letters differ: `GL010123.LRV` beside `GX010123.MP4`.
  if (own(SMALL, file.ext) === 'proxy') {
    const numbered = /^([a-z])[a-z](\d{6})$/.exec(file.stem);
    if (numbered) {
      const like = LETTERS.flatMap((letter) => at.get(`${file.foldedFolder}/${numbered[1]}${letter}${numbered[2]}`) ?? []);
      if (new Set(like.map(({ key }) => key)).size === 1) return like[0]!;
    }
  }
  return null;
}

const LETTERS = Array.from({ length: 26 }, (_, index) => String.fromCharCode(97 + index));

/** Stems under which a companion's clip may stand, the nearest first. */
function stemsFor({ stem }: CardFile): string[] {
  const stems = [stem];
  // `A001.MP4.xml` describes A001.MP4.
  if (extensionOf(stem) && isMedia(kindOf(stem))) stems.push(stemOf(stem));
  // `CLIP0001M01.XML` describes CLIP0001, `CLIP0001S01.MP4` is its small version.
  const suffixed = /^(.+)[a-z]\d\d$/.exec(stem)?.[1];
  if (suffixed) stems.push(suffixed);
  // Adjustments of what was edited on a phone: `IMG_E0001`, `IMG_O0001`.
  const adjusted = /^([a-z]{3}_)[eo](\d{4,})$/.exec(stem);
  if (adjusted) stems.push(`${adjusted[1]}${adjusted[2]}`);
  const timed = TIME_STEM.exec(stem)?.[1];
  if (timed) stems.push(timed);
  return stems;
}

/** A recorder's project file lies with the takes that it is about: the take it is named after, or the only one. */
function takeBeside(file: CardFile, { takes }: Media): Placed | null {
  const here = takes.get(file.foldedFolder) ?? [];
  const named = here.find(({ stem }) => stem.startsWith(file.stem));
  return named?.take ?? (new Set(here.map(({ take }) => take.key)).size === 1 ? here[0]!.take : null);
}
