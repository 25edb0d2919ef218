import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Who may do what with a picture, who is in it, where and what it is: records, and what slips and items say of them. */
export class Credit1766000000000 implements MigrationInterface {
  name = 'Credit1766000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...STATEMENTS, ...FUNCTIONS]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: credit, consent and words would be forgotten.'));
  }
}

/**
 * What is said of items stands in many tables: whoever changes it names the items, and here it is kept that the records
 * beside their files become due and that browsers get them again.
 */
const FUNCTIONS = [
  `create function explain_items(ids int[]) returns void language sql as $$
  insert into beside_due (intake_id, folder, place_id)
  select distinct f.intake_id, f.list_folder, c.place_id from filed_item f join copy c on c.filed_item_id = f.id
  where f.item_id = any(ids) and c.state = 'tallied' and f.hash is not null order by 1, 2, 3
  on conflict (intake_id, folder, place_id) do update set due_at = now()
$$`,
  `create function explain_intakes(ids int[]) returns void language sql as $$
  insert into beside_due (intake_id, folder, place_id)
  select distinct f.intake_id, f.list_folder, c.place_id from filed_item f join copy c on c.filed_item_id = f.id
  where f.intake_id = any(ids) and c.state = 'tallied' and f.hash is not null order by 1, 2, 3
  on conflict (intake_id, folder, place_id) do update set due_at = now()
$$`,
  `create function touch_items(of_intake int, ids int[]) returns void language sql as $$
  update item set version = version where intake_id = of_intake and id = any(ids)
$$`,
];

