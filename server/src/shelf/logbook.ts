import type { LogExport, LogPage, LogQuery } from '@tally/contract';
import { type LogLine, logInPieces, partNames } from '@tally/core/logbook';
import { findIntakes, sumsOf } from './store/log.js';
import { type House, houseTime, type IntakeRow, summaryOf } from '../house/index.js';

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

/** A page of the log, with what all that is found comes to. */
export async function logPage(house: House, query: LogQuery): Promise<LogPage> {
  const { rows, next } = await findIntakes(house.db, query, house.settings.zone);
  return { intakes: rows.map(summaryOf), ...(await sumsOf(house.db, query, house.settings.zone)), next };
}

/** Lines of the log that a query finds. */
export const logLines = async (house: House, query: LogQuery): Promise<LogLine[]> =>
  (await findIntakes(house.db, query, house.settings.zone)).rows.map((row) => lineOf(house, row));

const AT_A_TIME = 500;

/** The log as CSV or tab-separated text, piece by piece: every line that the query finds, not only a page of them. */
export async function* exportLog(
  house: House,
  { columns, ...query }: LogExport,
  form: 'csv' | 'tsv',
): AsyncGenerator<string, void, undefined> {
  const piece = logInPieces(form, columns);
  for (let after: number | null | undefined; after !== null;) {
    const part = await findIntakes(house.db, { ...query, after, limit: AT_A_TIME, offset: 0 }, house.settings.zone);
    yield piece(part.rows.map((row) => lineOf(house, row)));
    after = part.next;
  }
}
