import type { Answers, Belonging, Consent, Stance } from '@tally/core/credit';
import type { Standing, Writing } from '@tally/core/fields';
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
import { Item } from './intake.js';
import { Contributor } from './people.js';

/** What may be done with an item, as the house puts it. */
@Entity('terms')
@Check('terms_stance', `stance in ('free for the house', 'ask first', 'not to be shown', 'open licence')`)
export class TermsRow {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('terms_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  @Column({ type: 'text' })
  stance!: Stance;

  @Column({ type: 'text', default: '' })
  sentence!: string;

  @Column({ type: 'text', nullable: true })
  web!: string | null;

  @Column({ type: 'date', nullable: true })
  until!: string | null;

  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** Where pictures are taken, as the house names it. */
@Entity('location')
export class LocationRow {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('location_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  @Column({ type: 'text', default: '' })
  part!: string;

  @Column({ type: 'text', default: '' })
  town!: string;

  @Column({ type: 'text', default: '' })
  region!: string;

  /** ISO 3166-1, two letters; '' when nobody says. */
  @Column({ type: 'text', default: '' })
  country!: string;

  @Column({ type: 'double precision', nullable: true })
  lat!: number | null;

  @Column({ type: 'double precision', nullable: true })
  lon!: number | null;

  /** So far from it, in metres, a picture still counts as taken there. */
  @Column({ type: 'integer', default: 1000 })
  reachM!: number;

  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** Somebody who is shown in pictures, and what they said to that. */
@Entity('pictured')
@Check('pictured_consent', `consent in ('yes', 'no', 'ask')`)
export class PicturedRow {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('pictured_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  @Column({ type: 'text', default: 'ask' })
  consent!: Consent;

  @Column({ type: 'date', nullable: true })
  until!: string | null;

  @Column({ type: 'text', default: '' })
  purpose!: string;

  @Column({ type: 'text', default: '' })
  notes!: string;

  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** Answers that a slip gives by itself. */
@Entity('habit')
@Check('habit_belongs', `belongs in ('card', 'contributor', 'assignment', 'reader', 'house')`)
@Index('habit_of', ['belongs', 'of'])
export class HabitRow {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('habit_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  @Column({ type: 'text' })
  belongs!: Belonging;

  /** Id of the card, contributor or assignment; the reader's folder; '' for the house. */
  @Column({ type: 'text', default: '' })
  of!: string;

  @Column({ type: 'jsonb', default: {} })
  answers!: Answers;

  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** What was agreed with a contributor, with a scan of the paper. */
@Entity('agreement')
export class Agreement {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('agreement_with')
  @Column({ type: 'integer' })
  contributorId!: number;

  @ManyToOne(() => Contributor, { nullable: false })
  @JoinColumn({ name: 'contributor_id', foreignKeyConstraintName: 'agreement_contributor' })
  contributor!: Relation<Contributor>;

  @Column({ type: 'text' })
  what!: string;

  @Column({ type: 'date', nullable: true })
  signedOn!: string | null;

  @Column({ type: 'date', nullable: true })
  until!: string | null;

  @Column({ type: 'bytea', nullable: true, select: false })
  scan!: Buffer | null;

  /** `application/pdf`, `image/jpeg` or `image/png`; null: no scan. */
  @Column({ type: 'text', nullable: true })
  scanType!: string | null;
}

/** A code that means somebody who has another one now: records were merged. */
@Entity('former_code')
export class FormerCode {
  @PrimaryColumn({ type: 'text' })
  code!: string;

  @Index('former_code_of')
  @Column({ type: 'integer' })
  contributorId!: number;

  @ManyToOne(() => Contributor, { nullable: false })
  @JoinColumn({ name: 'contributor_id', foreignKeyConstraintName: 'former_code_contributor' })
  contributor!: Relation<Contributor>;
}

/** What the house says of every item unless something nearer does; one row. */
@Entity('house_credit')
@Check('house_credit_one', 'id = 1')
export class HouseCredit {
  @PrimaryColumn({ type: 'integer' })
  id!: number;

  @Column({ type: 'text', nullable: true })
  creditLine!: string | null;

  @Column({ type: 'text', nullable: true })
  copyrightNotice!: string | null;

  @Column({ type: 'integer', nullable: true })
  termsId!: number | null;

  @ManyToOne(() => TermsRow, { nullable: true })
  @JoinColumn({ name: 'terms_id', foreignKeyConstraintName: 'house_credit_terms' })
  terms!: Relation<TermsRow> | null;

  /** What kinds of contributors there are, in the house's words. */
  @Column({ type: 'text', array: true, default: [] })
  kinds!: string[];

  /** Where credit is written, by kind; what is not named is written as the product proposes. */
  @Column({ type: 'jsonb', default: {} })
  writing!: Writing;

  /** Intakes below this id still say what the house said before, in their records; null: none. */
  @Column({ type: 'integer', nullable: true })
  followBelow!: number | null;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** Credit of one item, where it differs from what its slip says. */
@Entity('item_credit')
export class ItemCredit {
  @PrimaryColumn({ type: 'integer' })
  itemId!: number;

  @ManyToOne(() => Item, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'item_id', foreignKeyConstraintName: 'item_credit_item' })
  item!: Relation<Item>;

  @Column({ type: 'text', nullable: true })
  creditLine!: string | null;

  @Column({ type: 'text', nullable: true })
  copyrightNotice!: string | null;

  @Index('item_credit_terms', { where: 'terms_id is not null' })
  @Column({ type: 'integer', nullable: true })
  termsId!: number | null;

  @ManyToOne(() => TermsRow, { nullable: true })
  @JoinColumn({ name: 'terms_id', foreignKeyConstraintName: 'item_credit_term' })
  terms!: Relation<TermsRow> | null;

  @Index('item_credit_location', { where: 'location_id is not null' })
  @Column({ type: 'integer', nullable: true })
  locationId!: number | null;

  @ManyToOne(() => LocationRow, { nullable: true })
  @JoinColumn({ name: 'location_id', foreignKeyConstraintName: 'item_credit_at' })
  location!: Relation<LocationRow> | null;

  /** Where it was taken in degrees, by a track that somebody handed in. */
  @Column({ type: 'double precision', nullable: true })
  lat!: number | null;

  @Column({ type: 'double precision', nullable: true })
  lon!: number | null;

  /** Where the file says something else: which of the two stands, field by field. */
  @Column({ type: 'jsonb', default: {} })
  standing!: Standing;
}

/** Somebody who is shown in an item. */
@Entity('item_pictured')
export class ItemPictured {
  @PrimaryColumn({ type: 'integer' })
  itemId!: number;

  @Index('item_pictured_who')
  @PrimaryColumn({ type: 'integer' })
  picturedId!: number;

  @ManyToOne(() => Item, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'item_id', foreignKeyConstraintName: 'item_pictured_item' })
  item!: Relation<Item>;

  @ManyToOne(() => PicturedRow, { nullable: false })
  @JoinColumn({ name: 'pictured_id', foreignKeyConstraintName: 'item_pictured_of' })
  pictured!: Relation<PicturedRow>;
}
