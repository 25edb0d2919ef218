import { isFixed, type Atom } from './atoms.js';
import { sortOf } from './letters.js';

/** The end of a name, where every value ends. */
const END = 256;

/**
 * Which atoms of a level can be told apart in any name: those that can be cut off from the left, those that can be cut
 * off from the right, and all of them when no more than one is left in between. Never says too much: characters are
 * compared by their sort, so an atom that is not in the answer may still be readable.
 */
export function determinedAtoms(level: readonly Atom[]): Set<Atom> {
  const left = cutFrom(level, edgesFromLeft, END);
  const backwards = [...level].reverse();
  const right = cutFrom(backwards, edgesFromRight, END);
  if (left + right < level.length - 1) return new Set([...level.slice(0, left), ...backwards.slice(0, right)]);
  const between = level[left];
  if (left < level.length && between?.type === 'optional' && cutFrom(between.atoms, edgesFromLeft, END) < between.atoms.length) {
    return new Set(level.filter((atom) => atom !== between));
  }
  return new Set(level);
}

/** Is every atom of a level told apart in any name? */
export const isDetermined = (level: readonly Atom[]): boolean => determinedAtoms(level).size === level.length;

type Edge = (atom: Atom) => number;

/** How many atoms can be cut off one after the other; `beyond` is what may stand behind the last. */
function cutFrom(atoms: readonly Atom[], edge: Edge, beyond: number): number {
  for (const [index, atom] of atoms.entries()) {
    const next = firstOf(atoms.slice(index + 1), edge, beyond);
    if (atom.type === 'text' || atom.type === 'folder') continue;
    if (atom.type === 'optional') {
      const inside = edge === edgesFromRight ? [...atom.atoms].reverse() : atom.atoms;
      if (firstOf(inside, edge, 0) & next || cutFrom(inside, edge, next) < inside.length) return index;
    } else if (!isFixed(atom) && atom.letters.set & next) return index;
  }
  return atoms.length;
}

/** Sorts of characters with which these atoms can begin, seen from one side. */
function firstOf(atoms: readonly Atom[], edge: Edge, beyond: number): number {
  let sorts = 0;
  for (const atom of atoms) {
    sorts |= edge(atom);
    if (atom.type !== 'optional') return sorts;
  }
  return sorts | beyond;
}

function edgesFromLeft(atom: Atom): number {
  if (atom.type === 'text') return sortOf(atom.text[0]!);
  if (atom.type === 'value') return atom.letters.set;
  return atom.type === 'optional' ? firstOf(atom.atoms, edgesFromLeft, 0) : END;
}

function edgesFromRight(atom: Atom): number {
  if (atom.type === 'text') return sortOf(atom.text.at(-1)!);
  if (atom.type === 'value') return atom.letters.set;
  return atom.type === 'optional' ? firstOf([...atom.atoms].reverse(), edgesFromRight, 0) : END;
}
