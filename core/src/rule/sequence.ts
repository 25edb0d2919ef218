import { filedDay } from './filed-day.js';
import { fieldNamed, type RuleContext } from './fields.js';
import type { HouseRule } from './house-rule.js';
import { missingWord } from './atoms.js';
import { foldName, mendValue } from './legal-name.js';
import { houseLetters } from './letters.js';
import type { RuleSettings } from './settings.js';

/** Scope of a sequence that runs per folder. */
export const folderScope = (folder: string): string => `folder:${foldName(folder)}`;

/**
 * The counter that an item draws its number from; null where numbers only tell equal names apart (`same name`): then the
 * first of its name has none, the next is 2.
 */
export function sequenceScope({ settings }: HouseRule, context: RuleContext, folder: string): string | null {
  const day = filedDay(context, settings);
  switch (settings.sequence.scope) {
    case 'folder':
      return folderScope(folder);
    case 'day':
      return `day:${day}`;
    case 'assignment':
      return `assignment:${context.assignment?.slug ?? ''}`;
    case 'intake':
      return `intake:${context.intake ?? ''}`;
    case 'contributor and day':
      return `contributor:${context.contributor?.code ?? ''}:${day}`;
    case 'camera and day':
      return `camera:${cameraAsWritten(context, settings)}:${day}`;
    case 'never ends':
      return 'house';
    case 'same name':
      return null;
  }
}

/** Two cameras whose names are one in a path share their numbers. */
function cameraAsWritten(context: RuleContext, settings: RuleSettings): string {
  const name = String(fieldNamed('camera')!.value(context, settings) ?? '');
  return foldName(mendValue(houseLetters(name, settings)) || missingWord(settings));
}
