import { atomsOf } from './atoms.js';
import { allLines, linesOfCard, type HouseRule, type Lines } from './house-rule.js';
import { mendName, nameFaults } from './legal-name.js';
import { fails, holds, type Verdict } from './verdict.js';

/** Values are mended before they become part of a name, so only the rule's own text can be illegal. */
export function legalEverywhere(rule: HouseRule): Verdict {
  for (const lines of [...allLines(rule).map((one) => one.lines), linesOfCard(rule)]) {
    for (const level of rawLevels(lines, rule)) {
      const faults = nameFaults(level.text).filter((fault) => !fault.includes('NFC'));
      if (!faults.length) continue;
      return fails(
        'legal everywhere',
        `The rule's own text makes a name that some system refuses: ${faults.join(', ')}.`,
        { of: 'as the rule says', path: level.text },
        { of: 'as it would have to be', path: mendName(level.text) },
      );
    }
  }
  return holds(
    'legal everywhere',
    'Its own text is legal on Windows and SMB, exFAT, macOS and Linux; values are mended before they are used.',
  );
}

/** What a rule writes with all optional parts and with none, values as harmless as can be. */
function rawLevels(lines: Lines, rule: HouseRule): { text: string }[] {
  const write = (pieces: Lines['folderLine'], optional: boolean): string =>
    pieces
      .map((piece) => {
        if (piece.type === 'text') return piece.text;
        if (piece.type === 'optional') return optional ? write(piece.pieces, optional) : '';
        return rawValue(piece, rule);
      })
      .join('');
  return [true, false].flatMap((optional) => [
    ...write(lines.folderLine, optional)
      .split('/')
      .filter((part) => part !== '')
      .map((text) => ({ text })),
    { text: `${write(lines.fileLine, optional) || '_'}.jpg` },
  ]);
}

function rawValue(piece: Extract<Lines['folderLine'][number], { type: 'field' }>, rule: HouseRule): string {
  const atoms = atomsOf([piece], rule.settings);
  if (!atoms.some((atom) => atom.type === 'value' && atom.part)) return 'x1';
  return writeRaw(piece.format ?? 'yyyy-MM-dd');
}

// A date pattern's letters become digits, its text stays.
const writeRaw = (pattern: string) => pattern.replace(/'([^']*)'|([A-Za-z])+/g, (_, text: string | undefined) => text ?? '1');
