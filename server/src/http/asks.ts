import type { Deed } from '@tally/core/rights';

/**
 * What each route is, in the words of the table of rights. Everything else below /api, but health, signing in and opening a
 * link, is there for nobody: a test walks all routes of all rooms against this.
 */
export const ASKS = {
  'GET /hand-in/choices': 'hand in',
  'POST /hand-in': 'hand in',
  'GET /hand-in/:id': 'hand in',
  'POST /hand-in/:id/done': 'hand in',
  'POST /uploads': 'hand in',
  'OPTIONS /uploads': 'hand in',
  'HEAD /uploads/:upload': 'hand in',
  'GET /uploads/:upload': 'hand in',
  'PATCH /uploads/:upload': 'hand in',
  'DELETE /uploads/:upload': 'hand in',
  'OPTIONS /uploads/:upload': 'hand in',

  'GET /live': 'look',
  'GET /intakes': 'look',
  'GET /intakes/calendar': 'look',
  'GET /intakes/:id': 'look',
  'GET /intakes/:id/items': 'look',
  'GET /intakes/:id/events': 'look',
  'GET /intakes/:id/credit': 'look',
  'GET /intakes/:id/bundles': 'look',
  'GET /intakes/:id/receipts': 'look',
  'GET /items/:id/picture/:size': 'look',
  'GET /items/:id/picture/full': 'look',
  'GET /items/:id/media/:version': 'look',
  'GET /items/:id/wave': 'look',
  'GET /shelf': 'look',
  'GET /shelf/made-of': 'look',
  'GET /shelf/question': 'look',
  'GET /shelf/items/:id/alike': 'look',
  'GET /shelf/items/:id/where': 'look',
  'GET /figures': 'look',
  'GET /bundles': 'look',
  'GET /standing': 'look',
  'GET /leads-to': 'look',
  'GET /places': 'look',
  'GET /contributors': 'look',
  'GET /assignments': 'look',
  'GET /lists/:list': 'look',
  'GET /words': 'look',
  'GET /lists/pictured': 'see persons',

  'POST /bundles': 'arrange',
  'PATCH /bundles/:id': 'arrange',
  'DELETE /bundles/:id': 'arrange',
  'POST /bundles/:id/items': 'arrange',
  'PATCH /bundles/:id/without': 'arrange',
  'PATCH /bundles/:id/order': 'arrange',
  'PUT /intakes/:id/bundles': 'arrange',
  'POST /standing': 'arrange',
  'PATCH /standing/:id': 'arrange',
  'DELETE /standing/:id': 'arrange',
  'POST /standing/:id/seen': 'arrange',

  'GET /shelf/fetch.zip': 'fetch',
  'POST /shelf/fetch/before': 'fetch',
  'GET /shelf/list.csv': 'fetch',
  'GET /shelf/list.tsv': 'fetch',
  'GET /figures.csv': 'fetch',
  'GET /intakes/export.csv': 'fetch',
  'GET /intakes/export.tsv': 'fetch',
  'GET /items/:id/file': 'fetch',
  'GET /items/:id/original': 'fetch',
  'GET /intakes/:id/receipt.pdf': 'fetch',
  'GET /intakes/:id/receipts/:name': 'fetch',

  'GET /items/:id/details': 'see persons',
  'GET /items/:id/written': 'see persons',
  'GET /intakes/:id/bodies': 'see persons',
  'GET /lists/pictured/:id/shown': 'see persons',

  'GET /desk': 'see the desk',
  'GET /contributors/:id': 'see the desk',
  'GET /assignments/:id': 'see the desk',
  'GET /intakes/:id/plan': 'see the desk',
  'GET /intakes/:id/copies': 'see the desk',
  'GET /intakes/:id/clearance': 'see the desk',
  'GET /rules': 'see the desk',
  'GET /rules/material': 'see the desk',
  'GET /house-credit': 'see the desk',
  'GET /words/list': 'see the desk',
  'GET /things': 'see the desk',
  'GET /things/:kind/:id/loans': 'see the desk',
  'GET /labels/next': 'see the desk',
  'GET /growth': 'see the desk',
  'GET /mends': 'see the desk',
  'GET /mends/:id/back': 'see the desk',
  'GET /places/:place/findings': 'see the desk',
  'GET /places/:place/folder': 'see the desk',
  'GET /places/:place/found': 'see the desk',
  'GET /places/:place/says': 'see the desk',
  'GET /places/:place/state': 'see the desk',
  'GET /places/:place/tree': 'see the desk',

  'PATCH /intakes/:id/slip': 'file',
  'PATCH /intakes/:id/taken': 'file',
  'PATCH /intakes/:id/aside': 'file',
  'PATCH /intakes/:id/belongs': 'file',
  'PATCH /intakes/:id/clock': 'file',
  'PATCH /intakes/:id/judged': 'file',
  'POST /intakes/:id/track': 'file',
  'POST /intakes/:id/here': 'file',
  'POST /intakes/:id/file': 'file',
  'POST /intakes/:id/halt': 'file',
  'POST /intakes/:id/again': 'file',
  'POST /intakes/:id/let-go': 'file',
  'PATCH /credit': 'file',
  'PATCH /shelf/judged': 'file',

  'POST /cards/:id/move': 'hand over',
  'POST /intakes/:id/give-back': 'hand over',
  'POST /intakes/:id/not-given-back': 'hand over',
  'POST /loans': 'hand over',
  'POST /loans/back': 'hand over',
  'POST /things': 'hand over',
  'POST /scans': 'hand over',
  'GET /labels.pdf': 'hand over',

  'POST /contributors': 'add',
  'POST /assignments': 'add',
  'POST /assignments/unsorted': 'add',
  'POST /words': 'add',
  'POST /lists/:list': 'add',
  'POST /lists/terms': 'keep the lists',

  'PATCH /contributors/:id': 'keep the lists',
  'PATCH /assignments/:id': 'keep the lists',
  'POST /contributors/:id/merge': 'keep the lists',
  'POST /assignments/:id/merge': 'keep the lists',
  'POST /contributors/:id/agreements': 'keep the lists',
  'PATCH /agreements/:id': 'keep the lists',
  'DELETE /agreements/:id': 'keep the lists',
  'PUT /agreements/:id/scan': 'keep the lists',
  'GET /agreements/:id/scan': 'keep the lists',
  'PATCH /lists/:list/:id': 'keep the lists',
  'POST /lists/:list/:id/merge': 'keep the lists',
  'PATCH /words/:id': 'keep the lists',
  'PUT /words/:id': 'keep the lists',
  'POST /words/:id/merge': 'keep the lists',
  'GET /words/export.ttl': 'keep the lists',
  'GET /export/:what': 'keep the lists',
  'POST /import/:what': 'keep the lists',

  'POST /intakes/:id/clear': 'clear',
  'POST /intakes/:id/restore': 'clear',

  'POST /mends': 'mend',
  'POST /mends/plan': 'mend',
  'POST /mends/:id/again': 'mend',
  'POST /mends/:id/back': 'mend',
  'POST /places/:place/adopt': 'mend',
  'POST /places/:place/check': 'mend',
  'POST /places/:place/known': 'house',
  'GET /rebuild': 'house',
  'POST /rebuild': 'house',
  'DELETE /checks/:id': 'mend',
  'DELETE /adoptions/:id': 'mend',
  'POST /adoptions/:id/again': 'mend',

  'GET /links': 'invite',
  'POST /links': 'invite',
  'DELETE /links/:id': 'invite',

  'PATCH /house-credit': 'house',
  'POST /rules': 'rules',

  'GET /accounts': 'accounts',
  'POST /accounts': 'accounts',
  'GET /accounts/:id': 'accounts',
  'PATCH /accounts/:id': 'accounts',
  'POST /accounts/:id/code': 'accounts',
  'GET /accounts/:id/sessions': 'accounts',
  'DELETE /accounts/:id/sessions': 'accounts',
  'DELETE /accounts/:id/sessions/:session': 'accounts',

  'POST /contributors/:id/forget': 'forget',

  'GET /audit': 'audit',
  'GET /audit.csv': 'audit',
  'GET /audit/verify': 'audit',
} as const satisfies Readonly<Record<string, Deed>>;

