import { EXIT, jsonLine, say, table, WrongUse } from '../cli/output.js';
import { formatBytes } from '@tally/core/logbook';
import { fillPlace } from './fill-place.js';
import type { House } from '../house/index.js';
import { writeManifests } from '../proving/index.js';
import { placeViews } from '../driving/index.js';

/** `tally places`: how every place stands, what it holds and what it waits for. */
export async function placesCommand(house: House, options: { json?: boolean }): Promise<number> {
  const places = await placeViews(house);
  if (options.json) places.forEach(jsonLine);
  else
    table(
      ['place', 'kind', 'now', 'free', 'holds', 'waits for', 'at risk'],
      places.map((place) => [
        ...[place.name, `${place.kind}, ${place.required ? 'required' : 'wished'}`, place.problem ?? 'here'],
        ...[place.freeBytes === null ? '' : formatBytes(place.freeBytes), `${place.copies} (${formatBytes(place.bytes)})`],
        place.waiting.copies ? `${place.waiting.copies} (${formatBytes(place.waiting.bytes)})` : 'nothing',
        place.waiting.hoursAtRisk ? `at most ${place.waiting.hoursAtRisk} h` : '',
      ]),
    );
  return places.some((place) => place.required && (!place.online || place.waiting.copies)) ? EXIT.attention : EXIT.done;
}

/** `tally fill [PLACE…]`: makes the copies that places wait for, from copies that tally, and writes what is due beside them. */
export async function fillCommand(
  house: House,
  wanted: readonly string[],
  options: { json?: boolean },
  signal: AbortSignal,
): Promise<number> {
  const places = await placeViews(house);
  const unknown = wanted.find((id) => !places.some((place) => place.id === id));
  if (unknown !== undefined)
    throw new WrongUse(`There is no place ${unknown}. Places: ${places.map(({ id }) => id).join(', ')}.`);
  let trouble = false;
  for (const place of places.filter(({ id, waiting }) => (wanted.length ? wanted.includes(id) : waiting.copies > 0))) {
    const filled = place.online ? await fillPlace(house, place.id, signal) : null;
    if (options.json) jsonLine({ place: place.id, ...(filled ?? { problem: place.problem }) });
    else if (filled) {
      say(`${place.name}: ${filled.copies} copies made (${formatBytes(filled.bytes)}).`);
      for (const problem of new Set(filled.problems)) say(`  ${problem}`);
    } else say(`${place.name} is away: ${place.problem}`);
    if (!filled || filled.problems.length) trouble = true;
  }
  await writeManifests(house, signal);
  return trouble || signal.aborted ? EXIT.attention : EXIT.done;
}
