import type { FindingKind } from '@tally/core/drive';
import {
  Check,
  Column,
  Entity,
  Index,
  JoinColumn,
  ManyToOne,
  PrimaryColumn,
  PrimaryGeneratedColumn,
  type Relation,
} from 'typeorm';
import { FiledItem, Place } from './filed.js';

/** A folder as it stood at a place when it was last looked at, with sums of what is in it and below. */
@Entity('stood_folder')
@Index('stood_folder_in', ['placeId', 'parent', 'name'])
export class StoodFolder {
  @PrimaryColumn({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'stood_folder_at' })
  place!: Relation<Place>;

  /** From the place's root; '' is the root. */
  @PrimaryColumn({ type: 'text', collation: 'C' })
  path!: string;

  /** null: the root itself. */
  @Column({ type: 'text', collation: 'C', nullable: true })
  parent!: string | null;

  @Column({ type: 'text', collation: 'C' })
  name!: string;

  /** Time of the folder itself when it was listed, milliseconds; null: it is to be listed again. */
  @Column({ type: 'double precision', nullable: true })
  changedMs!: number | null;

  /** Files that are not ours, and how many of them the logbook has, does not know, and has trouble with. */
  @Column({ type: 'integer' })
  files!: number;

  @Column({ type: 'bigint' })
  bytes!: number;

  @Column({ type: 'integer' })
  known!: number;

  @Column({ type: 'integer' })
  strays!: number;

  @Column({ type: 'integer' })
  trouble!: number;

  /** The same with everything below it. */
  @Column({ type: 'integer' })
  allFiles!: number;

  @Column({ type: 'bigint' })
  allBytes!: number;

  @Column({ type: 'integer' })
  allKnown!: number;

  @Column({ type: 'integer' })
  allStrays!: number;

  @Column({ type: 'integer' })
  allTrouble!: number;
}

/** A file that stands at a place and that nobody filed. */
@Entity('stray')
@Index('stray_at', ['placeId', 'path'], { unique: true })
@Index('stray_in', ['placeId', 'folder', 'id'])
@Index('stray_to_gather', ['placeId', 'id'], { where: `compared and left(path, 1) <> '_'` })
export class Stray {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'stray_place' })
  place!: Relation<Place>;

  @Column({ type: 'text', collation: 'C' })
  path!: string;

  @Column({ type: 'text', collation: 'C' })
  folder!: string;

  @Column({ type: 'bigint' })
  bytes!: number;

  @Column({ type: 'timestamptz' })
  modifiedAt!: Date;

  /** When it was first seen. */
  @Column({ type: 'timestamptz' })
  since!: Date;

  /** The filed item that has the same bytes. */
  @Index('stray_twin', { where: 'twin_of is not null' })
  @Column({ type: 'integer', nullable: true })
  twinOf!: number | null;

  /** Was it compared with what is filed, as it is now? */
  @Column({ type: 'boolean', default: false })
  compared!: boolean;
}

/** What a check found at a place and nobody has mended yet. */
@Entity('drive_finding')
@Index('drive_finding_of', ['placeId', 'kind', 'path'], { unique: true })
@Index('drive_finding_in', ['placeId', 'folder'])
@Index('drive_finding_kind', ['placeId', 'kind', 'folder'])
export class DriveFinding {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'drive_finding_place' })
  place!: Relation<Place>;

  @Column({ type: 'text' })
  kind!: FindingKind;

  @Column({ type: 'text', collation: 'C' })
  path!: string;

  @Column({ type: 'text', collation: 'C' })
  folder!: string;

  @Index('drive_finding_filed', { where: 'filed_item_id is not null' })
  @Column({ type: 'integer', nullable: true })
  filedItemId!: number | null;

  @Column({ type: 'text', nullable: true })
  other!: string | null;

  @Column({ type: 'text', default: '' })
  what!: string;

  /** How many files it is about. */
  @Column({ type: 'integer', default: 1 })
  files!: number;

  /** Is it about a folder, and seen by whoever looks into that? */
  @Column({ type: 'boolean', default: false })
  ofFolder!: boolean;

  /** When it was found first. */
  @Column({ type: 'timestamptz' })
  since!: Date;
}

