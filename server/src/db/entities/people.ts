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
@Check('person_role', `role in ('administrator', 'coordinator', 'hand-in')`)
export class Person {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('person_name', { unique: true })
  @Column({ type: 'text' })
  name!: string;

  @Column({ type: 'text' })
  passwordHash!: string;

  @Column({ type: 'text' })
  role!: string;

  @Column({ type: 'timestamptz' })
  createdAt!: Date;
}

/** A signed-in browser. Only the hash of its token is kept. */
@Entity('session')
export class Session {
  @PrimaryColumn({ type: 'bytea' })
  tokenHash!: Buffer;

  @ManyToOne(() => Person, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'person_id' })
  person!: Relation<Person>;

  @Column({ type: 'integer' })
  personId!: number;

  @Column({ type: 'timestamptz' })
  expiresAt!: Date;
}

/** Who took the pictures. */
@Entity('contributor')
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
