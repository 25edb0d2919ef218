import type { CaptureSource } from '@tally/core/capture';
import type { Kind, ObjectRole, StructureName } from '@tally/core/card';
import type { ClipSays } from '@tally/core/footage';
import type { IntakeState } from '@tally/core/copies';
import type { AsideReason } from '@tally/core/life';
import type { RuleSource } from '@tally/core/rule';
import type { FootageRole, IntakeSummary, OnInsert, RevisionView, Tray, Verdict } from '@tally/contract';
import { Check, Column, Entity, Index, JoinColumn, ManyToOne, PrimaryGeneratedColumn, type Relation } from 'typeorm';
import type { AnswerField, Belonging, Embedded } from '@tally/core/credit';
import { LocationRow, TermsRow } from './credit.js';
import { Assignment, Contributor } from './people.js';

/** A card with its tape label, wherever it lies. */
@Entity('card')
@Check('card_tray', `tray in ('in', 'on the desk', 'to give back', 'out')`)
@Index('card_at_hand', ['tray'], { where: `tray <> 'out'` })
@Index('card_said', { synchronize: false })
@Check('card_on_insert', `on_insert in ('show', 'open', 'take all new', 'file all new')`)
export class Card {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('card_label', { unique: true })
  @Column({ type: 'text', nullable: true })
  label!: string | null;

  /** Name of the volume as the system shows it. */
  @Column({ type: 'text' })
  volume!: string;

  @Column({ type: 'text' })
  tray!: Tray;

  /** Since when it lies there. */
  @Column({ type: 'timestamptz' })
  traySince!: Date;

  /** Is it the house's own, to be lent? */
  @Column({ type: 'boolean', default: false })
  ours!: boolean;

  /** What happens by itself when it is put in. */
  @Column({ type: 'text', default: 'show' })
  onInsert!: OnInsert;
}

/** A revision of the house rule. Never changed once written. */
@Entity('house_rule')
export class HouseRuleRevision {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  revision!: number;

  @Column({ type: 'text' })
  folderLine!: string;

  @Column({ type: 'text' })
  fileLine!: string;

  /** Lines of kinds that have their own. */
  @Column({ type: 'jsonb', default: {} })
  kinds!: NonNullable<RuleSource['kinds']>;

  @Column({ type: 'jsonb', default: {} })
  settings!: NonNullable<RuleSource['settings']>;

  @Column({ type: 'text', default: '' })
  note!: string;

  @Column({ type: 'text', nullable: true })
  saidBy!: string | null;

  /** Verdicts that did not hold when it was saved. */
  @Column({ type: 'jsonb', default: [] })
  warnings!: RevisionView['warnings'];

  @Column({ type: 'timestamptz' })
  createdAt!: Date;
}

/** Totals of an intake, kept up to date so that lists need not count. */
export type IntakeTotals = Pick<
  IntakeSummary,
  'items' | 'bytes' | 'byKind' | 'camera' | 'taken' | 'filed' | 'alreadyFiled' | 'comparing' | 'read' | 'first' | 'last' | 'stick'
>;

/** Where answers of a slip came from. */
export type AnsweredBy = Readonly<Partial<Record<AnswerField, { id: number; name: string; belongs: Belonging }>>>;

/** One hand-in. */
@Entity('intake')
@Check('intake_state', `state in ('open', 'filing', 'tallied', 'needs attention', 'closed')`)
@Check('intake_halt', `halt in ('pause', 'stop')`)
@Check('intake_let_go', `let_go in ('asked', 'done')`)
@Index('intake_unread', ['station'], { where: 'present and not read_through' })
@Index('intake_busy', ['station'], { where: `state in ('filing', 'needs attention')` })
@Index('intake_present', ['station', 'sourcePath'], { where: 'present' })
@Index('intake_let_go_at', ['station'], { where: 'let_go is not null' })
@Index('intake_lying', ['station', 'sourcePath', 'present', 'id'])
@Index('intake_card', ['cardId', 'id'])
@Index('intake_adopted_folder', ['adoptionId', 'adoptedFolder'], { unique: true, where: 'adopted_folder is not null' })
@Index('intake_by_items', ['items', 'id'])
@Index('intake_by_bytes', ['bytes', 'id'])
@Index('intake_by_state', ['state', 'id'])
@Index('intake_terms_of', ['termsId'], { where: 'terms_id is not null' })
@Index('intake_location_of', ['locationId'], { where: 'location_id is not null' })
// Written by hand in the migration: TypeORM knows no included columns, no expressions and no operator classes.
@Index('intake_received', { synchronize: false })
@Index('intake_words', { synchronize: false })
@Index('intake_by_contributor', { synchronize: false })
@Index('intake_by_assignment', { synchronize: false })
@Index('intake_by_card', { synchronize: false })
export class Intake {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  /** UUID, version 7: told apart by it from what another house, or an earlier life of this one, gave the same number. */
  @Index('intake_uid', { unique: true })
  @Column({ type: 'uuid', default: () => 'uuid_v7()' })
  uid!: string;

