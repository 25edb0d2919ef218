import type { Command } from 'commander';

/** The command `house`, which several rooms add to. */
export const houseCommandOf = (program: Command): Command =>
  program.commands.find((command) => command.name() === 'house') ?? program.command('house');
