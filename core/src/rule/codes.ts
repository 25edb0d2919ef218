import { slug } from './formats.js';

/** Contributor codes: two to four letters or digits, upper case, so that they are legal in any name. */
export const CODE_PATTERN = /^[A-Z0-9]{2,4}$/;

/** Slugs: lower case letters, digits and single hyphens, at most 60. */
export const SLUG_PATTERN = /^(?=.{1,60}$)[a-z0-9]+(?:-[a-z0-9]+)*$/;

const FILLERS = new Set(['the', 'a', 'an', 'of', 'and', 'at', 'in', 'for', 'day']);

/** Proposes a slug from a title, without filler words when something is left without them. */
export function proposeSlug(title: string): string {
  const words = slug(title).split('-').filter(Boolean);
  const telling = words.filter((word) => !FILLERS.has(word));
  return (telling.length ? telling : words).join('-').slice(0, 60).replace(/-+$/, '');
}

/** Proposes a free code from a name: initials, then longer beginnings, then a digit. `taken` holds codes in use. */
export function proposeCode(name: string, taken: ReadonlySet<string>): string {
  const words = slug(name).toUpperCase().split('-').filter(Boolean);
  const initials = words.map((word) => word[0]).join('');
  const last = words.at(-1) ?? '';
  const first = words[0] ?? '';
  const several = [initials.slice(0, 4), first.slice(0, 1) + last.slice(0, 2), first.slice(0, 1) + last.slice(0, 3)];
  const wishes = [...(words.length > 1 ? several : []), first.slice(0, 3), last.slice(0, 4)];
  for (let digit = 2; digit <= 99; digit++) wishes.push(`${initials.slice(0, digit > 9 ? 2 : 3)}${digit}`);
  return wishes.find((wish) => CODE_PATTERN.test(wish) && !taken.has(wish)) ?? '';
}