const STATEMENTS = [
  `CREATE TABLE "terms" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "name" text NOT NULL, "stance" text NOT NULL, "sentence" text NOT NULL DEFAULT '', "web" text, "until" date, "retired_at" TIMESTAMP WITH TIME ZONE, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "terms_stance" CHECK (stance in ('free for the house', 'ask first', 'not to be shown', 'open licence')), CONSTRAINT "PK_33b6fe77d6ace7ff43cc8a65958" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "terms_name" ON "terms"  ("name") `,
  `CREATE TABLE "location" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "name" text NOT NULL, "part" text NOT NULL DEFAULT '', "town" text NOT NULL DEFAULT '', "region" text NOT NULL DEFAULT '', "country" text NOT NULL DEFAULT '', "lat" double precision, "lon" double precision, "reach_m" integer NOT NULL DEFAULT '1000', "retired_at" TIMESTAMP WITH TIME ZONE, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "PK_876d7bdba03c72251ec4c2dc827" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "location_name" ON "location"  ("name") `,
  `CREATE TABLE "pictured" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "name" text NOT NULL, "consent" text NOT NULL DEFAULT 'ask', "until" date, "purpose" text NOT NULL DEFAULT '', "notes" text NOT NULL DEFAULT '', "retired_at" TIMESTAMP WITH TIME ZONE, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "pictured_consent" CHECK (consent in ('yes', 'no', 'ask')), CONSTRAINT "PK_c88c9487257ceb606bfb330fc13" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "pictured_name" ON "pictured"  ("name") `,
  `CREATE TABLE "habit" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "name" text NOT NULL, "belongs" text NOT NULL, "of" text NOT NULL DEFAULT '', "answers" jsonb NOT NULL DEFAULT '{}', "retired_at" TIMESTAMP WITH TIME ZONE, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "habit_belongs" CHECK (belongs in ('card', 'contributor', 'assignment', 'reader', 'house')), CONSTRAINT "PK_71654d5d0512043db43bac9abfc" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "habit_name" ON "habit"  ("name") `,
  `CREATE INDEX "habit_of" ON "habit"  ("belongs", "of") `,
  `CREATE TABLE "agreement" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "contributor_id" integer NOT NULL, "what" text NOT NULL, "signed_on" date, "until" date, "scan" bytea, "scan_type" text, CONSTRAINT "PK_e7537188219eeef56233a609753" PRIMARY KEY ("id"))`,
  `CREATE INDEX "agreement_with" ON "agreement"  ("contributor_id") `,
  `CREATE TABLE "former_code" ("code" text NOT NULL, "contributor_id" integer NOT NULL, CONSTRAINT "PK_71f0d5a7e9a595fb72c7b39ada3" PRIMARY KEY ("code"))`,
  `CREATE INDEX "former_code_of" ON "former_code"  ("contributor_id") `,
  `CREATE TABLE "house_credit" ("id" integer NOT NULL, "credit_line" text, "copyright_notice" text, "terms_id" integer, "kinds" text array NOT NULL DEFAULT '{}', "follow_below" integer, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "house_credit_one" CHECK (id = 1), CONSTRAINT "PK_fce507a9c6e5464d7224686737b" PRIMARY KEY ("id"))`,
  `CREATE TABLE "item_credit" ("item_id" integer NOT NULL, "credit_line" text, "copyright_notice" text, "terms_id" integer, "location_id" integer, "lat" double precision, "lon" double precision, CONSTRAINT "PK_b3bf4fde5788b8a13b5d14c02fc" PRIMARY KEY ("item_id"))`,
  `CREATE INDEX "item_credit_terms" ON "item_credit"  ("terms_id") WHERE terms_id is not null`,
  `CREATE INDEX "item_credit_location" ON "item_credit"  ("location_id") WHERE location_id is not null`,
  `CREATE TABLE "item_pictured" ("item_id" integer NOT NULL, "pictured_id" integer NOT NULL, CONSTRAINT "PK_3058393cf4171f1011a528ac2fb" PRIMARY KEY ("item_id", "pictured_id"))`,
  `CREATE INDEX "item_pictured_who" ON "item_pictured"  ("pictured_id") `,
  `CREATE TABLE "word" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "listed" boolean NOT NULL DEFAULT false, "folded" text COLLATE "C" NOT NULL DEFAULT '', "iri" text, "note" text NOT NULL DEFAULT '', "used_at" TIMESTAMP WITH TIME ZONE, "retired_at" TIMESTAMP WITH TIME ZONE, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "PK_ad026d65e30f80b7056ca31f666" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "word_iri" ON "word"  ("iri") `,
  `CREATE INDEX "word_folded" ON "word" ("folded", "id") `,
  `CREATE TABLE "word_label" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "word_id" integer NOT NULL, "language" text NOT NULL DEFAULT '', "text" text NOT NULL, "folded" text COLLATE "C" NOT NULL, "preferred" boolean NOT NULL, CONSTRAINT "PK_536020cbb58c5d244947a375a2b" PRIMARY KEY ("id"))`,
  `CREATE INDEX "word_label_folded" ON "word_label"  ("folded") `,
  `CREATE UNIQUE INDEX "word_label_once" ON "word_label"  ("word_id", "language", "text") `,
  `CREATE TABLE "word_start" ("label_id" integer NOT NULL, "start" text COLLATE "C" NOT NULL, "word_id" integer NOT NULL, CONSTRAINT "PK_be77b67d0accc2de07cf59d0b61" PRIMARY KEY ("label_id", "start"))`,
  `CREATE INDEX "word_start_begins" ON "word_start" ("start", "word_id") `,
  `CREATE TABLE "word_broader" ("word_id" integer NOT NULL, "broader_id" integer NOT NULL, CONSTRAINT "PK_3458fea8c1e3a98287fa8f9a522" PRIMARY KEY ("word_id", "broader_id"))`,
  `CREATE INDEX "word_broader_of" ON "word_broader"  ("broader_id") `,
  `CREATE TABLE "item_word" ("item_id" integer NOT NULL, "word_id" integer NOT NULL, "has" boolean NOT NULL DEFAULT true, CONSTRAINT "PK_ddbaa601787b821bfe242268708" PRIMARY KEY ("item_id", "word_id"))`,
  `CREATE INDEX "item_word_word" ON "item_word"  ("word_id") `,
  `CREATE TABLE "intake_word" ("intake_id" integer NOT NULL, "word_id" integer NOT NULL, CONSTRAINT "PK_afb4151fed7ec90f8955a052409" PRIMARY KEY ("intake_id", "word_id"))`,
  `CREATE INDEX "intake_word_word" ON "intake_word"  ("word_id") `,
  `CREATE TABLE "assignment_word" ("assignment_id" integer NOT NULL, "word_id" integer NOT NULL, CONSTRAINT "PK_f820363214930788f8633a7e887" PRIMARY KEY ("assignment_id", "word_id"))`,
  `CREATE INDEX "assignment_word_word" ON "assignment_word"  ("word_id") `,
  `ALTER TABLE "contributor" ADD "given" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "family" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "kind" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "email" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "phone" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "address" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "web" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "inside" text array NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "contributor" ADD "credit_line" text`,
  `ALTER TABLE "contributor" ADD "copyright_notice" text`,
  `ALTER TABLE "contributor" ADD "terms_id" integer`,
  `ALTER TABLE "contributor" ADD "notes" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "contributor" ADD "revision" integer NOT NULL DEFAULT '1'`,
  `ALTER TABLE "assignment" ADD "description" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "assignment" ADD "contacts" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "assignment" ADD "embargo_until" date`,
  `ALTER TABLE "assignment" ADD "terms_id" integer`,
  `ALTER TABLE "assignment" ADD "location_id" integer`,
  `ALTER TABLE "assignment" ADD "revision" integer NOT NULL DEFAULT '1'`,
  `ALTER TABLE "intake" ADD "credit_line" text`,
  `ALTER TABLE "intake" ADD "copyright_notice" text`,
  `ALTER TABLE "intake" ADD "terms_id" integer`,
  `ALTER TABLE "intake" ADD "location_id" integer`,
  `ALTER TABLE "intake" ADD "unshown" integer NOT NULL DEFAULT '0'`,
  `ALTER TABLE "intake" ADD "answered_by" jsonb NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "item" ADD "embedded" jsonb`,
  `ALTER TABLE "contributor" ADD CONSTRAINT "contributor_terms" FOREIGN KEY ("terms_id") REFERENCES "terms"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "assignment" ADD CONSTRAINT "assignment_terms" FOREIGN KEY ("terms_id") REFERENCES "terms"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "assignment" ADD CONSTRAINT "assignment_location" FOREIGN KEY ("location_id") REFERENCES "location"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "agreement" ADD CONSTRAINT "agreement_contributor" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "former_code" ADD CONSTRAINT "former_code_contributor" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "house_credit" ADD CONSTRAINT "house_credit_terms" FOREIGN KEY ("terms_id") REFERENCES "terms"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "item_credit" ADD CONSTRAINT "item_credit_item" FOREIGN KEY ("item_id") REFERENCES "item"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "item_credit" ADD CONSTRAINT "item_credit_term" FOREIGN KEY ("terms_id") REFERENCES "terms"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "item_credit" ADD CONSTRAINT "item_credit_at" FOREIGN KEY ("location_id") REFERENCES "location"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "item_pictured" ADD CONSTRAINT "item_pictured_item" FOREIGN KEY ("item_id") REFERENCES "item"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "item_pictured" ADD CONSTRAINT "item_pictured_of" FOREIGN KEY ("pictured_id") REFERENCES "pictured"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "intake" ADD CONSTRAINT "intake_terms" FOREIGN KEY ("terms_id") REFERENCES "terms"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "intake" ADD CONSTRAINT "intake_location" FOREIGN KEY ("location_id") REFERENCES "location"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "word_label" ADD CONSTRAINT "word_label_of" FOREIGN KEY ("word_id") REFERENCES "word"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "word_start" ADD CONSTRAINT "word_start_of" FOREIGN KEY ("label_id") REFERENCES "word_label"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "word_broader" ADD CONSTRAINT "word_broader_word" FOREIGN KEY ("word_id") REFERENCES "word"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "word_broader" ADD CONSTRAINT "word_broader_broader" FOREIGN KEY ("broader_id") REFERENCES "word"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "item_word" ADD CONSTRAINT "item_word_item" FOREIGN KEY ("item_id") REFERENCES "item"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "item_word" ADD CONSTRAINT "item_word_of" FOREIGN KEY ("word_id") REFERENCES "word"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "intake_word" ADD CONSTRAINT "intake_word_intake" FOREIGN KEY ("intake_id") REFERENCES "intake"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "intake_word" ADD CONSTRAINT "intake_word_of" FOREIGN KEY ("word_id") REFERENCES "word"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "assignment_word" ADD CONSTRAINT "assignment_word_assignment" FOREIGN KEY ("assignment_id") REFERENCES "assignment"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "assignment_word" ADD CONSTRAINT "assignment_word_of" FOREIGN KEY ("word_id") REFERENCES "word"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `INSERT INTO "house_credit" ("id", "credit_line", "copyright_notice", "kinds")
     VALUES (1, '{contributor.name} / {house}', '© {year} {contributor.name}', array['staff', 'volunteer', 'pupil', 'stringer'])`,
];
