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
import { LocationRow, TermsRow } from './credit.js';

/** Somebody who signs in. */
@Entity('person')
@Index('person_low', { synchronize: false })
@Check('person_role', `role in ('administrator', 'coordinator', 'helper', 'looker', 'hand-in')`)
export class Person {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('person_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  /** Argon2id; null until one was chosen, and for whoever comes by a link or the house's directory. */
  @Column({ type: 'text', nullable: true })
  passwordHash!: string | null;

  @Column({ type: 'text' })
  role!: string;

  @Column({ type: 'timestamptz' })
  createdAt!: Date;

  /** Since when nobody signs in as this one any more. */
  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  /** Hash of the code that an administrator gave, by which a password is chosen, and until when it is good. */
  @Column({ type: 'bytea', nullable: true })
  codeHash!: Buffer | null;

  @Column({ type: 'timestamptz', nullable: true })
  codeUntil!: Date | null;

  /** Until when this one may come, where that was said. */
  @Column({ type: 'timestamptz', nullable: true })
  until!: Date | null;

  /** Who hands in as this one, and for what, where that was said. */
  @Column({ type: 'integer', nullable: true })
  contributorId!: number | null;

  @ManyToOne(() => Contributor, { nullable: true })
  @JoinColumn({ name: 'contributor_id', foreignKeyConstraintName: 'person_contributor' })
  contributor!: Relation<Contributor> | null;

  @Column({ type: 'integer', nullable: true })
  assignmentId!: number | null;

  @ManyToOne(() => Assignment, { nullable: true })
  @JoinColumn({ name: 'assignment_id', foreignKeyConstraintName: 'person_assignment' })
  assignment!: Relation<Assignment> | null;

  /** Contributors of this kind only, where that was said: a class. */
  @Column({ type: 'text', nullable: true })
  ofKind!: string | null;

  /** How much this one may hand in altogether: bytes, and files. */
  @Column({ type: 'bigint', nullable: true })
  quotaBytes!: number | null;

  @Column({ type: 'integer', nullable: true })
  quotaFiles!: number | null;

  /** May somebody who looks see who is pictured, too? */
  @Column({ type: 'boolean', default: false })
  seesPersons!: boolean;

  /** Secret of the second factor (RFC 6238, base32), since when it counts, and the last step that was used. */
  @Column({ type: 'text', nullable: true })
  secondSecret!: string | null;

  @Column({ type: 'timestamptz', nullable: true })
  secondAt!: Date | null;

  @Column({ type: 'bigint', default: 0 })
  secondStep!: number;

  /** Who this is in the house's directory: issuer and subject. */
  @Index('person_subject', { unique: true, where: 'subject is not null' })
  @Column({ type: 'text', nullable: true })
  subject!: string | null;
}

/** What signs in once where the second factor is lost. Only hashes are kept. */
@Entity('recovery_code')
export class RecoveryCode {
  @PrimaryColumn({ type: 'bytea' })
  codeHash!: Buffer;

  @ManyToOne(() => Person, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'person_id', foreignKeyConstraintName: 'recovery_code_of' })
  person!: Relation<Person>;

  @Index('recovery_code_person')
  @Column({ type: 'integer' })
  personId!: number;
}

/** A signed-in browser. Only the hash of its token is kept. */
@Entity('session')
export class Session {
  @PrimaryColumn({ type: 'bytea' })
  tokenHash!: Buffer;

  @ManyToOne(() => Person, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'person_id' })
  person!: Relation<Person>;

  @Index('session_person')
  @Column({ type: 'integer' })
  personId!: number;

  /** When it ends unless it is used. */
  @Index('session_expires')
  @Column({ type: 'timestamptz' })
  expiresAt!: Date;

  /** By which it is named where sessions are listed. */
  @Index('session_id', { unique: true })
  @Column({ type: 'text' })
  id!: string;

  @Column({ type: 'timestamptz' })
  begunAt!: Date;

  /** When it ends however much it is used. */
  @Column({ type: 'timestamptz' })
  endsAt!: Date;

  @Column({ type: 'timestamptz' })
  usedAt!: Date;

  /** From where, and with which browser, as that says of itself. */
  @Column({ type: 'text', default: '' })
  address!: string;

  @Column({ type: 'text', default: '' })
  agent!: string;

  /** It was begun with a code: first of all a password is to be chosen. */
  @Column({ type: 'boolean', default: false })
  byCode!: boolean;
}

/** Who took the pictures. */
@Entity('contributor')
@Index('contributor_minor', ['id'], { where: 'minor' })
export class Contributor {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('contributor_code', { unique: true })
  @Column({ type: 'text' })
  code!: string;

  @Column({ type: 'text' })
  name!: string;

  @Column({ type: 'timestamptz' })
  createdAt!: Date;

  /** Since when nobody is offered this one any more; what was filed stays theirs. */
  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  /** The parts of the name, where somebody said them. */
  @Column({ type: 'text', default: '' })
  given!: string;

