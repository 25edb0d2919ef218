import { WrongUse } from '../cli/output.js';
import { LabelsQuery } from '@tally/contract';
import { resolve } from 'node:path';
import { labelsFor } from './labels.js';
import { write } from '../cli/write-file.js';
import type { House } from '../house/index.js';

/** `tally labels [LABEL…] [--count N] [--form sheet|tape] [--skip N] [--out FILE]`: labels for cards, with a bar code each. */
export async function labelsCommand(
  house: House,
  labels: readonly string[],
  options: { count?: string; form: string; skip: string; out?: string },
): Promise<number> {
  const { out, ...rest } = options;
  const query = LabelsQuery.safeParse({ ...rest, ...(labels.length ? { labels: labels.join(',') } : {}) });
  if (!query.success)
    throw new WrongUse(query.error.issues.map(({ path, message }) => `${path.join('.')} ${message}`.trim()).join('\n'));
  return write(resolve(out ?? 'labels.pdf'), await labelsFor(house, query.data));
}