/** One look at a whole place. */
@Entity('drive_check')
@Check('drive_check_state', `state in ('going', 'done', 'stopped', 'failed')`)
@Check('drive_check_how', `how in ('size and time', 'fast identity', 'every byte')`)
@Index('drive_check_going', ['placeId'], { unique: true, where: `state = 'going'` })
@Index('drive_check_at', ['placeId', 'id'])
export class DriveCheck {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'drive_check_place' })
  place!: Relation<Place>;

  @Column({ type: 'text' })
  how!: 'size and time' | 'fast identity' | 'every byte';

  /** Are names judged, too, and against today's rule? */
  @Column({ type: 'boolean' })
  names!: boolean;

  @Column({ type: 'boolean' })
  strict!: boolean;

  @Column({ type: 'text' })
  who!: string;

  @Column({ type: 'text' })
  station!: string;

  @Column({ type: 'text' })
  state!: 'going' | 'done' | 'stopped' | 'failed';

  @Column({ type: 'timestamptz' })
  begunAt!: Date;

  @Column({ type: 'timestamptz', nullable: true })
  endedAt!: Date | null;

  @Column({ type: 'integer', default: 0 })
  files!: number;

  @Column({ type: 'bigint', default: 0 })
  bytes!: number;

  @Column({ type: 'integer', default: 0 })
  folders!: number;

  @Column({ type: 'text', nullable: true })
  problem!: string | null;
}

/** Folders that are taken into the logbook as they stand. */
@Entity('adoption')
@Check('adoption_state', `state in ('going', 'done', 'stopped')`)
@Index('adoption_going', ['placeId'], { where: `state = 'going'` })
export class Adoption {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'adoption_place' })
  place!: Relation<Place>;

  /** Folders with what was answered for each; see the contract. */
  @Column({ type: 'jsonb' })
  folders!: AdoptedFolder[];

  @Column({ type: 'text' })
  who!: string;

  @Column({ type: 'text' })
  state!: 'going' | 'done' | 'stopped';

  @Column({ type: 'timestamptz' })
  begunAt!: Date;

  @Column({ type: 'timestamptz', nullable: true })
  endedAt!: Date | null;

  @Column({ type: 'integer', default: 0 })
  files!: number;

  @Column({ type: 'bigint', default: 0 })
  bytes!: number;

  @Column({ type: 'integer', default: 0 })
  adopted!: number;

  @Column({ type: 'bigint', default: 0 })
  adoptedBytes!: number;

  /** Files that were left because the same bytes are filed already. */
  @Column({ type: 'integer', default: 0 })
  twins!: number;

  @Column({ type: 'text', nullable: true })
  problem!: string | null;
}

/** A folder that is adopted, and whose and what it is. */
export interface AdoptedFolder {
  readonly folder: string;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  /** Day of files that say none themselves; null: as their times say. */
  readonly day: string | null;
}

/** Something that was put right on the drive: a plan that was shown, and is done, or taken back. */
@Entity('mend')
@Check('mend_state', `state in ('doing', 'done', 'needs attention')`)
@Index('mend_open', ['id'], { where: `state <> 'done'` })
@Index('mend_emptying', ['id'], { where: 'emptying_at is not null and emptied_at is null' })
export class Mend {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  /** What it is for: re-file, rename a folder, put aside, put back… */
  @Column({ type: 'text' })
  kind!: string;

  /** One sentence for people. */
  @Column({ type: 'text' })
  words!: string;

  @Column({ type: 'text' })
  who!: string;

  @Column({ type: 'timestamptz' })
  at!: Date;

  @Column({ type: 'text' })
  state!: 'doing' | 'done' | 'needs attention';

  @Column({ type: 'integer' })
  items!: number;

  /** The mend that this one takes back. */
  @Index('mend_takes_back', { unique: true, where: 'takes_back is not null' })
  @Column({ type: 'integer', nullable: true })
  takesBack!: number | null;

  @ManyToOne(() => Mend, { nullable: true })
  @JoinColumn({ name: 'takes_back', foreignKeyConstraintName: 'mend_of' })
  of!: Relation<Mend> | null;

