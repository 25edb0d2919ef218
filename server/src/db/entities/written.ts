import type { Properties, Question } from '@tally/core/fields';
import { Check, Column, Entity, Index, JoinColumn, ManyToOne, PrimaryColumn, type Relation } from 'typeorm';
import { FiledItem, Place } from './filed.js';

/** An edit as it is kept: base64 of the bytes that come. */
export interface PieceKept {
  readonly at: number;
  readonly cut: number;
  readonly put: string;
}

/** What was said in a filed item or beside it at some time: a version for each different thing. */
@Entity('credit_written')
@Check('credit_written_how', `how in ('inside', 'beside', 'none')`)
@Index('credit_written_identity', ['bytes', 'quickHash'], { where: `how = 'inside'` })
export class CreditWritten {
  @PrimaryColumn({ type: 'integer' })
  filedItemId!: number;

  /** Counts from 1. */
  @PrimaryColumn({ type: 'integer' })
  version!: number;

  @ManyToOne(() => FiledItem, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'filed_item_id', foreignKeyConstraintName: 'credit_written_of' })
  filedItem!: Relation<FiledItem>;

  /** In the file, in a sidecar beside it, or nowhere but in the records. */
  @Column({ type: 'text' })
  how!: 'inside' | 'beside' | 'none';

  /** Stands for everything that was said: when it is another one, the files must follow. */
  @Column({ type: 'text' })
  fingerprint!: string;

  /** Why it is not inside though the house would have it there. */
  @Column({ type: 'text', nullable: true })
  reason!: string | null;

  /** Of the file with what is inside it, or of the sidecar: XXH128, fast identity, size. */
  @Column({ type: 'bigint', nullable: true })
  bytes!: number | null;

  @Column({ type: 'bytea', nullable: true })
  hash!: Buffer | null;

  @Column({ type: 'bytea', nullable: true })
  quickHash!: Buffer | null;

  /** Takes out what is inside: the bytes of the card are left. */
  @Column({ type: 'jsonb', nullable: true })
  undo!: PieceKept[] | null;

  /** What we said in a sidecar: what somebody else changes there later is compared with it. */
  @Column({ type: 'jsonb', nullable: true })
  said!: Properties | null;

  /** Where what came with the file says something else than the house. */
  @Column({ type: 'jsonb', default: [] })
  questions!: Question[];
}

/** A list, record or history that stands beside filed files at a place, as we wrote it. */
@Entity('beside_written')
export class BesideWritten {
  @PrimaryColumn({ type: 'text' })
  placeId!: string;

  @ManyToOne(() => Place, { nullable: false })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'beside_written_at' })
  place!: Relation<Place>;

  /** The folder that it explains. */
  @PrimaryColumn({ type: 'text', collation: 'C' })
  folder!: string;

  /** Path from that folder. */
  @PrimaryColumn({ type: 'text', collation: 'C' })
  name!: string;

  @Column({ type: 'bigint' })
  bytes!: number;

  /** XXH128. */
  @Column({ type: 'bytea' })
  hash!: Buffer;

  /** Number of the intake that it is a record of. */
  @Column({ type: 'text', nullable: true })
  intake!: string | null;
}

/** Which version stands in a filed item, or beside it, at a place. Without a row: none. */
@Entity('credit_stands')
export class CreditStands {
  @PrimaryColumn({ type: 'integer' })
  filedItemId!: number;

  @PrimaryColumn({ type: 'text' })
  placeId!: string;

  @Column({ type: 'integer' })
  version!: number;

  @ManyToOne(() => CreditWritten, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn([
    { name: 'filed_item_id', referencedColumnName: 'filedItemId', foreignKeyConstraintName: 'credit_stands_as' },
    { name: 'version', referencedColumnName: 'version', foreignKeyConstraintName: 'credit_stands_as' },
  ])
  written!: Relation<CreditWritten>;

  @ManyToOne(() => Place, { nullable: false })
  @JoinColumn({ name: 'place_id', foreignKeyConstraintName: 'credit_stands_at' })
  place!: Relation<Place>;

  /** A sidecar as it stands there, where that is not what we wrote alone. */
  @Column({ type: 'bytea', nullable: true })
  hash!: Buffer | null;

  @Column({ type: 'bigint', nullable: true })
  bytes!: number | null;

  /** The sidecar's own time, as we left it: whoever writes in it changes that, a disk that fails does not. */
  @Column({ type: 'timestamptz', nullable: true })
  modifiedAt!: Date | null;

  /** What we said in that sidecar. */
  @Column({ type: 'jsonb', nullable: true })
  said!: Properties | null;

  /** Where somebody else and the house both changed it. */
  @Column({ type: 'jsonb', default: [] })
  questions!: Question[];
}
