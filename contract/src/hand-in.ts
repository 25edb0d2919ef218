import { staysBelow, utf8Bytes } from '@tally/core/rule';
import { z } from 'zod';
import { Day, Id, Instant, line, text } from './primitives.js';

/** A path inside a card: relative, `/` between folders, nothing that leads out of it. */
export const CardPath = z
  .string()
  .min(1)
  .max(1000)
  .refine(staysBelow, 'leads out of its folder')
  // eslint-disable-next-line no-control-regex -- control characters are what is refused
  .refine((path) => !/[\u0000-\u001f\u007f\\]/.test(path), 'must not hold control characters or backslashes')
  .refine((path) => path.split('/').every((part) => utf8Bytes(part) <= 255), 'has a name of over 255 bytes');

const Hash = z.string().regex(/^[0-9a-f]{32}$/, 'is 32 hexadecimal digits');

/** `x` and `x/y`: no card holds both. */
function hasFileAsFolder(paths: readonly string[]): boolean {
  const files = new Set(paths);
  return paths.some((path) => path.split('/').some((_, index, parts) => index > 0 && files.has(parts.slice(0, index).join('/'))));
}

export const HandInStart = z
  .strictObject({
    /** Null: the list does not know who it is; then `saysName` says it. */
    contributorId: Id.nullable(),
    saysName: text(120).default(''),
    assignmentId: Id.nullable(),
    /** What the folder or card is called where it comes from. */
    name: line(60),
    files: z
      .array(
        z.strictObject({
          path: CardPath,
          bytes: z.number().int().min(0).max(1e13),
          modifiedMs: z.number().int().min(0).max(8e15),
          /** Fast identity: XXH128 over both ends; see core/copies. */
          quickHash: Hash,
        }),
      )
      .min(1, 'holds no files')
      .max(50_000)
      .refine((files) => new Set(files.map(({ path }) => path)).size === files.length, 'names a path twice')
      .refine((files) => !hasFileAsFolder(files.map(({ path }) => path)), 'names a file that is a folder of another one'),
  })
  .refine(({ contributorId, saysName }) => contributorId !== null || saysName !== '', {
    path: ['saysName'],
    message: 'says who hands in, when the list does not know them',
  });
export type HandInStart = z.infer<typeof HandInStart>;

/** wanted: send it; arrived: its bytes here equal those in the browser; filed: they stand on the drive already. */
export const HAND_IN_STATES = ['wanted', 'arrived', 'filed'] as const;

export const HandInView = z.object({
  id: Id,
  files: z.array(z.object({ position: z.number().int(), state: z.enum(HAND_IN_STATES), problem: z.string().nullable() })),
  /** The intake it became; null while it is on its way, and when there was nothing new. */
  intakeNumber: z.string().nullable(),
  done: z.boolean(),
  name: z.string(),
  begunAt: Instant,
  /** Files that stand, proven, in every required place that must hold them: when all do, the card may be emptied. */
  safe: z.number().int(),
});
export type HandInView = z.infer<typeof HandInView>;

export const HandInDone = z.strictObject({ withoutMissing: z.boolean().default(false) });

export const HandInChoices = z.object({
  house: z.string(),
  zone: z.string(),
  contributors: z.array(z.object({ id: Id, name: z.string() })),
  assignments: z.array(z.object({ id: Id, title: z.string(), from: Day, to: Day })),
  /** What whoever hands in is bound to, and how much was handed in by it until now. */
  bound: z.object({
    contributorId: Id.nullable(),
    assignment: z.object({ id: Id, title: z.string() }).nullable(),
    ofKind: z.string().nullable(),
    quotaBytes: z.number().nullable(),
    quotaFiles: z.number().nullable(),
    files: z.number(),
    bytes: z.number(),
  }),
  /** When the link by which this browser came in ends. */
  until: Instant.nullable(),
});
export type HandInChoices = z.infer<typeof HandInChoices>;

/** What a browser announces of a file before it sends it (the metadata of a tus upload: texts, all of them). */
export const UploadAnnouncement = z.object({
  handIn: Id,
  position: z.coerce.number().int().min(0).max(50_000),
  /** XXH128 of the bytes, as the browser read them from the card. */
  xxh128: Hash,
});
export type UploadAnnouncement = z.infer<typeof UploadAnnouncement>;
