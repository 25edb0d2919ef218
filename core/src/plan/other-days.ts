import { houseDay } from '../capture/index.js';
import { DEFAULT_SETTINGS, filedDay, renderFolder, type HouseRule } from '../rule/index.js';
import { contextOf, type PlanItem, type PlanSlip } from './items.js';

/** Items of a night, or of a later day of an assignment, that are filed under the day before or its first. */
export interface OtherDay {
  /** The day they are filed under, `yyyy-MM-dd`. */
  readonly day: string;
  readonly because: 'the day begins later' | 'the first day of the assignment';
  readonly itemIds: readonly number[];
}

/** Where the day an item is filed under makes a difference to its folder, day by day. */
export function otherDays(
  rule: HouseRule,
  slip: PlanSlip,
  groups: readonly { readonly lead: PlanItem; readonly members: readonly PlanItem[] }[],
): OtherDay[] {
  const plain: HouseRule = { ...rule, settings: { ...rule.settings, day: DEFAULT_SETTINGS.day } };
  const days = new Map<string, { day: string; because: OtherDay['because']; itemIds: number[] }>();
  for (const { lead, members } of groups) {
    const context = contextOf(members[0]!, lead, slip, null);
    const day = filedDay(context, rule.settings);
    if (day === context.captured.slice(0, 10) || renderFolder(rule, context) === renderFolder(plain, context)) continue;
    const because =
      day === houseDay(context.captured, rule.settings.day.begins) ? 'the day begins later' : 'the first day of the assignment';
    const known = days.get(`${day} ${because}`) ?? { day, because, itemIds: [] };
    known.itemIds.push(...members.map(({ id }) => id));
    days.set(`${day} ${because}`, known);
  }
  return [...days.values()].sort((a, b) => (a.day < b.day ? -1 : 1));
}