interface Line {
  readonly parts: readonly string[];
  readonly deed: Deed;
}

const BY_METHOD = new Map<string, Line[]>();
for (const [route, deed] of Object.entries(ASKS)) {
  const [method, path] = route.split(' ') as [string, string];
  BY_METHOD.set(method, [...(BY_METHOD.get(method) ?? []), { parts: path.split('/'), deed }]);
}

/** How many parts of a line stand for themselves: the more, the nearer it is to what was asked. */
const plainness = ({ parts }: Line) => parts.filter((part) => !part.startsWith(':')).length;
for (const lines of BY_METHOD.values()) lines.sort((a, b) => plainness(b) - plainness(a));

/** What a request is, by its method and its path below /api; null: there is no such thing. Case counts, as for the router's parts. */
export function deedOf(method: string, path: string): Deed | null {
  const asked = path.replace(/\/+$/, '').toLowerCase().split('/');
  const fits = ({ parts }: Line) =>
    parts.length === asked.length && parts.every((part, i) => (part.startsWith(':') ? asked[i] !== '' : part === asked[i]));
  const lines = BY_METHOD.get(method) ?? [];
  const found = lines.find(fits);
  // Who may get something may be told its headers.
  return found?.deed ?? (method === 'HEAD' ? deedOf('GET', path) : null);
}
