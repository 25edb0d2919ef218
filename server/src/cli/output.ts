import Table from 'cli-table3';
import { AsyncLocalStorage } from 'node:async_hooks';

/** Exit codes: done, something needs attention, wrong use. */
export const EXIT = { done: 0, attention: 1, wrongUse: 2 } as const;

/** Wrong use of the command line, in words for the person who typed. */
export class WrongUse extends Error {}

/** Who is named in the log for what is done by commands. */
export const WHO = 'command line';

/** Where a command prints to. */
export interface Terminal {
  out(text: string): void;
  err(text: string): void;
}

const PROCESS: Terminal = { out: (text) => process.stdout.write(text), err: (text) => process.stderr.write(text) };
const others = new AsyncLocalStorage<Terminal>();
const terminal = (): Terminal => others.getStore() ?? PROCESS;

/** Runs something that prints elsewhere than to the streams of the process. */
export const printingTo = <T>(elsewhere: Terminal, run: () => T): T => others.run(elsewhere, run);

/** Text as it is. */
export const print = (text: string): void => terminal().out(text);
/** A line for people. */
export const say = (text: string): void => terminal().out(`${text}\n`);
/** A line about what went wrong. */
export const complain = (text: string): void => terminal().err(`${text}\n`);

/** One JSON object a line, for programs. */
export function jsonLine(value: unknown): void {
  say(JSON.stringify(value));
}

/** Text from a card as a terminal may show it: control characters could move the cursor or worse. */
export function printable(text: string): string {
  // eslint-disable-next-line no-control-regex -- control characters are what is replaced
  return text.replace(/[\u0000-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/g, '\uFFFD');
}

/** A table for people. */
export function table(head: readonly string[], rows: readonly (readonly (string | number | null)[])[]): void {
  const plain = {
    top: '',
    'top-mid': '',
    'top-left': '',
    'top-right': '',
    bottom: '',
    'bottom-mid': '',
    'bottom-left': '',
    'bottom-right': '',
  };
  const chars = { ...plain, left: '', 'left-mid': '', mid: '', 'mid-mid': '', right: '', 'right-mid': '', middle: '  ' };
  const out = new Table({ head: [...head], chars, style: { head: [], border: [], 'padding-left': 0, 'padding-right': 0 } });
  for (const row of rows) out.push(row.map((cell) => printable(String(cell ?? ''))));
  say(out.toString());
}
