/** Fields of answers that are about persons, and what stands there for whoever may not see them. */
const OF_PERSONS: Readonly<Record<string, unknown>> = { serial: null, position: null, pictured: [], cameras: [] };

/**
 * Does a value look like what such a field holds? A hand-in's files have a `position`, too: a number in a list; and cameras
 * are somebody's where they are named by their serials (texts), not where models are counted.
 */
function isOfPersons(key: string, value: unknown): boolean {
  if (!Object.hasOwn(OF_PERSONS, key) || typeof value === 'number') return false;
  return key !== 'cameras' || (Array.isArray(value) && value.every((one) => typeof one === 'string'));
}

/**
 * The same answer without what is about persons: camera serials, positions, who is pictured. Nothing else changes, and
 * what is given is not touched. @param say how each text is said, see `withholding`
 */
export function veiled(answer: unknown, say: (text: string) => string = (text) => text): unknown {
  if (typeof answer === 'string') return say(answer);
  if (Array.isArray(answer)) return answer.map((one) => veiled(one, say));
  if (typeof answer !== 'object' || answer === null) return answer;
  return Object.fromEntries(
    Object.entries(answer).map(([key, value]) => [key, isOfPersons(key, value) ? OF_PERSONS[key] : veiled(value, say)]),
  );
}
