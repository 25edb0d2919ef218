import { z } from 'zod';

/** What is dragged across the page: files that are filed, or a folder with all that is filed in it. */
const Dragged = z.union([
  z.object({ itemIds: z.array(z.number().int().positive()).min(1), folder: z.undefined().optional() }),
  z.object({ folder: z.string().min(1) }),
]);
export type Dragged = z.infer<typeof Dragged>;

/** Something was let go over a folder. */
export interface Dropped {
  readonly what: Dragged;
  readonly onto: string;
}

const TYPE = 'application/x-tally-filed';

export function drag(event: DragEvent, what: Dragged): void {
  event.dataTransfer?.setData(TYPE, JSON.stringify(what));
  if (event.dataTransfer) event.dataTransfer.effectAllowed = 'move';
}

/** Is something of ours held over it? */
export const isDragged = (event: DragEvent): boolean => event.dataTransfer?.types.includes(TYPE) ?? false;

/** null: what was let go is nothing of ours. */
export function draggedIn(event: DragEvent): Dragged | null {
  const text = event.dataTransfer?.getData(TYPE);
  const said = text ? Dragged.safeParse(JSON.parse(text)) : null;
  return said?.success ? said.data : null;
}
