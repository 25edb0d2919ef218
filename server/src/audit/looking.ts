import type { AuditPage, AuditQuery } from '@tally/contract';
import { auditInPieces } from '@tally/core/audit';
import { record, type House } from '../house/index.js';
import { auditedBefore, lastEventAt, lastLink } from './store/chain.js';

/** What was recorded for whoever is answerable, newest first. */
export async function auditPage(house: House, query: AuditQuery): Promise<AuditPage> {
  const { db, settings } = house;
  const [events, last, headAt] = [
    await auditedBefore(db, query, settings.zone),
    await lastLink(db),
    await lastEventAt(db, 'chain'),
  ];
  const next = events.length === query.limit ? events.at(-1)!.id : null;
  return { events, next, chained: last?.position ?? 0, headAt: headAt?.toISOString() ?? null };
}

/** All of it that is found, as CSV (RFC 4180), page by page. */
export async function* auditRows(house: House, query: AuditQuery): AsyncGenerator<string, void, undefined> {
  const piece = auditInPieces();
  for (let after = query.after; ;) {
    const events = await auditedBefore(house.db, { ...query, after, limit: 500 }, house.settings.zone);
    yield piece(events);
    if (events.length < 500) return;
    after = events.at(-1)!.id;
  }
}

/** Records that something left the house. */
export const tellExport =
  (house: House) =>
  async (who: string, what: string): Promise<void> => {
    await record(house.db, { at: house.clock(), kind: 'export', intakeId: null, who, text: `Took ${what}.` });
  };
