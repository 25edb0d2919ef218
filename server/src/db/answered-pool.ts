import pg from 'pg';
import { poolLine } from './line.js';

/** A pool for a library that speaks SQL of its own: it ends when everything that was asked of it is answered, not before. */
export class AnsweredPool {
  private readonly pool: pg.Pool;
  private readonly asking = new Set<Promise<unknown>>();

  constructor(url: string, name: string, max: number, onError: (error: Error) => void) {
    this.pool = new pg.Pool({ connectionString: url, max, ...poolLine(name) });
    this.pool.on('error', onError);
  }

  async executeSql(text: string, values: unknown[]): Promise<{ rows: unknown[] }> {
    const answer = this.pool.query<pg.QueryResultRow>(text, values);
    this.asking.add(answer);
    return answer.finally(() => this.asking.delete(answer));
  }

  /** Takes no longer than the line of a pool allows a query. */
  async end(): Promise<void> {
    while (this.asking.size) await Promise.allSettled(this.asking);
    if (!this.pool.ending) await this.pool.end();
  }
}
