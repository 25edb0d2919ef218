import type { LogPage, LogQuery } from '@tally/contract';
import type { Db } from '../../db/database.js';
import { type IntakeRow, intakesWhere, Refusal } from '../../house/index.js';

/** What the logbook is put in order by, as it stands in an index; the id decides between equals. */
interface Order {
  readonly column: string;
  readonly type: 'timestamptz' | 'text' | 'int' | 'bigint';
  /** What says nothing comes after what says something (downwards: before it). */
  readonly mayBeNull?: true;
}

const ORDERS: Readonly<Record<LogQuery['order'], Order>> = {
  received: { column: 'i.received_at', type: 'timestamptz' },
  contributor: { column: 'i.by_contributor', type: 'text', mayBeNull: true },
  assignment: { column: 'i.by_assignment', type: 'text', mayBeNull: true },
  card: { column: 'i.by_card', type: 'text', mayBeNull: true },
  items: { column: 'i.items', type: 'int' },
  bytes: { column: 'i.bytes', type: 'bigint' },
  state: { column: 'i.state', type: 'text' },
};

/** An intake's place in an order. */
interface LogPlace {
  readonly value: string | null;
  readonly id: number;
}

/** What narrows the log, as conditions on `intake i`. */
class Narrowed {
  readonly parameters: unknown[] = [];
  private readonly conditions = ['true'];

  constructor(query: Omit<LogQuery, 'limit' | 'offset' | 'after'>, zone: string) {
    // Every word must be found.
    for (const word of query.words.toLowerCase().split(/\s+/).filter(Boolean))
      this.and(`i.words like ${this.given(`%${word.replace(/[\\%_]/g, '\\$&')}%`)}`);
    if (query.state) this.and(`i.state = ${this.given(query.state)}`);
    if (query.contributor) this.and(isOf('contributor', 'code', this.given(query.contributor.toUpperCase())));
    if (query.assignment) this.and(isOf('assignment', 'slug', this.given(query.assignment)));
    const at = (day: string, days: number) =>
      `(${this.given(day)}::date + ${days})::timestamp at time zone ${this.given(zone)}::text`;
    if (query.from) this.and(`i.received_at >= ${at(query.from, 0)}`);
    if (query.to) this.and(`i.received_at < ${at(query.to, 1)}`);
  }

  /** What comes after a place in an order. */
  after({ column, type, mayBeNull }: Order, descending: boolean, { value, id }: LogPlace): void {
    const beyond = descending ? '<' : '>';
    if (!mayBeNull) this.and(`(${column}, i.id) ${beyond} (${this.given(value)}::${type}, ${this.given(id)}::int)`);
    else if (value === null) this.and(`((${column} is null), i.id) ${beyond} (true, ${this.given(id)}::int)`);
    else
      this.and(`((${column} is null), ${column}, i.id) ${beyond} (false, ${this.given(value)}::${type}, ${this.given(id)}::int)`);
  }

  get where(): string {
    return this.conditions.join(' and ');
  }

  private and(condition: string): void {
    this.conditions.push(condition);
  }

  private given(value: unknown): string {
    this.parameters.push(value);
    return `$${this.parameters.length}`;
  }
}

/** By what the items say: a split card is found under everybody it is from. Before anything was read its slip speaks. */
const isOf = (table: 'contributor' | 'assignment', column: string, value: string) => `i.id in (
  select p.intake_id from intake_part p join ${table} w on w.id = p.${table}_id where w.${column} = ${value}
  union all select n.id from intake n join ${table} w on w.id = n.${table}_id
    where w.${column} = ${value} and not exists (select from intake_part p where p.intake_id = n.id))`;

/**
 * A page of the logbook. From a place on it is found by an index, however far down that is; an offset is counted in an index
 * alone, for whoever drags a list to its middle.
 * @param query `after`: the intake that the page before ended with
 * @returns the page, and the intake to go on after; null at the end.
 * @throws Refusal when there is no such one to go on after.
 */
export async function findIntakes(db: Db, query: LogQuery, zone: string): Promise<{ rows: IntakeRow[]; next: number | null }> {
  const narrowed = new Narrowed(query, zone);
  const order = ORDERS[query.order];
  if (query.after !== undefined) {
    const [after] = await db.query<LogPlace[]>(`select i.id, ${order.column}::text as value from intake i where i.id = $1`, [
      query.after,
    ]);
    if (!after) throw new Refusal('not found', 'There is no such intake to go on after.');
    narrowed.after(order, query.descending, after);
  }
  const direction = query.descending ? 'desc' : 'asc';
  const by = [...(order.mayBeNull ? [`(${order.column} is null)`] : []), order.column, 'i.id'];
  const places = await db.query<LogPlace[]>(
    `select i.id, ${order.column}::text as value from intake i where ${narrowed.where}
     order by ${by.map((one) => `${one} ${direction}`).join(', ')} limit ${query.limit} offset ${query.offset}`,
    narrowed.parameters,
  );
  const rows = await intakesWhere(db, 'i.id = any($1::int[])', [places.map(({ id }) => id)]);
  const byId = new Map(rows.map((row) => [row.id, row]));
  return {
    rows: places.flatMap(({ id }) => byId.get(id) ?? []),
    next: places.length === query.limit ? (places.at(-1)?.id ?? null) : null,
  };
}

/** How many intakes a query finds, and what they come to. */
export async function sumsOf(db: Db, query: LogQuery, zone: string): Promise<Pick<LogPage, 'total' | 'sums'>> {
  const narrowed = new Narrowed(query, zone);
  const [{ total, ...sums }] = await db.query<[{ total: number; items: number; filed: number; bytes: number }]>(
    `select count(*)::int as total, coalesce(sum(i.items), 0)::int as items, coalesce(sum(i.filed), 0)::int as filed,
       coalesce(sum(i.bytes), 0)::bigint as bytes from intake i where ${narrowed.where}`,
    narrowed.parameters,
  );
  return { total, sums };
}

/** Intakes and items by day, in the house's zone. @param from, to `yyyy-MM-dd`, both within. */
export async function intakesByDay(
  db: Db,
  zone: string,
  from: string,
  to: string,
): Promise<{ day: string; intakes: number; items: number }[]> {
  return db.query(
    `select to_char(received_at at time zone $1, 'YYYY-MM-DD') as day, count(*)::int as intakes, sum(items)::int as items from intake
     where received_at >= $2::date::timestamp at time zone $1 and received_at < ($3::date + 1)::timestamp at time zone $1
     group by 1 order by 1`,
    [zone, from, to],
  );
}
