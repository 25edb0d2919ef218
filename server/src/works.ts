import type { Work } from './work/worker.js';
import { arrivingWork } from './arriving/index.js';
import { auditWork } from './audit/index.js';
import { backingWork } from './backing/index.js';
import { clearingWork } from './clearing/index.js';
import { doorWork } from './door/index.js';
import { drivingWork } from './driving/index.js';
import { filingWork } from './filing/index.js';
import type { House } from './house/index.js';
import { keepingWork } from './keeping/index.js';
import { peopleWork } from './people/index.js';
import { provingWork } from './proving/index.js';
import { rebuildingWork } from './rebuilding/index.js';
import { seeingWork } from './seeing/index.js';
import { shelfWork } from './shelf/index.js';
import { tendingWork } from './tending/index.js';

/** What every room does at a station. */
export const worksOf = (house: House): Work[] => [
  drivingWork(house),
  arrivingWork(house),
  filingWork(house),
  provingWork(house),
  keepingWork(house),
  peopleWork(house),
  doorWork(house),
  clearingWork(house),
  seeingWork(house),
  shelfWork(house),
  tendingWork(house),
  auditWork(house),
  backingWork(house),
  rebuildingWork(house),
];
