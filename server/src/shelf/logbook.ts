import type { LogExport, LogQuery } from '@tally/contract';
import { type LogLine, logToCsv, logToTsv, partNames } from '@tally/core/logbook';
import { findIntakes } from './store.js';
import { type House, houseTime, type IntakeRow } from '../house/index.js';

function lineOf(house: House, intake: IntakeRow): LogLine {
  const received = houseTime(house, intake.receivedAt);
  const count = (kind: 'photo' | 'raw' | 'video' | 'sound') => intake.byKind[kind]?.items ?? 0;
  return {
    number: intake.number,
    date: received.slice(0, 10),
    received: received.slice(0, 16).replace('T', ' '),
    receivedBy: intake.receivedBy,
    contributor: partNames(intake, 'contributor').join('; '),
    card: intake.card.label ?? intake.card.volume,
    assignment: partNames(intake, 'assignment').join('; '),
    camera: intake.camera ?? '',
    items: intake.items,
    bytes: intake.bytes,
    photos: count('photo'),
    raws: count('raw'),
    videos: count('video'),
    sounds: count('sound'),
    first: intake.first ?? '',
    last: intake.last ?? '',
    state: intake.state,
  };
}

/** Lines of the log that a query finds. */
export async function logLines(house: House, query: LogQuery): Promise<LogLine[]> {
  const { rows } = await findIntakes(house.db, query, house.settings.zone);
  return rows.map((row) => lineOf(house, row));
}

/** The log as CSV or tab-separated text: every line that the query finds, not only a page of them. */
export async function exportLog(house: House, { columns, ...query }: LogExport, form: 'csv' | 'tsv'): Promise<string> {
  const lines: LogLine[] = [];
  for (let offset = 0; ; offset += 500) {
    const page = await logLines(house, { ...query, limit: 500, offset });
    lines.push(...page);
    if (page.length < 500) return form === 'csv' ? logToCsv(lines, columns) : logToTsv(lines, columns);
  }
}
