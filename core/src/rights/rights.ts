/** Whoever signs in has one of these. */
export const ROLES = ['administrator', 'coordinator', 'helper', 'looker', 'hand-in'] as const;
export type Role = (typeof ROLES)[number];

/** What has to be done before anything else can be. */
export const MUSTS = ['choose a password', 'set up a second factor'] as const;

const EVERYBODY = ROLES;
const HOUSEFOLK = ['administrator', 'coordinator', 'helper', 'looker'] as const;
const DESK = ['administrator', 'coordinator', 'helper'] as const;
const ANSWERABLE = ['administrator', 'coordinator'] as const;
const ADMINISTRATOR = ['administrator'] as const;

/**
 * The table: what can be done here, and which roles may. What stands in no line, nobody may.
 * `docs/security.md` prints it; a test walks every route and command against it.
 */
export const DEEDS = {
  /** Send files of one's own, and see what became of them. */
  'hand in': EVERYBODY,
  /** See what is filed: shelf, logbook, pictures. */
  look: HOUSEFOLK,
  /** Make bundles and standing questions. */
  arrange: DESK,
  /** Take files and lists out of the house: packages, originals, tables. */
  fetch: DESK,
  /** See who is pictured, names of minors, camera serials and positions: they are about persons. */
  'see persons': DESK,
  /** See the desk: cards, places, contributors, what is expected. */
  'see the desk': DESK,
  /** Read a card, say what it is, take and leave, file. */
  file: DESK,
  /** Move cards between trays, lend, give back, print labels. */
  'hand over': DESK,
  /** Add a contributor, an assignment or a word that is not there yet. */
  add: DESK,
  /** Correct, retire, merge, import and export them; agreements. */
  'keep the lists': ANSWERABLE,
  /** Empty a card, restore one, let files go. */
  clear: ANSWERABLE,
  /** Change names and folders on the drive: mends, adopting, checks, the tray of what was put aside. */
  mend: ANSWERABLE,
  /** Make and end hand-in links. */
  invite: ANSWERABLE,
  /** Say what holds for the whole house: its credit, its places. */
  house: ADMINISTRATOR,
  /** Say how files are named. */
  rules: ADMINISTRATOR,
  /** Add, change and retire people who sign in; end their sessions. */
  accounts: ADMINISTRATOR,
  /** See and export what was recorded of all this. */
  audit: ADMINISTRATOR,
  /** Carry out a contributor's wish to be forgotten. */
  forget: ADMINISTRATOR,
} as const satisfies Readonly<Record<string, readonly Role[]>>;
export type Deed = keyof typeof DEEDS;

/** May somebody of this role do this? */
export const may = (role: Role, deed: Deed): boolean => (DEEDS[deed] as readonly Role[]).includes(role);

/** Everything that a role may do, in the order of the table. */
export const deedsOf = (role: Role): Deed[] => (Object.keys(DEEDS) as Deed[]).filter((deed) => may(role, deed));
