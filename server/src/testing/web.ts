import type { Express } from 'express';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { tellExport } from '../audit/index.js';
import { healthOfBackups } from '../backing/index.js';
import { answersOf } from '../answers.js';
import { answering } from '../db/database.js';
import { webApp } from '../http/app.js';
import { hostsOf } from '../http/hosts.js';
import type { Bus } from '../live/bus.js';
import { Access } from '../door/index.js';
import { withheldNames } from '../people/index.js';
import type { TestHouse } from './house.js';

/** The whole application over a test's house, with one page for an interface. */
export async function webOf(test: TestHouse): Promise<{ app: Express; bus: Bus }> {
  const pages = join(test.folder, 'pages');
  await mkdir(pages);
  await writeFile(join(pages, 'index.html'), '<!doctype html><title>Tally Stick</title>');
  const { house, urgency, bus } = test;
  const access = new Access(house);
  const health = () => answering(house.db).then(() => healthOfBackups(house));
  const app = webApp({
    answers: answersOf(house, access),
    access,
    bus,
    urgency,
    log: house.log,
    health,
    exported: tellExport(house),
    withheld: () => withheldNames(house),
    settings: test.settings,
    hosts: hostsOf(test.settings),
    pages,
  });
  return { app, bus };
}
