import type { LabelsQuery } from '@tally/contract';
import { labelsPdf } from '../paper/labels.js';
import { type House, nextLabel } from '../house/index.js';

/** Labels to stick on cards: those that were asked for, or the next free ones. New ones are not given away by printing. */
export async function labelsFor(house: House, ask: LabelsQuery): Promise<Buffer> {
  const labels = ask.labels ?? (await nextLabels(house, ask.count ?? 1));
  return labelsPdf(labels, house.settings.house, ask.form, ask.skip);
}

async function nextLabels(house: House, count: number): Promise<string[]> {
  const first = Number((await nextLabel(house.db)).slice(2));
  return Array.from({ length: count }, (_, index) => `C-${String(first + index).padStart(3, '0')}`);
}
