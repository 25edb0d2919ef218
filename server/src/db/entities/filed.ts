import type { CopyState } from '@tally/core/copies';
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
import { Intake, Item } from './intake.js';

/** A name on the drive: promised when filing begins, whole when its copies tally. */
@Entity('filed_item')
@Index('filed_item_identity', ['bytes', 'quickHash'])
export class FiledItem {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @ManyToOne(() => Intake, { nullable: false })
  @JoinColumn({ name: 'intake_id' })
  intake!: Relation<Intake>;

  @Index('filed_item_intake')
  @Column({ type: 'integer' })
  intakeId!: number;

  @ManyToOne(() => Item, { nullable: false })
  @JoinColumn({ name: 'item_id' })
  item!: Relation<Item>;

  @Index('filed_item_item', { unique: true })
  @Column({ type: 'integer' })
  itemId!: number;

  @Column({ type: 'text', collation: 'C' })
  folder!: string;

  @Index('filed_item_folder')
  @Column({ type: 'text', collation: 'C' })
  foldedFolder!: string;

  @Column({ type: 'text', collation: 'C' })
  name!: string;

  /** Where the lists stand that explain it: its folder, or the one below which it stands as on the card. */
  @Column({ type: 'text', collation: 'C' })
  listFolder!: string;

  @Index('filed_item_list')
  @Column({ type: 'text', collation: 'C' })
  foldedListFolder!: string;

  /** Folder and name folded (letter case, Unicode form): no two filed items may share it. */
  @Index('filed_item_path', { unique: true })
  @Column({ type: 'text', collation: 'C' })
  foldedPath!: string;

  @Column({ type: 'integer', nullable: true })
  n!: number | null;

  @Column({ type: 'bigint' })
  bytes!: number;

  /** XXH128 of the bytes as they came from the card. */
  @Column({ type: 'bytea', nullable: true })
  hash!: Buffer | null;

  @Column({ type: 'bytea', nullable: true })
  quickHash!: Buffer | null;

  @Column({ type: 'timestamptz', nullable: true })
  filedAt!: Date | null;
}

/** Where copies live. Made from the settings at start. */
@Entity('place')
@Check('place_kind', `kind in ('shared drive', 'second copy', 'off-site copy', 'archive')`)
@Check('place_fill', `fill in ('with the card', 'later')`)
export class Place {
  @PrimaryColumn({ type: 'text' })
  id!: string;

  @Column({ type: 'text' })
  name!: string;

  @Column({ type: 'text' })
  kind!: string;

  @Column({ type: 'boolean' })
  required!: boolean;

  @Column({ type: 'integer' })
  position!: number;

  /** Name of its device where the house says so; else the system is asked. */
  @Column({ type: 'text', nullable: true })
  device!: string | null;

  @Column({ type: 'text', default: 'with the card' })
  fill!: string;

  /** What it must hold; null: everything. */
  @Column({ type: 'text', array: true, nullable: true })
  holdsKinds!: string[] | null;

  @Column({ type: 'text', array: true, nullable: true })
  holdsAssignments!: string[] | null;

  @Column({ type: 'integer', nullable: true })
  bytesPerSecond!: number | null;

  /** Stands in a marker file at the place's root, so that an empty mount point is not taken for the place. */
  @Column({ type: 'text' })
  mark!: string;

  /** Was its root marked once? Then one without a mark is not the place. */
  @Column({ type: 'boolean', default: false })
  marked!: boolean;

  /** Epoch in which it was looked at for numbers that stand there: none of them is drawn again. */
  @Column({ type: 'integer', default: 0 })
  met!: number;
}

/** A station whose settings name a place. Where it is mounted there is that station's own affair. */
@Entity('place_known')
export class PlaceKnown {
  @PrimaryColumn({ type: 'text' })
  placeId!: string;

  @PrimaryColumn({ type: 'text' })
  station!: string;

  @ManyToOne(() => Place, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'place_known_place' })
  place!: Relation<Place>;
}

/** One copy of one filed item at one place. */
@Entity('copy')
@Check('copy_state', `state in ('waiting', 'copying', 'tallied', 'differs', 'missing', 'unreadable')`)
@Index('copy_unfinished', ['placeId', 'filedItemId'], { where: `state <> 'tallied'` })
export class Copy {
  @PrimaryColumn({ type: 'integer' })
  filedItemId!: number;

