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

/** Something that a person wants of a card in a reader, whichever station has it. What is over is kept for a day. */
@Entity('card_work')
@Check('card_work_kind', `kind in ('look', 'clear', 'restore', 'let go')`)
@Check('card_work_state', `state in ('waiting', 'doing', 'done', 'refused')`)
@Index('card_work_doing', ['intakeId'], { where: `state = 'doing'` })
@Index('card_work_open', ['station'], { where: `state in ('waiting', 'doing')` })
export class CardWork {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  kind!: 'look' | 'clear' | 'restore' | 'let go';

  /** The intake whose card it is. */
  @ManyToOne(() => Intake, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'intake_id', foreignKeyConstraintName: 'card_work_intake' })
  intake!: Relation<Intake>;

  @Column({ type: 'integer' })
  intakeId!: number;

  /** The intake whose files it is about: another one only when they are restored to this card. */
  @ManyToOne(() => Intake, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'of_intake_id', foreignKeyConstraintName: 'card_work_of' })
  of!: Relation<Intake>;

  @Column({ type: 'integer' })
  ofIntakeId!: number;

  @Column({ type: 'text' })
  station!: string;

  @Column({ type: 'jsonb' })
  ask!: unknown;

  @Column({ type: 'text' })
  who!: string;

  @Column({ type: 'text' })
  state!: 'waiting' | 'doing' | 'done' | 'refused';

  @Column({ type: 'jsonb', nullable: true })
  answer!: unknown;

  @Column({ type: 'text', nullable: true })
  problem!: string | null;

  @Column({ type: 'text', nullable: true })
  problemKind!: string | null;

  @Column({ type: 'timestamptz' })
  askedAt!: Date;
}

/** A picture that somebody looks for whose card lies in another station's reader. Goes when it has been fetched. */
@Entity('picture_asked')
@Check('picture_asked_size', `size in ('sheet', 'closer')`)
@Index('picture_asked_open', ['station'], { where: 'not answered' })
export class PictureAsked {
  @PrimaryColumn({ type: 'integer' })
  itemId!: number;

  @ManyToOne(() => Item, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'item_id', foreignKeyConstraintName: 'picture_asked_item' })
  item!: Relation<Item>;

  @PrimaryColumn({ type: 'text' })
  size!: 'sheet' | 'closer';

  @Column({ type: 'text' })
  station!: string;

  @Column({ type: 'timestamptz', default: () => 'now()' })
  askedAt!: Date;

  @Column({ type: 'boolean', default: false })
  answered!: boolean;

  @Column({ type: 'bytea', nullable: true })
  picture!: Buffer | null;
}
