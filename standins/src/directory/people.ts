/** Somebody in the directory of the demonstration's house, and the groups they are in there. */
export interface InDirectory {
  readonly name: string;
  readonly password: string;
  readonly groups: readonly string[];
}

/** Made up, as everybody here. */
export const DIRECTORY: readonly InDirectory[] = [
  { name: 'mara.quill', password: 'salt-on-the-sill', groups: ['media desk', 'staff'] },
  { name: 'pim.sedge', password: 'otters-after-dark', groups: ['volunteers'] },
  { name: 'roan.tidewell', password: 'no-way-in-here', groups: ['kitchen'] },
];

/** What the house's server is to the directory. */
export const CLIENT = { id: 'tally-stick', secret: 'a-secret-of-the-demonstration' } as const;
