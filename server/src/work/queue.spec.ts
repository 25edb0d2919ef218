import { setTimeout as delay } from 'node:timers/promises';
import pino from 'pino';
import { freshDatabase, type FreshDatabase } from '../testing/database.js';
import { Queue } from './queue.js';

describe('the queue', () => {
  let database: FreshDatabase;
  beforeAll(async () => {
    database = await freshDatabase();
  });
  afterAll(() => database.drop());

  it('stops with more lanes than connections, all of them asking, and leaves nothing running', async () => {
    const before = waits();
    const queue = new Queue(database.appUrl, pino({ level: 'silent' }), 500);
    await queue.start();
    for (let lane = 0; lane < 40; lane++) await queue.work('read', 'desk', () => undefined);
    await queue.stop();
    // A lane that still waits for an answer is looked at again every second, for ever.
    await delay(2_500);
    expect(waits()).toBeLessThanOrEqual(before);
  });
});

/** Timers that keep this process alive. */
const waits = () => process.getActiveResourcesInfo().filter((what) => what === 'Timeout').length;
