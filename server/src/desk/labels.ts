import type { LabelsQuery } from '@tally/contract';
import { labelsPdf } from '../paper/labels.js';
import { nextLabel, newestOfLabel } from '../store/intakes.js';
import { Refusal, type House } from './house.js';

/** Labels to stick on cards: those that were asked for, or the next free ones. New ones are not given away by printing. */
export async function labelsFor(house: House, ask: LabelsQuery): Promise<Buffer> {
  const labels = ask.labels ?? (await nextLabels(house, ask.count ?? 1));
  return labelsPdf(labels, house.settings.house, ask.form, ask.skip);
}

async function nextLabels(house: House, count: number): Promise<string[]> {
  const first = Number((await nextLabel(house.db)).slice(2));
  return Array.from({ length: count }, (_, index) => `C-${String(first + index).padStart(3, '0')}`);
}

/** The newest intake of the card with this label: what a scan of the label means. @throws Refusal when no card has it. */
export async function intakeOfLabel(house: House, label: string): Promise<number> {
  const id = await newestOfLabel(house.db, label);
  if (id === null) throw new Refusal('not found', `No card has the label ${label}.`);
  return id;
}
