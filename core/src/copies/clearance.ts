/** Why a card may not be cleared. `left` alone can be let go of, knowingly. */
export const CLEARANCE_REASONS = [
  'empty',
  'devices',
  'place away',
  'gone',
  'new',
  'changed',
  'unreadable',
  'odd',
  'copies',
  'left',
] as const;
export type ClearanceReason = (typeof CLEARANCE_REASONS)[number];

/** A file of a card as it is now, beside what the logbook knows of it. */
export interface CardFileNow {
  readonly path: string;
  readonly bytes: number;
  /**
   * `same`: the bytes that were read; `new`: not in the logbook; `changed`: other bytes than were read; `unreadable`;
   * `odd`: no regular file, or a folder that cannot be listed; `index`: a system or index file of the camera; `gone`:
   * asked about, and not on the card.
   */
  readonly is: 'same' | 'gone' | 'new' | 'changed' | 'unreadable' | 'odd' | 'index';
  /** Places where a copy of these bytes tallied and stands now; null when it was never filed. */
  readonly copiesAt: readonly string[] | null;
  /** Required places that must hold it. */
  readonly neededAt: readonly string[];
}

export interface RequiredPlace {
  readonly id: string;
  readonly name: string;
  /** Null when the place is not there. */
  readonly device: string | null;
}

export interface CardClearance {
  readonly safe: boolean;
  readonly reasons: readonly {
    readonly kind: ClearanceReason;
    readonly words: string;
    readonly items: number;
    readonly paths: readonly string[];
  }[];
  /** Files that stand in every required place. */
  readonly removable: readonly CardFileNow[];
  /** Files that were left and stand nowhere else. */
  readonly left: readonly CardFileNow[];
}

const SHOWN = 5;

/**
 * May a card be cleared? Every file on it now must be one whose copies tally in every required place that must
 * hold it, on at least two devices (common practice, no source). Anything else is a reason, and is named. Index files of the camera do not count.
 * The same rule holds for some of a card's files: then `files` are those alone.
 */
export function clearanceOfCard(files: readonly CardFileNow[], required: readonly RequiredPlace[]): CardClearance {
  const reasons: CardClearance['reasons'][number][] = [];
  const say = (kind: ClearanceReason, words: string, some: readonly CardFileNow[] = []) =>
    reasons.push({ kind, words, items: some.length, paths: some.slice(0, SHOWN).map(({ path }) => path) });
  // A mount point that its card has left is empty too.
  if (!files.some(({ is }) => is !== 'index')) say('empty', 'there is nothing on the card: it was cleared, or it is not there');
  for (const place of required) if (place.device === null) say('place away', `${place.name} is not here`);
  const devices = new Set(required.flatMap(({ device }) => (device === null ? [] : [device])));
  if (required.every(({ device }) => device !== null) && devices.size < 2) {
    say('devices', 'the required places do not stand on two devices');
  }
  const deviceOf = new Map(required.map(({ id, device }) => [id, device]));
  const standing = (file: CardFileNow) => file.copiesAt !== null && file.neededAt.every((id) => file.copiesAt!.includes(id));
  const onTwo = (file: CardFileNow) => new Set(file.copiesAt?.map((id) => deviceOf.get(id))).size > 1;
  const ones = (is: CardFileNow['is']) => files.filter((file) => file.is === is);
  const same = ones('same');
  const counted = (some: readonly unknown[], one: string, many: string) => `${some.length} ${some.length === 1 ? one : many}`;
  const about = (kind: ClearanceReason, some: readonly CardFileNow[], one: string, many: string) => {
    if (some.length) say(kind, counted(some, one, many), some);
  };
  about('gone', ones('gone'), 'file is not on the card', 'files are not on the card');
  about('new', ones('new'), 'file is new since the card was read', 'files are new since the card was read');
  about('changed', ones('changed'), 'file is not what was read', 'files are not what was read');
  about('unreadable', ones('unreadable'), 'file cannot be read', 'files cannot be read');
  about('odd', ones('odd'), 'thing is no regular file', 'things are no regular files');
  for (const place of required) {
    const short = same.filter(
      ({ copiesAt, neededAt }) => copiesAt !== null && neededAt.includes(place.id) && !copiesAt.includes(place.id),
    );
    about('copies', short, `file does not tally at ${place.name}`, `files do not tally at ${place.name}`);
  }
  // Some are held by a part of the places only: those too must stand on two devices.
  if (devices.size > 1) {
    const alone = same.filter((file) => standing(file) && !onTwo(file));
    about('devices', alone, 'file does not stand on two devices', 'files do not stand on two devices');
  }
  const left = same.filter(({ copiesAt }) => copiesAt === null);
  about('left', left, 'file was left and stands nowhere else', 'files were left and stand nowhere else');
  return {
    safe: reasons.length === 0,
    reasons,
    removable: required.length ? same.filter((file) => standing(file) && file.copiesAt?.length) : [],
    left,
  };
}
