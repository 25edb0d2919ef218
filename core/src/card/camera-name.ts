/**
 * A camera as people say it: the make is not said twice where the model begins with it (`Plover` and `Plover 3`).
 * Empty when neither is known.
 */
export function cameraName({ make, model }: { readonly make: string | null; readonly model: string | null }): string {
  const [a, b] = [make?.trim() ?? '', model?.trim() ?? ''];
  if (!a || !b) return a || b;
  return b.toLowerCase() === a.toLowerCase() || b.toLowerCase().startsWith(`${a.toLowerCase()} `) ? b : `${a} ${b}`;
}
