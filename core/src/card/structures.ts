/**
 * The structures in which cameras, phones and recorders write, one entry each. How the loose ones are recognised is in
 * `loose.ts`, how the trees are in `trees.ts`. A structure that has to stay whole cannot be opened, or not as one, when
 * its files are renamed or parted.
 */
export interface Structure {
  readonly name: string;
  readonly title: string;
  /** How it is recognised, what belongs together. */
  readonly says: string;
  /** Is it kept as on the card unless the house says otherwise? Null: its files stand for themselves. */
  readonly whole: boolean | null;
  /** What renaming its clips costs. */
  readonly cost: string | null;
  /** Where it is published. */
  readonly source: string;
}

const PRACTICE = 'common practice, no source';

export const STRUCTURES = [
  {
    name: 'dcf',
    title: 'Camera folders',
    says: 'Same folder, same number: photo, raw, clip, sound note and thumbnail are one object. A name that begins with _ is the same exposure in another colour space.',
    whole: null,
    cost: null,
    source: 'CIPA DC-009 (DCF), from memory: objects by number, the underscore of the optional colour space, thumbnail files',
  },
  {
    name: 'phone',
    title: 'Phone',
    says: 'A still and its moving part; what was edited on the phone and its adjustment file; the raw beside the processed still (one time, other suffix); the members of a burst.',
    whole: null,
    cost: null,
    source: PRACTICE,
  },
  {
    name: 'chapters',
    title: 'Clips in chapters',
    says: 'A recording that the camera broke into numbered files, the chapter before or after the number of the clip, each with its small version and thumbnail; numbered time-lapse series.',
    whole: null,
    cost: null,
    source: PRACTICE,
  },
  {
    name: 'recorder',
    title: 'Sound recorder',
    says: 'The tracks of one take, told by the ends of their names, with the project file.',
    whole: null,
    cost: null,
    source: PRACTICE,
  },
  {
    name: 'avchd',
    title: 'AVCHD',
    says: 'A folder BDMV with STREAM, CLIPINF, PLAYLIST and the index. Streams that were broken at 2 or 4 GB are one recording.',
    whole: true,
    cost: 'players and editors cannot open it as one, and long recordings have gaps where they were broken',
    source: `folders as in the Blu-ray Disc read-only format, part 3 (from memory); ${PRACTICE}`,
  },
  {
    name: 'clip root',
    title: 'Clips with an index',
    says: 'A folder that ends in ROOT with CLIP, and beside it SUB, THMBNL and an index: clip, its description, small version and thumbnail.',
    whole: true,
    cost: 'the index and the descriptions name clips that are not called so any more',
    source: PRACTICE,
  },
  {
    name: 'contents',
    title: 'CONTENTS folders',
    says: 'A folder CONTENTS with picture, sound, small version, icon and description in folders side by side: one clip by its number.',
    whole: true,
    cost: 'picture and sound are found through each other by name: renamed, a clip is silent',
    source: PRACTICE,
  },
  {
    name: 'segments',
    title: 'Clips in segments',
    says: 'A folder for each clip (….RDC) inside one for the card (….RDM); _001, _002 are segments of one clip.',
    whole: true,
    cost: 'segments are found by their names: renamed, a clip ends after its first segment',
    source: PRACTICE,
  },
  {
    name: 'camera tree',
    title: 'Folders of a camera nobody here has seen',
    says: 'A folder with sub-folders of clips or sound, and beside these an index that belongs to none of them.',
    whole: true,
    cost: 'what the index says of them may be lost',
    source: PRACTICE,
  },
  {
    name: 'folder',
    title: 'A folder that somebody named',
    says: 'Files in a folder no camera makes: one may take or leave it at once.',
    whole: null,
    cost: null,
    source: PRACTICE,
  },
] as const satisfies readonly Structure[];

export type StructureName = (typeof STRUCTURES)[number]['name'];
export const STRUCTURE_NAMES = STRUCTURES.map(({ name }) => name) as [StructureName, ...StructureName[]];

/** Structures that a house can say *keep whole* or *rename clips* of. */
export const TREE_STRUCTURES = STRUCTURES.flatMap((one) => (one.whole === null ? [] : [one.name])) as [
  StructureName,
  ...StructureName[],
];

export const structureNamed = (name: StructureName): Structure => STRUCTURES.find((one) => one.name === name)!;