  @Index('intake_number', { unique: true })
  @Column({ type: 'text' })
  number!: string;

  @ManyToOne(() => Card, { nullable: false })
  @JoinColumn({ name: 'card_id' })
  card!: Relation<Card>;

  @Column({ type: 'integer' })
  cardId!: number;

  @ManyToOne(() => Contributor, { nullable: true })
  @JoinColumn({ name: 'contributor_id' })
  contributor!: Relation<Contributor> | null;

  @Index('intake_from')
  @Column({ type: 'integer', nullable: true })
  contributorId!: number | null;

  @ManyToOne(() => Assignment, { nullable: true })
  @JoinColumn({ name: 'assignment_id' })
  assignment!: Relation<Assignment> | null;

  @Index('intake_for')
  @Column({ type: 'integer', nullable: true })
  assignmentId!: number | null;

  @ManyToOne(() => HouseRuleRevision, { nullable: true })
  @JoinColumn({ name: 'rule_revision' })
  rule!: Relation<HouseRuleRevision> | null;

  @Index('intake_rule')
  @Column({ type: 'integer', nullable: true })
  ruleRevision!: number | null;

  @Column({ type: 'text' })
  state!: IntakeState;

  /** When its card was cleared, if it was. */
  @Column({ type: 'timestamptz', nullable: true })
  clearedAt!: Date | null;

  /** What the system says of its card where it lies, or lay. */
  @Column({ type: 'jsonb', nullable: true })
  reader!: object | null;

  @Column({ name: 'let_go', type: 'text', nullable: true })
  letGo!: 'asked' | 'done' | null;

  /** What a person wants of a filing: to pause or to stop. */
  @Column({ type: 'text', nullable: true })
  halt!: string | null;

  @Column({ type: 'timestamptz' })
  receivedAt!: Date;

  @Column({ type: 'text' })
  receivedBy!: string;

  @Column({ type: 'text' })
  station!: string;

  /** Folder under which the card appeared, on its station. */
  @Column({ type: 'text' })
  sourcePath!: string;

  @Column({ type: 'boolean' })
  present!: boolean;

  /** The device its card lay on. */
  @Column({ type: 'text', nullable: true })
  sourceDevice!: string | null;

  /** Path of a file that was on the card, byte for byte: while that is there, the card is. */
  @Column({ type: 'bytea', nullable: true })
  witness!: Buffer | null;

  /** Has everything on it been read, compared with what is filed, and recognised? */
  @Column({ type: 'boolean', default: false })
  readThrough!: boolean;

  /** Numbers that its last filing drew. */
  @Column({ type: 'jsonb', default: [] })
  drawn!: { scope: string; first: number; next: number }[];

  /** What a person must know now: why it needs attention. */
  @Column({ type: 'text', nullable: true })
  note!: string | null;

  @Column({ type: 'jsonb' })
  totals!: IntakeTotals;

  /** Of the totals, and what it is called after: what the logbook is ordered by and summed over. Kept by a trigger. */
  @Column({ type: 'integer', default: 0 })
  items!: number;

  @Column({ type: 'integer', default: 0 })
  filed!: number;

  @Column({ type: 'bigint', default: 0 })
  bytes!: number;

  @Column({ type: 'text', nullable: true })
  byContributor!: string | null;

  @Column({ type: 'text', nullable: true })
  byAssignment!: string | null;

  @Column({ type: 'text', nullable: true })
  byCard!: string | null;

  /** Folded words by which the logbook finds it. */
  @Column({ type: 'text' })
  words!: string;

  /** What its slip says of credit; null: nothing, so that the assignment, the contributor or the house speaks. */
  @Column({ type: 'text', nullable: true })
  creditLine!: string | null;

  @Column({ type: 'text', nullable: true })
  copyrightNotice!: string | null;

  @Column({ type: 'integer', nullable: true })
  termsId!: number | null;

  @ManyToOne(() => TermsRow, { nullable: true })
  @JoinColumn({ name: 'terms_id', foreignKeyConstraintName: 'intake_terms' })
  terms!: Relation<TermsRow> | null;

  @Column({ type: 'integer', nullable: true })
  locationId!: number | null;

  @ManyToOne(() => LocationRow, { nullable: true })
  @JoinColumn({ name: 'location_id', foreignKeyConstraintName: 'intake_location' })
  location!: Relation<LocationRow> | null;