  @Column({ type: 'text', default: '' })
  family!: string;

  /** Pupil, volunteer, staff …: in the house's words. */
  @Column({ type: 'text', default: '' })
  kind!: string;

  @Column({ type: 'text', default: '' })
  email!: string;

  @Column({ type: 'text', default: '' })
  phone!: string;

  @Column({ type: 'text', default: '' })
  address!: string;

  @Column({ type: 'text', default: '' })
  web!: string;

  /** Which of e-mail, phone, address and web stay inside the house. */
  @Column({ type: 'text', array: true, default: [] })
  inside!: string[];

  @Column({ type: 'text', nullable: true })
  creditLine!: string | null;

  @Column({ type: 'text', nullable: true })
  copyrightNotice!: string | null;

  @Column({ type: 'integer', nullable: true })
  termsId!: number | null;

  @ManyToOne(() => TermsRow, { nullable: true })
  @JoinColumn({ name: 'terms_id', foreignKeyConstraintName: 'contributor_terms' })
  terms!: Relation<TermsRow> | null;

  @Column({ type: 'text', default: '' })
  notes!: string;

  /** Not of age: whoever may not see persons sees the code instead of the name. */
  @Column({ type: 'boolean', default: false })
  minor!: boolean;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** A camera body, and whose it is as far as known. */
@Entity('camera')
@Index('camera_body', ['make', 'model', 'serial'], { unique: true })
export class Camera {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  make!: string;

  @Column({ type: 'text' })
  model!: string;

  @Column({ type: 'text' })
  serial!: string;

  @ManyToOne(() => Contributor, { nullable: true })
  @JoinColumn({ name: 'contributor_id' })
  contributor!: Relation<Contributor> | null;

  @Index('camera_of')
  @Column({ type: 'integer', nullable: true })
  contributorId!: number | null;
}

/** What is to be covered. */
@Entity('assignment')
@Index('assignment_days', ['fromDay', 'id'])
@Index('assignment_until', ['toDay'])
@Index('assignment_words', { synchronize: false })
export class Assignment {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('assignment_slug', { unique: true })
  @Column({ type: 'text' })
  slug!: string;

  /** The house's own number or letters for it. */
  @Column({ type: 'text', default: '' })
  code!: string;

  @Column({ type: 'text' })
  title!: string;

  @Column({ type: 'date' })
  fromDay!: string;

  @Column({ type: 'date' })
  toDay!: string;

  @Column({ type: 'text' })
  place!: string;

  @Column({ type: 'integer' })
  expectedCards!: number;

  /** Since when it is not offered any more; what was filed for it stays. */
  @Column({ type: 'timestamptz', nullable: true })
  retiredAt!: Date | null;

  @Column({ type: 'text', default: '' })
  description!: string;

  /** Whom to ask there. */
  @Column({ type: 'text', default: '' })
  contacts!: string;

  /** Last day on which nothing of it may be shown. */
  @Column({ type: 'date', nullable: true })
  embargoUntil!: string | null;

  @Column({ type: 'integer', nullable: true })
  termsId!: number | null;

  @ManyToOne(() => TermsRow, { nullable: true })
  @JoinColumn({ name: 'terms_id', foreignKeyConstraintName: 'assignment_terms' })
  terms!: Relation<TermsRow> | null;

  @Column({ type: 'integer', nullable: true })
  locationId!: number | null;

  @ManyToOne(() => LocationRow, { nullable: true })
  @JoinColumn({ name: 'location_id', foreignKeyConstraintName: 'assignment_location' })
  location!: Relation<LocationRow> | null;

  @Column({ type: 'integer', default: 1 })
  revision!: number;
}

/** A contributor who is expected to hand in for an assignment. */
@Entity('assignment_expected')
export class AssignmentExpected {
  @PrimaryColumn({ type: 'integer' })
  assignmentId!: number;

  @PrimaryColumn({ type: 'integer' })
  contributorId!: number;

  @ManyToOne(() => Assignment, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'assignment_id' })
  assignment!: Relation<Assignment>;

  @ManyToOne(() => Contributor, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'contributor_id' })
  contributor!: Relation<Contributor>;
}

/** How far a camera's clock was off, as somebody found out. The newest one is offered next time. */
@Entity('clock_correction')
@Check('clock_correction_kind', `kind in ('clock', 'zone')`)
@Index('clock_correction_body', ['make', 'model', 'serial', 'id'])
export class ClockCorrection {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Column({ type: 'text' })
  make!: string;

  @Column({ type: 'text' })
  model!: string;

  @Column({ type: 'text' })
  serial!: string;

  /** Seconds to add to the camera's time. */
  @Column({ type: 'integer' })
  shiftS!: number;

  /** Was the clock wrong, or set to another time zone? */
  @Column({ type: 'text' })
  kind!: string;

  @Column({ type: 'text' })
  saidBy!: string;

  @Column({ type: 'timestamptz' })
  saidAt!: Date;
}
