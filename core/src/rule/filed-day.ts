import { houseDay, MIDNIGHT } from '../capture/index.js';
import type { RuleContext } from './fields.js';
import type { RuleSettings } from './settings.js';

/**
 * The day an item is filed under: that of the house, whose day may begin at another hour than midnight, or the first of
 * an assignment of several days where the house files it together. @returns `yyyy-MM-dd`.
 */
export function filedDay({ captured, assignment }: Pick<RuleContext, 'captured' | 'assignment'>, { day }: RuleSettings): string {
  const own = houseDay(captured, day.begins);
  const from = assignment?.from;
  if (day.assignment !== 'first day' || !from) return own;
  return from <= own && own <= (assignment.to ?? from) ? from : own;
}

/** An item as folders speak of it: taken on the day it is filed under. Its file name says when it was taken. */
export function underItsDay(context: RuleContext, settings: RuleSettings): RuleContext {
  const day = filedDay(context, settings);
  return day === context.captured.slice(0, 10) ? context : { ...context, captured: `${day}${context.captured.slice(10)}` };
}

/** Can a folder bear another day than the names in it? */
export const mayDifferInDay = ({ day }: RuleSettings): boolean => day.begins !== MIDNIGHT || day.assignment === 'first day';
