// What the tools say to the person who started them.
export const say = (text) => console.log(text);
/** How far it is: beside the answer, which another program may read. */
export const step = (text) => console.error(`· ${text}`);

/** Ends the run with a plain word and no stack. */
export function giveUp(text) {
  console.error(`\n${text}\n`);
  process.exit(1);
}