  /** Items that show somebody who must not be shown. */
  @Column({ type: 'integer', default: 0 })
  unshown!: number;

  /** Which habit gave which answer; what is not in here a person said, or nobody. */
  @Column({ type: 'jsonb', default: {} })
  answeredBy!: AnsweredBy;

  /** The place where it stood when it was adopted; null: it came by a card. Nothing is ever cleared there. */
  @Column({ type: 'text', nullable: true })
  adoptedAt!: string | null;

  /** The adoption that it belongs to. */
  @Index('intake_adoption', { where: 'adoption_id is not null' })
  @Column({ type: 'integer', nullable: true })
  adoptionId!: number | null;

  /** Folder of the place that was adopted, from its root: whatever a station calls that. */
  @Column({ type: 'text', nullable: true })
  adoptedFolder!: string | null;
}

/** What of an intake is whose and was shot for what: its slip, unless items say otherwise. Kept with its totals. */
@Entity('intake_part')
@Index('intake_part_by', ['contributorId', 'intakeId'])
@Index('intake_part_for', ['assignmentId', 'intakeId'])
export class IntakePart {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @Index('intake_part_of')
  @Column({ type: 'integer' })
  intakeId!: number;

  @ManyToOne(() => Intake, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'intake_id', foreignKeyConstraintName: 'intake_part_intake' })
  intake!: Relation<Intake>;

  @Column({ type: 'integer', nullable: true })
  contributorId!: number | null;

  @ManyToOne(() => Contributor, { nullable: true })
  @JoinColumn({ name: 'contributor_id', foreignKeyConstraintName: 'intake_part_contributor' })
  contributor!: Relation<Contributor> | null;

  @Column({ type: 'integer', nullable: true })
  assignmentId!: number | null;

  @ManyToOne(() => Assignment, { nullable: true })
  @JoinColumn({ name: 'assignment_id', foreignKeyConstraintName: 'intake_part_assignment' })
  assignment!: Relation<Assignment> | null;

  @Column({ type: 'integer' })
  items!: number;

  /** Those that are taken, filed, or were filed already. */
  @Column({ type: 'integer' })
  given!: number;

  @Column({ type: 'integer' })
  filed!: number;

  @Column({ type: 'bigint' })
  bytes!: number;
}

/** One file on a card. */
@Entity('item')
@Check('item_aside', `aside in ('unreadable', 'gone', 'not ours')`)
@Check('item_kind', `kind in ('photo', 'raw', 'video', 'sound', 'sidecar', 'other')`)
@Check('item_verdict', `verdict in ('select', 'reshoot', 'hold')`)
@Check('item_object_role', `object_role in ('leader', 'part', 'raw', 'sound', 'sidecar', 'proxy', 'thumbnail', 'index', 'edit')`)
@Check('item_role', `role in ('main', 'supporting')`)
@Index('item_identity', ['bytes', 'modifiedAt'])
@Index('item_path', { synchronize: false })
@Index('item_unpictured', ['intakeId'], { where: 'not pictured and read and set_aside is null and problem is null' })
export class Item {
  @PrimaryGeneratedColumn('identity', { generatedIdentity: 'ALWAYS' })
  id!: number;

