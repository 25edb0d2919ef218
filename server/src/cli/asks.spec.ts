import { describe, expect, it } from '@jest/globals';
import { may, ROLES } from '@tally/core/rights';
import { Command } from 'commander';
import { addAllCommands } from '../tally.js';
import { COMMAND_ASKS, deedOfCommand, mustBeAllowed, nameOfCommand } from './asks.js';
import type { Frame } from './frame.js';
import type { House } from '../house/index.js';

/** Every command of every room, by name. */
function allCommands(): string[] {
  const program = new Command('tally');
  addAllCommands(program, {} as Frame<House>);
  const of = (command: Command): string[] => (command.commands.length ? command.commands.flatMap(of) : [nameOfCommand(command)]);
  return of(program);
}

describe('the command line asks the table of rights', () => {
  it('for every command there is, and for none that is not', () => {
    expect(Object.keys(COMMAND_ASKS).sort()).toEqual(allCommands().sort());
  });

  it.each(ROLES.map((role) => [role]))('as a %s', (role) => {
    for (const name of allCommands()) {
      const ask = () => mustBeAllowed(name, role);
      if (may(role, deedOfCommand(name)!)) expect(ask).not.toThrow();
      else expect(ask).toThrow(`works as a ${role}`);
    }
  });

  it('what stands in no line, nobody may', () => {
    expect(() => mustBeAllowed('new thing', 'administrator')).toThrow('nobody may');
  });
});
