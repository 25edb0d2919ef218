import type { ThingKind } from '@tally/contract';
import { Check, Column, Entity, Index, JoinColumn, ManyToOne, PrimaryGeneratedColumn, type Relation } from 'typeorm';
import { Card } from './intake.js';
import { Contributor } from './people.js';

/** A reader, cable, camera or recorder of the house that is lent as cards are. */
@Entity('kit')
@Check('kit_kind', `kind in ('reader', 'cable', 'camera', 'recorder', 'other')`)
export class Kit {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  kind!: Exclude<ThingKind, 'card'>;

  @Index('kit_label', { unique: true })
  @Column({ type: 'text' })
  label!: string;

  @Column({ type: 'text', default: '' })
  name!: string;
}

/** A card or another thing, lent to somebody; open until it is back. A thing has one open loan at most. */
@Entity('loan')
@Check('loan_of_one_thing', 'num_nonnulls(card_id, kit_id) = 1')
@Index('loan_of_card', ['cardId', 'id'])
@Index('loan_of_kit', ['kitId', 'id'])
@Index('loan_open_card', ['cardId'], { unique: true, where: 'back_at is null' })
@Index('loan_open_kit', ['kitId'], { unique: true, where: 'back_at is null' })
export class Loan {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @ManyToOne(() => Card, { nullable: true })
  @JoinColumn({ name: 'card_id', foreignKeyConstraintName: 'loan_card' })
  card!: Relation<Card> | null;

  @Column({ type: 'integer', nullable: true })
  cardId!: number | null;

  @ManyToOne(() => Kit, { nullable: true })
  @JoinColumn({ name: 'kit_id', foreignKeyConstraintName: 'loan_kit' })
  kit!: Relation<Kit> | null;

  @Column({ type: 'integer', nullable: true })
  kitId!: number | null;

  @ManyToOne(() => Contributor, { nullable: false })
  @JoinColumn({ name: 'contributor_id', foreignKeyConstraintName: 'loan_contributor' })
  contributor!: Relation<Contributor>;

  @Column({ type: 'integer' })
  contributorId!: number;

  @Column({ type: 'timestamptz' })
  lentAt!: Date;

  @Column({ type: 'text' })
  lentBy!: string;

  @Column({ type: 'date', nullable: true })
  due!: string | null;

  @Column({ type: 'text', default: '' })
  note!: string;

  @Column({ type: 'timestamptz', nullable: true })
  backAt!: Date | null;

  @Column({ type: 'text', nullable: true })
  backBy!: string | null;
}
