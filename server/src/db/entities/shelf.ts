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

/** A named, virtual group of items. It may stand inside another. */
@Entity('bundle')
@Check('bundle_not_in_itself', 'parent_id <> id')
export class BundleRow {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('bundle_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  @Index('bundle_in')
  @Column({ type: 'integer', nullable: true })
  parentId!: number | null;

  @ManyToOne(() => BundleRow, { nullable: true })
  @JoinColumn({ name: 'parent_id', foreignKeyConstraintName: 'bundle_parent' })
  parent!: Relation<BundleRow> | null;

  @Column({ type: 'text', default: '' })
  note!: string;

  /** How many items stand in it itself. Kept by a trigger. */
  @Column({ type: 'integer', default: 0 })
  items!: number;

  @Column({ type: 'text' })
  madeBy!: string;

  /** When something was last put in or said of it. */
  @Index('bundle_recent')
  @Column({ type: 'timestamptz' })
  usedAt!: Date;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** An item in a bundle, at its place in the bundle's order. */
@Entity('bundle_item')
@Index('bundle_item_order', ['bundleId', 'position', 'itemId'])
export class BundleItem {
  @PrimaryColumn({ type: 'integer' })
  bundleId!: number;

  @ManyToOne(() => BundleRow, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'bundle_id', foreignKeyConstraintName: 'bundle_item_in' })
  bundle!: Relation<BundleRow>;

  @Index('bundle_item_of')
  @PrimaryColumn({ type: 'integer' })
  itemId!: number;

  @ManyToOne(() => Item, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'item_id', foreignKeyConstraintName: 'bundle_item_item' })
  item!: Relation<Item>;

  @Column({ type: 'double precision' })
  position!: number;

  @Column({ type: 'text' })
  addedBy!: string;
}

/** A bundle that everything of an intake goes into as it is filed: a clause of its slip. */
@Entity('intake_bundle')
export class IntakeBundle {
  @PrimaryColumn({ type: 'integer' })
  intakeId!: number;

  @ManyToOne(() => Intake, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'intake_id', foreignKeyConstraintName: 'intake_bundle_intake' })
  intake!: Relation<Intake>;

  @Index('intake_bundle_of')
  @PrimaryColumn({ type: 'integer' })
  bundleId!: number;

  @ManyToOne(() => BundleRow, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'bundle_id', foreignKeyConstraintName: 'intake_bundle_bundle' })
  bundle!: Relation<BundleRow>;
}

/** A question that is kept under a name. */
@Entity('standing_question')
export class StandingQuestion {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('standing_question_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  /** As core/find prints it. */
  @Column({ type: 'text' })
  question!: string;

  /** Does it tell the desk when something new answers it? */
  @Column({ type: 'boolean', default: true })
  tells!: boolean;

  /** When the newest was filed of what somebody has looked at: what is filed later is new. */
  @Column({ type: 'timestamptz' })
  seenTo!: Date;

  /** And the last of what was filed at that moment. */
  @Column({ type: 'integer', default: 0 })
  seenId!: number;

  @Column({ type: 'text' })
  madeBy!: string;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** What was changed of what the shelf shows, and by which transaction: whoever keeps it in memory follows. */
@Entity('shelf_change')
export class ShelfChange {
  @PrimaryGeneratedColumn('identity', { type: 'bigint', generatedIdentity: 'ALWAYS' })
  id!: number;

  /** Number of the transaction: what is not yet committed is seen as such. */
  @Index('shelf_change_xact')
  @Column({ type: 'bigint' })
  xact!: number;

  @Index('shelf_change_at')
  @Column({ type: 'timestamptz', default: () => 'now()' })
  at!: Date;

  @Column({ type: 'text' })
  of!: string;

  @Column({ type: 'integer', array: true })
  ids!: number[];
}