  /** What was put aside may be removed after this day. */
  @Index('mend_keeps', { where: 'kept_until is not null' })
  @Column({ type: 'date', nullable: true })
  keptUntil!: string | null;

  /** When somebody began to remove it: nothing of it is mended from then on. */
  @Column({ type: 'timestamptz', nullable: true })
  emptyingAt!: Date | null;

  /** When what was put aside was removed for good. */
  @Column({ type: 'timestamptz', nullable: true })
  emptiedAt!: Date | null;

  /** What was said of items before, so that it can be said again: contributor, assignment, capture time. */
  @Column({ type: 'jsonb', nullable: true })
  before!: SaidBefore[] | null;
}

/** What was said of an item before a mend said something else. */
export interface SaidBefore {
  readonly itemId: number;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  readonly capturedLocal: string;
  /** What the mend said, where it said something; not there: of a mend from before it was kept. */
  readonly set?: { readonly contributorId?: number; readonly assignmentId?: number; readonly capturedLocal?: string };
}

/** One thing that a mend does at one place. */
@Entity('mend_move')
@Check('mend_move_what', `what in ('file', 'folder', 'leaves', 'empty folder')`)
@Check('mend_move_state', `state in ('waiting', 'done', 'failed', 'void')`)
@Index('mend_move_of', ['mendId', 'position'])
@Index('mend_move_waiting', ['placeId', 'filedItemId'], { where: `state = 'waiting'` })
@Index('mend_move_failed', ['placeId'], { where: `state = 'failed'` })
export class MendMove {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'integer' })
  mendId!: number;

  @ManyToOne(() => Mend, { nullable: false })
  @JoinColumn({ name: 'mend_id', foreignKeyConstraintName: 'mend_move_mend' })
  mend!: Relation<Mend>;

  /** Moves of one mend at one place are made in this order. */
  @Column({ type: 'integer' })
  position!: number;

  @Column({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'mend_move_at' })
  place!: Relation<Place>;

  /** A file or a folder gets another path; a file leaves the place, an empty folder goes. */
  @Column({ type: 'text' })
  what!: 'file' | 'folder' | 'leaves' | 'empty folder';

  /** null: of nothing that is filed, or of a whole folder. */
  @Index('mend_move_filed', { where: 'filed_item_id is not null' })
  @Column({ type: 'integer', nullable: true })
  filedItemId!: number | null;

  @ManyToOne(() => FiledItem, { nullable: true, onDelete: 'SET NULL' })
  @JoinColumn({ name: 'filed_item_id', foreignKeyConstraintName: 'mend_move_item' })
  filedItem!: Relation<FiledItem> | null;

  @Column({ type: 'text' })
  fromPath!: string;

  /** '' where it leaves. */
  @Column({ type: 'text' })
  toPath!: string;

  @Column({ type: 'text' })
  state!: 'waiting' | 'done' | 'failed' | 'void';

  @Column({ type: 'text', nullable: true })
  problem!: string | null;

  /** Of what nobody filed and lies in the tray: its size and fast identity when it was put there. */
  @Column({ type: 'bigint', nullable: true })
  bytes!: number | null;

  @Column({ type: 'bytea', nullable: true })
  quickHash!: Buffer | null;
}

/** A path that a filed item had once: what is printed or linked still leads to it. */
@Entity('former_path')
export class FormerPath {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('former_path_of')
  @Column({ type: 'integer' })
  filedItemId!: number;

  @ManyToOne(() => FiledItem, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'filed_item_id', foreignKeyConstraintName: 'former_path_item' })
  filedItem!: Relation<FiledItem>;

  @Column({ type: 'text', collation: 'C' })
  path!: string;

  @Index('former_path_folded')
  @Column({ type: 'text', collation: 'C' })
  foldedPath!: string;

  /** Folder where the lists stood that explained it. */
  @Index('former_path_in')
  @Column({ type: 'text', collation: 'C' })
  foldedFolder!: string;

  @Column({ type: 'timestamptz' })
  until!: Date;

  @Index('former_path_by')
  @Column({ type: 'integer' })
  mendId!: number;

  /** Number in the sequence that it had then. */
  @Column({ type: 'integer', nullable: true })
  n!: number | null;
}