  @ManyToOne(() => Intake, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'intake_id' })
  intake!: Relation<Intake>;

  @Index('item_intake')
  @Column({ type: 'integer' })
  intakeId!: number;

  /** Path as text for people; what cannot be decoded is U+FFFD. */
  @Column({ type: 'text' })
  path!: string;

  /** Path as found on the card, byte for byte. */
  @Column({ type: 'bytea' })
  pathBytes!: Buffer;

  @Column({ type: 'bigint' })
  bytes!: number;

  @Column({ type: 'timestamptz' })
  modifiedAt!: Date;

  @Column({ type: 'text' })
  kind!: Kind;

  /** Path of the file that leads its object. */
  @Column({ type: 'text' })
  leader!: string;

  @Column({ type: 'text', default: 'leader' })
  objectRole!: ObjectRole;

  /** Which part of one recording, and of how many. */
  @Column({ type: 'integer', nullable: true })
  part!: number | null;

  @Column({ type: 'integer', nullable: true })
  parts!: number | null;

  @Column({ type: 'text', default: 'dcf' })
  structure!: StructureName;

  /** Folder on the card that has to be kept together with all below it. */
  @Column({ type: 'text', nullable: true })
  structureRoot!: string | null;

  /** Exposures of one numbered series share it. */
  @Column({ type: 'text', nullable: true })
  series!: string | null;

  /** What a clip or recording says of itself; see core/footage. */
  @Column({ type: 'jsonb', nullable: true })
  clip!: ClipSays | null;

  @Column({ type: 'text', nullable: true })
  setAside!: string | null;

  /** Why it cannot be filed at all. */
  @Column({ type: 'text', nullable: true })
  problem!: string | null;

  /** What is odd about it; it is filed all the same. */
  @Column({ type: 'text', nullable: true })
  remark!: string | null;

  @Column({ type: 'text' })
  capturedLocal!: string;

  @Column({ type: 'integer', nullable: true })
  capturedOffset!: number | null;

  @Column({ type: 'text' })
  captureSource!: CaptureSource;

  @Column({ type: 'text' })
  captureOriginal!: string;

  @Column({ type: 'text', nullable: true })
  make!: string | null;

  @Column({ type: 'text', nullable: true })
  model!: string | null;

  @Column({ type: 'text', nullable: true })
  serial!: string | null;

  @Column({ type: 'integer', nullable: true })
  width!: number | null;

  @Column({ type: 'integer', nullable: true })
  height!: number | null;

  @Column({ type: 'integer', nullable: true })
  durationMs!: number | null;

  /** EXIF orientation, 1 to 8. */
  @Column({ type: 'integer', nullable: true })
  orientation!: number | null;

  @Column({ type: 'boolean' })
  read!: boolean;

  @Column({ type: 'boolean' })
  taken!: boolean;

  /** Why a person set it aside, and who. */
  @Column({ type: 'text', nullable: true })
  aside!: AsideReason | null;

  @Column({ type: 'text', nullable: true })
  asideBy!: string | null;

  /** When it was removed from its card; null while it is there. */
  @Column({ type: 'timestamptz', nullable: true })
  goneAt!: Date | null;

  /** Fast identity: XXH128 over the first and last 64 KiB. */
  @Column({ type: 'bytea', nullable: true })
  quickHash!: Buffer | null;

  /** The filed item with the same bytes. */
  @Column({ type: 'integer', nullable: true })
  alreadyFiledId!: number | null;

  /** Were all bytes compared, or only the fast identity? */
  @Column({ type: 'boolean' })
  alreadyConfirmed!: boolean;

  /** Whose it is and what it was shot for, where that differs from the intake's slip. */
  @ManyToOne(() => Contributor, { nullable: true })
  @JoinColumn({ name: 'contributor_id' })
  contributor!: Relation<Contributor> | null;

  @Column({ type: 'integer', nullable: true })
  contributorId!: number | null;

  @ManyToOne(() => Assignment, { nullable: true })
  @JoinColumn({ name: 'assignment_id' })
  assignment!: Relation<Assignment> | null;

  @Index('item_assignment', { where: 'assignment_id is not null' })
  @Column({ type: 'integer', nullable: true })
  assignmentId!: number | null;

  /** Capture time as the camera's clock had it; `capturedLocal` is this with the clock correction. */
  @Column({ type: 'text', default: '' })
  cameraLocal!: string;

  @Column({ type: 'integer', nullable: true })
  cameraOffset!: number | null;

  /** Clock correction in seconds. */
  @Column({ type: 'integer', default: 0 })
  clockShiftS!: number;

  @Column({ type: 'text', nullable: true })
  verdict!: Verdict | null;

  @Column({ type: 'text', default: '' })
  description!: string;

  /** What footage is for. */
  @Column({ type: 'text', nullable: true })
  role!: FootageRole | null;

  /** Flat colour profile that footage was shot with. */
  @Column({ type: 'text', default: '' })
  profile!: string;

  /** Quarter turns clockwise that a person added. */
  @Column({ type: 'integer', default: 0 })
  turned!: number;

  /** The part of a clip or sound that is of use. */
  @Column({ type: 'integer', nullable: true })
  useFromMs!: number | null;

  @Column({ type: 'integer', nullable: true })
  useToMs!: number | null;

  /** Focus measure of the preview; see core/looks. */
  @Column({ type: 'real', nullable: true })
  sharpness!: number | null;

  /** Difference hash of the preview, 8 bytes. */
  @Column({ type: 'bytea', nullable: true })
  look!: Buffer | null;

  /** Have its previews been made (or found impossible)? */
  @Column({ type: 'boolean', default: false })
  pictured!: boolean;

  /** The item of this card with the same bytes, whole. */
  @Column({ type: 'integer', nullable: true })
  twinOf!: number | null;

  /** A filed item that had this name on its card and is another picture. */
  @Column({ type: 'integer', nullable: true })
  namesakeId!: number | null;

  /** What comes with the file: description, words, creator, rights, position; see core/credit. */
  @Column({ type: 'jsonb', nullable: true })
  embedded!: Embedded | null;

  /** Grows with every change, so that a browser can ask for what is new. Kept by a trigger. */
  @Column({ type: 'bigint', default: 0 })
  version!: number;
}
