// What the tools say to the person who started them.
export const say = (text) => console.log(text);
export const step = (text) => console.log(`· ${text}`);

/** Ends the run with a plain word and no stack. */
export function giveUp(text) {
  console.error(`\n${text}\n`);
  process.exit(1);
}
