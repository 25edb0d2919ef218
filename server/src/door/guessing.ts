import { createHash } from 'node:crypto';
import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import type { Db } from '../db/database.js';

/** Tries within so many seconds before it has to wait: of one name from one address, of one name, of one address. */
const LIMITS = {
  pair: { points: 8, duration: 300 },
  name: { points: 40, duration: 900 },
  address: { points: 100, duration: 900 },
} as const;
type By = keyof typeof LIMITS;

/**
 * Counts tries to come in, before each is looked at: a hundred at once are a hundred. Somebody who guesses one name from
 * many places, or many names from one, has to wait as well; whoever comes in rightly is not counted.
 */
export class Guessing {
  private readonly limiters: Readonly<Record<By, RateLimiterPostgres>>;

  constructor(db: Db) {
    const pool = (db.dataSource.driver as unknown as { master: unknown }).master;
    const limiter = (by: By) =>
      new RateLimiterPostgres({
        ...{ storeClient: pool, tableName: 'sign_in_failure', tableCreated: true, keyPrefix: by },
        ...LIMITS[by],
      });
    this.limiters = { pair: limiter('pair'), name: limiter('name'), address: limiter('address') };
  }

  /** Counts a try. @returns seconds to wait; null: it may be looked at. */
  async count(name: string, address: string): Promise<number | null> {
    let wait: number | null = null;
    for (const [by, key] of Object.entries(keysOf(name, address)) as [By, string][]) {
      try {
        await this.limiters[by].consume(key);
      } catch (refused) {
        if (!(refused instanceof RateLimiterRes)) throw refused;
        wait = Math.max(wait ?? 0, Math.ceil(refused.msBeforeNext / 1000));
      }
    }
    return wait;
  }

  /** It was no guess. */
  async forgive(name: string, address: string): Promise<void> {
    const keys = keysOf(name, address);
    await this.limiters.pair.delete(keys.pair);
    await this.limiters.name.reward(keys.name);
    await this.limiters.address.reward(keys.address);
  }
}

const keyed = (text: string) => createHash('sha256').update(text).digest('hex');

function keysOf(name: string, address: string): Readonly<Record<By, string>> {
  const low = name.toLowerCase();
  return { pair: keyed(`${address}\0${low}`), name: keyed(low), address: keyed(network(address)) };
}

/** Whoever has one IPv6 address has 2^64 of them: they count as one (RFC 6177, from memory). */
function network(address: string): string {
  if (!address.includes(':') || address.startsWith('::ffff:')) return address;
  const [head = '', tail] = address.split('::');
  const groups = head.split(':').filter(Boolean);
  const rest = tail === undefined ? [] : tail.split(':').filter(Boolean);
  const whole = tail === undefined ? groups : [...groups, ...Array<string>(8 - groups.length - rest.length).fill('0'), ...rest];
  return whole.slice(0, 4).join(':');
}
