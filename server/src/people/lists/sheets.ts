import {
  AssignmentChange,
  type ImportAnswer,
  type ImportName,
  LIST_CHANGE,
  type LocationView,
  NewAssignment,
  NewContributor,
  NewLocation,
  ContributorChange,
} from '@tally/contract';
import { own } from '@tally/core/lookup';
import { compareSheet, readSheet, type Rows, type SheetKind } from '@tally/core/spreadsheet';
import { z } from 'zod';
import { inTransaction } from '../../db/database.js';
import { type House, houseTime, Refusal } from '../../house/index.js';
import { changeAssignment, changeContributor } from '../correcting.js';
import { makeAssignment, makeContributor } from '../joining.js';
import { type AssignmentCells, assignmentCells, contributorCells, type Known } from '../store/sheets.js';
import { addToList, correctInList, houseList } from './lists.js';
import { type NamedCells, namedCells } from './named-cells.js';
import { refusedAt, type SheetLine } from './sheet-line.js';
import { takeWordLines } from './take-words.js';
import { parts, wordSheet, type WordLine } from './word-sheets.js';

/** How each kind of record goes to a sheet and comes back from one. */
interface SheetOf<T> {
  readonly key: string;
  readonly columns: readonly string[];
  readonly fold: (key: string) => string;
  readonly known: readonly Known[];
  readonly read: SheetKind<T>['read'];
  /** Takes lines in, all or nothing. @throws Refusal that names the line. */
  readonly write: (lines: readonly SheetLine<T>[]) => Promise<void>;
}

/** Lines of which each is a record of its own. */
const each =
  <T>(write: (said: T, id: number | null) => Promise<void>): SheetOf<T>['write'] =>
  async (lines) => {
    for (const { said, id, line } of lines) await write(said, id).catch(refusedAt(line));
  };

const most = 20_000;

/** Reads a sheet, tells line by line what it would change, and (where that is wanted and nothing is wrong) changes it all or nothing. */
export async function importSheet(
  house: House,
  name: ImportName,
  bytes: Buffer,
  apply: boolean,
  who: string,
): Promise<ImportAnswer> {
  const sheet = readSheet(bytes);
  if (sheet.rows.length > most)
    throw new Refusal('conflict', `This sheet has ${sheet.rows.length} lines: give at most ${most} at once.`);
  return inTransaction(house.db, async (tx) => {
    const inside = { ...house, db: tx };
    const kind = await sheetOf(inside, name, who);
    const byKey = new Map(kind.known.map((known) => [kind.fold(known.cells[kind.key] ?? ''), known]));
    const { lines, faults } = compareSheet(sheet, { ...kind, known: (key) => byKey.get(kind.fold(key))?.cells ?? null });
    const applied = apply && faults.length === 0;
    if (applied) {
      const idOf = (key: string) => byKey.get(kind.fold(key))?.id ?? null;
      const changing = lines.filter(({ does }) => does !== 'nothing');
      await kind.write(changing.map(({ line, said, key }) => ({ line, said, id: idOf(key) })));
    }
    const count = (what: string) => lines.filter(({ does }) => does === what).length;
    return {
      read: sheet.read,
      ...{ added: count('add'), changed: count('change'), same: count('nothing') },
      lines: lines
        .filter(({ does }) => does !== 'nothing')
        .slice(0, 500)
        .map(({ line, key, does, words }) => ({ line, key, does, words })),
      faults: faults.slice(0, 200).map(({ line, what }) => ({ line, what })),
      applied,
    };
  });
}

/** A list as rows, in the columns that an import understands. */
export async function exportSheet(house: House, name: ImportName): Promise<Rows> {
  const { columns, known } = await sheetOf(house, name, '');
  return { columns, rows: known.map(({ cells }) => columns.map((column) => cells[column] ?? '')) };
}

async function sheetOf(house: House, name: ImportName, who: string): Promise<SheetOf<unknown>> {
  switch (name) {
    case 'people':
      return peopleSheet(house, who) as Promise<SheetOf<unknown>>;
    case 'assignments':
      return assignmentSheet(house, who) as Promise<SheetOf<unknown>>;
    case 'locations':
      return locationSheet(house, who) as Promise<SheetOf<unknown>>;
    case 'words': {
      const sheet = await wordSheet(house);
      return { ...sheet, write: (lines) => takeWordLines(house, lines as SheetLine<WordLine>[], who) };
    }
  }
}

/** What is wrong with a row, by column. */
function faultsOf(error: z.ZodError, columnOf: Readonly<Record<string, string>>): string[] {
  return error.issues.map(({ path, message }) => `${columnOf[String(path[0])] ?? String(path[0] ?? 'the line')} ${message}`);
}

const only = (cells: Readonly<Record<string, string>>, fields: Readonly<Record<string, string>>): Record<string, string> =>
  Object.fromEntries(Object.entries(fields).flatMap(([field, column]) => (column in cells ? [[field, cells[column]!]] : [])));

/** Puts ids where names stand. @returns what is in no list. */
function takeIds(said: Record<string, unknown>, fields: Readonly<Record<string, NamedCells>>): string[] {
  return Object.entries(fields).flatMap(([field, cells]) => {
    const cell = said[field];
    if (typeof cell !== 'string') return [];
    said[field] = cells.idOf(cell);
    return said[field] === undefined ? [cells.missing(cell)] : [];
  });
}

