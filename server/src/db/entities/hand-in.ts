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
import { Assignment, Contributor, Person } from './people.js';

/** A link by which somebody without an account may hand in, for a while. Only the hash of its secret is kept. */
@Entity('hand_in_link')
export class HandInLink {
  @PrimaryColumn({ type: 'bytea' })
  tokenHash!: Buffer;

  /** The person a browser becomes that opens the link. */
  @ManyToOne(() => Person, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'person_id' })
  person!: Relation<Person>;

  @Index('hand_in_link_person')
  @Column({ type: 'integer' })
  personId!: number;

  @Column({ type: 'text' })
  madeBy!: string;

  @Column({ type: 'timestamptz' })
  madeAt!: Date;

  @Column({ type: 'timestamptz' })
  expiresAt!: Date;

  /** What it is for, in somebody's words: class 7b. */
  @Column({ type: 'text', default: '' })
  name!: string;

  /** Since when it is good for nothing, though its time is not over. */
  @Column({ type: 'timestamptz', nullable: true })
  revokedAt!: Date | null;
}

/** A card on its way in through a browser. */
@Entity('hand_in')
export class HandIn {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  /** Folder that its files lie in: another life of this house has other hand-ins of that number. */
  @Column({ type: 'text', default: () => 'new_folder()' })
  folder!: string;

  @ManyToOne(() => Person, { nullable: true, onDelete: 'SET NULL' })
  @JoinColumn({ name: 'person_id' })
  person!: Relation<Person> | null;

  @Index('hand_in_person')
  @Column({ type: 'integer', nullable: true })
  personId!: number | null;

  /** What was announced and stands here or is on its way: counted against quotas, and kept free. */
  @Column({ type: 'integer', default: 0 })
  files!: number;

  @Column({ type: 'bigint', default: 0 })
  bytes!: number;

  @ManyToOne(() => Contributor, { nullable: true })
  @JoinColumn({ name: 'contributor_id' })
  contributor!: Relation<Contributor> | null;

  @Column({ type: 'integer', nullable: true })
  contributorId!: number | null;

  /** Who it is by their own word, when the list does not know them. */
  @Column({ type: 'text', default: '' })
  saysName!: string;

  @ManyToOne(() => Assignment, { nullable: true })
  @JoinColumn({ name: 'assignment_id' })
  assignment!: Relation<Assignment> | null;

  @Column({ type: 'integer', nullable: true })
  assignmentId!: number | null;

  /** What the folder or card is called where it came from. */
  @Column({ type: 'text' })
  name!: string;

  /** Stands for the list of files: the same card chosen again goes on where it stopped. */
  @Index('hand_in_listing')
  @Column({ type: 'bytea' })
  listing!: Buffer;

  @Index('hand_in_intake')
  @Column({ type: 'integer', nullable: true })
  intakeId!: number | null;

  @Column({ type: 'timestamptz' })
  begunAt!: Date;

  @Index('hand_in_open', { where: 'not done' })
  @Column({ type: 'boolean' })
  done!: boolean;
}

/** One file of a hand-in, and whether it has arrived. */
@Entity('hand_in_file')
@Check('hand_in_file_state', `state in ('wanted', 'arrived', 'filed')`)
export class HandInFile {
  @PrimaryColumn({ type: 'integer' })
  handInId!: number;

  @PrimaryColumn({ type: 'integer' })
  position!: number;

  @ManyToOne(() => HandIn, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'hand_in_id' })
  handIn!: Relation<HandIn>;

  @Column({ type: 'text' })
  path!: string;

  @Column({ type: 'bigint' })
  bytes!: number;

  @Column({ type: 'timestamptz' })
  modifiedAt!: Date;

  /** wanted, arrived (its bytes equal those in the browser) or filed (they stand on the drive already). */
  @Column({ type: 'text' })
  state!: string;

  @Column({ type: 'text', nullable: true })
  problem!: string | null;
}
