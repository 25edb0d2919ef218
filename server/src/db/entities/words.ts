import { Column, Entity, Index, JoinColumn, ManyToOne, PrimaryColumn, PrimaryGeneratedColumn, type Relation } from 'typeorm';
import { Intake, Item } from './intake.js';
import { Assignment } from './people.js';

/** A word of the house: in its list, or free until somebody takes it into the list. */
@Entity('word')
@Index('word_folded', ['folded', 'id'])
export class WordRow {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'boolean', default: false })
  listed!: boolean;

  /** What it is called, as it is looked for: kept with its names, so that lists need not look for it. */
  @Column({ type: 'text', collation: 'C', default: '' })
  folded!: string;

  /** As it is known in the list it came from; null: ours. */
  @Index('word_iri', { unique: true })
  @Column({ type: 'text', nullable: true })
  iri!: string | null;

  @Column({ type: 'text', default: '' })
  note!: string;

  @Column({ type: 'timestamptz', nullable: true })
  usedAt!: Date | null;

  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  /** Grows with every correction: whoever corrects says which one they saw. */
  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** A name of a word in a language. */
@Entity('word_label')
@Index('word_label_once', ['wordId', 'language', 'text'], { unique: true })
export class WordLabelRow {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'integer' })
  wordId!: number;

  @ManyToOne(() => WordRow, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'word_id', foreignKeyConstraintName: 'word_label_of' })
  word!: Relation<WordRow>;

  @Column({ type: 'text', default: '' })
  language!: string;

  @Column({ type: 'text' })
  text!: string;

  /** As it is looked for: see core/words foldText. */
  @Index('word_label_folded')
  @Column({ type: 'text', collation: 'C' })
  folded!: string;

  @Column({ type: 'boolean' })
  preferred!: boolean;
}

/** Where typing may begin to find a name: the beginning of each of its words. */
@Entity('word_start')
@Index('word_start_begins', ['start', 'wordId'])
export class WordStart {
  @PrimaryColumn({ type: 'integer' })
  labelId!: number;

  @ManyToOne(() => WordLabelRow, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'label_id', foreignKeyConstraintName: 'word_start_of' })
  label!: Relation<WordLabelRow>;

  @PrimaryColumn({ type: 'text', collation: 'C' })
  start!: string;

  @Column({ type: 'integer' })
  wordId!: number;
}

/** A word that means more than another. */
@Entity('word_broader')
export class WordBroader {
  @PrimaryColumn({ type: 'integer' })
  wordId!: number;

  @Index('word_broader_of')
  @PrimaryColumn({ type: 'integer' })
  broaderId!: number;

  @ManyToOne(() => WordRow, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'word_id', foreignKeyConstraintName: 'word_broader_word' })
  word!: Relation<WordRow>;

  @ManyToOne(() => WordRow, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'broader_id', foreignKeyConstraintName: 'word_broader_broader' })
  broader!: Relation<WordRow>;
}

/** A word that an item has, or (has = false) has not although its slip or its assignment says it. */
@Entity('item_word')
export class ItemWord {
  @PrimaryColumn({ type: 'integer' })
  itemId!: number;

  @Index('item_word_word')
  @PrimaryColumn({ type: 'integer' })
  wordId!: number;

  @ManyToOne(() => Item, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'item_id', foreignKeyConstraintName: 'item_word_item' })
  item!: Relation<Item>;

  @ManyToOne(() => WordRow, { nullable: false })
  @JoinColumn({ name: 'word_id', foreignKeyConstraintName: 'item_word_of' })
  word!: Relation<WordRow>;

  @Column({ type: 'boolean', default: true })
  has!: boolean;
}

/** A word that a slip gives to all its items. */
@Entity('intake_word')
export class IntakeWord {
  @PrimaryColumn({ type: 'integer' })
  intakeId!: number;

  @Index('intake_word_word')
  @PrimaryColumn({ type: 'integer' })
  wordId!: number;

  @ManyToOne(() => Intake, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'intake_id', foreignKeyConstraintName: 'intake_word_intake' })
  intake!: Relation<Intake>;

  @ManyToOne(() => WordRow, { nullable: false })
  @JoinColumn({ name: 'word_id', foreignKeyConstraintName: 'intake_word_of' })
  word!: Relation<WordRow>;
}

/** A word that an assignment gives to all its items. */
@Entity('assignment_word')
export class AssignmentWord {
  @PrimaryColumn({ type: 'integer' })
  assignmentId!: number;

  @Index('assignment_word_word')
  @PrimaryColumn({ type: 'integer' })
  wordId!: number;

  @ManyToOne(() => Assignment, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'assignment_id', foreignKeyConstraintName: 'assignment_word_assignment' })
  assignment!: Relation<Assignment>;

  @ManyToOne(() => WordRow, { nullable: false })
  @JoinColumn({ name: 'word_id', foreignKeyConstraintName: 'assignment_word_of' })
  word!: Relation<WordRow>;
}