const PERSON: Readonly<Record<string, string>> = {
  ...{ code: 'code', name: 'name', given: 'given', family: 'family', kind: 'kind', email: 'e-mail', phone: 'phone' },
  ...{ address: 'address', web: 'web', creditLine: 'credit line', copyrightNotice: 'copyright notice', notes: 'notes' },
  ...{ minor: 'minor', termsId: 'terms' },
};

/** How a sheet says yes and no. */
const SAID_AS: Readonly<Record<string, boolean>> = { yes: true, no: false, '': false };

async function peopleSheet(house: House, who: string): Promise<SheetOf<z.infer<typeof NewContributor>>> {
  const terms = await namedCells(house, 'terms', PERSON['termsId']!);
  return {
    key: 'code',
    columns: Object.values(PERSON),
    fold: (code) => code.trim().toUpperCase(),
    known: terms.named(await contributorCells(house.db, PERSON)),
    read: (cells) => {
      const said: Record<string, unknown> = only(cells, PERSON);
      const missing = takeIds(said, { termsId: terms });
      if (missing.length) return missing;
      // A name in parts is a name.
      if (said['name'] === undefined || said['name'] === '')
        said['name'] = [said['given'], said['family']].filter(Boolean).join(' ');
      const minor = cells['minor'];
      if (minor !== undefined) said['minor'] = own(SAID_AS, minor.trim().toLowerCase()) ?? minor;
      const parsed = NewContributor.safeParse(said);
      return parsed.success ? parsed.data : faultsOf(parsed.error, PERSON);
    },
    write: each(async ({ code, ...said }, id) => {
      if (id === null) await makeContributor(house, { code, ...said }, who);
      else await changeContributor(house, id, ContributorChange.parse(said), who);
    }),
  };
}

const ASSIGNMENT: Readonly<Record<AssignmentCells, string>> = {
  ...{ slug: 'short name', title: 'title', code: 'code', from: 'first day', to: 'last day', place: 'place' },
  ...{ expectedCards: 'cards', description: 'description', contacts: 'contacts', embargoUntil: 'embargo until' },
  ...{ termsId: 'terms', locationId: 'location', words: 'words' },
};

async function assignmentSheet(house: House, who: string): Promise<SheetOf<z.infer<typeof NewAssignment>>> {
  const today = houseTime(house, house.clock()).slice(0, 10);
  const terms = await namedCells(house, 'terms', ASSIGNMENT.termsId);
  const locations = await namedCells(house, 'locations', ASSIGNMENT.locationId);
  return {
    key: 'short name',
    columns: Object.values(ASSIGNMENT),
    fold: (slug) => slug.trim().toLowerCase(),
    known: terms.named(locations.named(await assignmentCells(house.db, ASSIGNMENT))),
    read: (cells) => {
      const said: Record<string, unknown> = only(cells, ASSIGNMENT);
      const missing = takeIds(said, { termsId: terms, locationId: locations });
      if (missing.length) return missing;
      if (typeof said['words'] === 'string') said['words'] = parts(said['words']);
      said['from'] ??= today;
      if (said['to'] === undefined || said['to'] === '') said['to'] = said['from'];
      if (said['expectedCards'] !== undefined)
        said['expectedCards'] = said['expectedCards'] === '' ? 1 : Number(said['expectedCards']);
      if (said['embargoUntil'] === '') said['embargoUntil'] = null;
      const parsed = NewAssignment.safeParse(said);
      return parsed.success ? parsed.data : faultsOf(parsed.error, ASSIGNMENT);
    },
    write: each(async (said, id) => {
      if (id === null) await makeAssignment(house, said, who);
      else {
        const { expectedContributorIds: _ids, ...change } = said;
        await changeAssignment(house, id, AssignmentChange.parse(change), who);
      }
    }),
  };
}

const LOCATION: Readonly<Record<string, string>> = {
  ...{ name: 'name', part: 'part', town: 'town', region: 'region', country: 'country', lat: 'latitude', lon: 'longitude' },
  reachM: 'reach',
};

async function locationSheet(house: House, who: string): Promise<SheetOf<z.infer<typeof NewLocation>>> {
  const locations = await houseList(house.db, 'locations');
  const cell = (value: string | number | null) => (value === null ? '' : String(value));
  return {
    key: 'name',
    columns: Object.values(LOCATION),
    fold: (name) => name.trim().toLowerCase(),
    known: locations.map((location) => ({
      id: location.id,
      cells: Object.fromEntries(
        Object.entries(LOCATION).map(([field, column]) => [column, cell(location[field as keyof LocationView] as string)]),
      ),
    })),
    read: (cells) => {
      const said: Record<string, unknown> = only(cells, LOCATION);
      for (const field of ['lat', 'lon', 'reachM'])
        if (said[field] !== undefined)
          said[field] = said[field] === '' ? (field === 'reachM' ? 1000 : null) : Number(said[field]);
      const parsed = NewLocation.safeParse(said);
      return parsed.success ? parsed.data : faultsOf(parsed.error, LOCATION);
    },
    write: each(async (said, id) => {
      if (id === null) await addToList(house, 'locations', said, who);
      else await correctInList(house, 'locations', id, LIST_CHANGE.locations.parse(said), who);
    }),
  };
}
