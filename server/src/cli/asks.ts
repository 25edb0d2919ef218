import type { Command } from 'commander';
import { may, type Deed, type Role } from '@tally/core/rights';
import { WrongUse } from './output.js';

/**
 * What each command is, in the words of the table of rights. The command line works as one role, which the settings of its
 * station say (`commandLine`): whoever may read those has the database, so that it keeps scripts and slips of the hand from
 * more than they are for, and nobody who means it. A test walks all commands against this.
 */
export const COMMAND_ASKS = {
  read: 'file',
  readers: 'see the desk',
  plan: 'see the desk',
  file: 'file',
  receive: 'file',
  look: 'file',
  take: 'file',
  leave: 'file',
  split: 'file',
  judge: 'file',
  clock: 'file',
  previews: 'file',
  pause: 'file',
  'go-on': 'file',
  stop: 'file',
  aside: 'file',
  'house recount': 'house',
  tally: 'see the desk',
  original: 'fetch',
  credit: 'file',
  receipt: 'fetch',
  clearance: 'see the desk',
  clear: 'clear',
  pull: 'file',
  restore: 'clear',
  trays: 'see the desk',
  move: 'hand over',
  lending: 'see the desk',
  lend: 'hand over',
  back: 'hand over',
  thing: 'hand over',
  labels: 'hand over',
  find: 'look',
  fetch: 'fetch',
  figures: 'look',
  'bundle list': 'look',
  'bundle make': 'arrange',
  'bundle add': 'arrange',
  'bundle without': 'arrange',
  'bundle rename': 'arrange',
  'bundle put': 'arrange',
  'bundle remove': 'arrange',
  'standing list': 'look',
  'standing keep': 'arrange',
  'standing seen': 'arrange',
  'standing remove': 'arrange',
  log: 'look',
  places: 'see the desk',
  fill: 'file',
  contributor: 'keep the lists',
  forget: 'forget',
  assignment: 'keep the lists',
  'people list': 'see the desk',
  'people export': 'keep the lists',
  'people import': 'keep the lists',
  'people merge': 'keep the lists',
  'assignments list': 'see the desk',
  'assignments export': 'keep the lists',
  'assignments import': 'keep the lists',
  'assignments merge': 'keep the lists',
  'locations list': 'see the desk',
  'locations export': 'keep the lists',
  'locations import': 'keep the lists',
  'locations merge': 'keep the lists',
  'words list': 'see the desk',
  'words export': 'keep the lists',
  'words import': 'keep the lists',
  'words merge': 'keep the lists',
  'habit list': 'see the desk',
  'habit add': 'file',
  'habit change': 'file',
  'habit retire': 'file',
  'habit back': 'file',
  'drive check': 'mend',
  'drive known': 'house',
  'drive strays': 'see the desk',
  'drive adopt': 'mend',
  'drive mend': 'mend',
  'drive re-file': 'mend',
  'drive move': 'mend',
  'drive put-aside': 'mend',
  'drive take-back': 'mend',
  'drive mends': 'see the desk',
  'drive empty-tray': 'mend',
  'drive stop': 'mend',
  'drive go-on': 'mend',
  'drive where': 'look',
  'person list': 'accounts',
  'person add': 'accounts',
  'person change': 'accounts',
  'person retire': 'accounts',
  'person put-back': 'accounts',
  'person code': 'accounts',
  'person sign-out': 'accounts',
  'link make': 'invite',
  'link list': 'invite',
  'link end': 'invite',
  backup: 'house',
  'bring-back': 'house',
  rebuild: 'house',
  audit: 'audit',
  'rule check': 'see the desk',
  'rule render': 'see the desk',
  'rule read': 'see the desk',
  'rule save': 'rules',
  'rule export': 'see the desk',
  'rule list': 'see the desk',
} as const satisfies Readonly<Record<string, Deed>>;

/** `drive check`: what was typed, without what it is of. */
export function nameOfCommand(command: Command): string {
  const above = command.parent;
  return above?.parent ? `${nameOfCommand(above)} ${command.name()}` : command.name();
}

/** @throws WrongUse when a command is for others than the role that this station's command line has. */
export function mustBeAllowed(name: string, role: Role): void {
  const deed = deedOfCommand(name);
  if (deed === null || !may(role, deed))
    throw new WrongUse(`At this station the command line works as a ${role}, who may not do this (${deed ?? 'nobody may'}).`);
}

export const deedOfCommand = (name: string): Deed | null => (COMMAND_ASKS as Readonly<Record<string, Deed>>)[name] ?? null;