  @PrimaryColumn({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => FiledItem, { nullable: false })
  @JoinColumn({ name: 'filed_item_id' })
  filedItem!: Relation<FiledItem>;

  @ManyToOne(() => Place, { nullable: false })
  @JoinColumn({ name: 'place_id' })
  place!: Relation<Place>;

  @Column({ type: 'text' })
  state!: CopyState;

  @Column({ type: 'timestamptz', nullable: true })
  talliedAt!: Date | null;

  /** How the proof was made: past the page cache, or through it. */
  @Column({ type: 'text', nullable: true })
  proof!: string | null;

  @Column({ type: 'text', nullable: true })
  problem!: string | null;
}

/** A change of what a place has: its total is the sum of its lines. Kept by triggers; a sweep puts lines together. */
@Entity('place_total')
export class PlaceTotal {
  @PrimaryGeneratedColumn('identity', { type: 'bigint', generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('place_total_of')
  @Column({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'place_total_place' })
  place!: Relation<Place>;

  /** Copies that tally. */
  @Column({ type: 'integer' })
  copies!: number;

  @Column({ type: 'bigint' })
  bytes!: number;

  /** Copies it lacks of what was read. */
  @Column({ type: 'integer' })
  open!: number;

  @Column({ type: 'bigint' })
  openBytes!: number;

  /** Bytes of copies that are promised to it, read or not. */
  @Column({ type: 'bigint' })
  promisedBytes!: number;
}

/** A folder that something is filed in, or promised to. Kept by triggers. */
@Entity('filed_folder')
export class FiledFolder {
  @PrimaryColumn({ type: 'text', collation: 'C' })
  folded!: string;

  @Column({ type: 'text', collation: 'C' })
  folder!: string;

  @Column({ type: 'integer' })
  items!: number;

  @Column({ type: 'bigint' })
  bytes!: number;

  /** Id of the newest filed item in it. */
  @Index('filed_folder_newest')
  @Column({ type: 'integer' })
  newest!: number;
}

/** A folder at a place whose lists and records must be written: kept by triggers, so that nothing forgets it. */
@Entity('beside_due')
export class BesideDue {
  @PrimaryColumn({ type: 'integer' })
  intakeId!: number;

  @PrimaryColumn({ type: 'text', collation: 'C' })
  folder!: string;

  @PrimaryColumn({ type: 'text' })
  placeId!: string;

  /** Not before this moment: what failed is tried again later. */
  @Column({ type: 'timestamptz', default: () => 'now()' })
  dueAt!: Date;

  @Column({ type: 'text', nullable: true })
  problem!: string | null;
}

/** The next free number of a sequence. */
@Entity('counter')
export class Counter {
  @PrimaryColumn({ type: 'text' })
  scope!: string;

  @Column({ type: 'integer' })
  next!: number;
}

/** Who this house is, and how often its log went on in another database: one row. */
@Entity('house_life')
@Check('house_life_one', 'one')
export class HouseLife {
  @PrimaryColumn({ type: 'boolean', default: true })
  one!: boolean;

  /** UUID, version 7: nobody else draws it. */
  @Column({ type: 'uuid' })
  id!: string;

  /** From 1 on. */
  @Column({ type: 'integer' })
  epoch!: number;

  /** Which database it was last met in: the system's identifier, the database's, the log's. */
  @Column({ type: 'text' })
  database!: string;

  /** Places from whose records its logbook is being rebuilt; null: it is not. */
  @Column({ type: 'text', array: true, nullable: true })
  rebuilding!: string[] | null;
}

/** A backup that was made at a destination, or why it was not. */
@Entity('backup_made')
@Index('backup_made_at', ['destination', 'at'])
export class BackupMade {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'timestamptz' })
  at!: Date;

  @Column({ type: 'text' })
  destination!: string;

  /** Is it on another disk than the server's own? */
  @Column({ type: 'boolean' })
  apart!: boolean;

  @Column({ type: 'text', nullable: true })
  folder!: string | null;

  @Column({ type: 'bigint' })
  bytes!: number;

  @Column({ type: 'text', nullable: true })
  problem!: string | null;
}

/** What happened: append-only, in the database too. */
@Entity('event')
@Index('event_intake', ['intakeId', 'id'])
@Index('event_order', ['epoch', 'xact', 'id'])
@Index('event_kind', ['kind', 'id'])
export class Event {
  @PrimaryGeneratedColumn('identity', { type: 'bigint', generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'timestamptz' })
  at!: Date;

  @Column({ type: 'text' })
  kind!: string;

  @Column({ type: 'integer', nullable: true })
  intakeId!: number | null;

  @Column({ type: 'text', nullable: true })
  who!: string | null;

  @Column({ type: 'text' })
  text!: string;

  @Column({ type: 'jsonb', nullable: true })
  data!: unknown;

  /** In which epoch it was told: transactions are numbered anew where the database is another one. */
  @Column({ type: 'integer' })
  epoch!: number;

  /** Number of the transaction that told it: events are chained in the order of these. */
  @Column({ type: 'bigint' })
  xact!: number;
}

/** The chain of the log: each link is the hash of the one before it and of its event. */
@Entity('event_link')
export class EventLink {
  /** From 1 on, without gaps. */
  @PrimaryColumn({ type: 'bigint' })
  position!: number;

  @Index('event_link_event', { unique: true })
  @Column({ type: 'bigint' })
  eventId!: number;

  @Column({ type: 'bytea' })
  hash!: Buffer;

  /** SHA-256 of salt and event as it was told: what the link holds. */
  @Column({ type: 'bytea' })
  digest!: Buffer;

  /** 16 random bytes; others since something was erased. */
  @Column({ type: 'bytea' })
  salt!: Buffer;

  /** The event that says that something was erased from this one, and what its digest is with the salt of now. */
  @Column({ type: 'bigint', nullable: true })
  erasedBy!: number | null;
}

/** A name that is to be erased from the log, and how far that is. */
@Entity('erasing')
export class Erasing {
  @PrimaryColumn({ type: 'integer' })
  contributorId!: number;

  @Column({ type: 'text', array: true })
  names!: string[];

  /** Contacts and notes. */
  @Column({ type: 'text', array: true })
  lines!: string[];

  @Column({ type: 'text' })
  who!: string;

  /** Transaction of the wish: what others tell who began before it may still have the name. */
  @Column({ type: 'bigint' })
  xact!: number;

  /** Events up to this one were looked at. */
  @Column({ type: 'bigint', default: 0 })
  upto!: number;
}
